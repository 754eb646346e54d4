"""The ties that are found are the engine's own, whatever the ORDER BY looks like.

Held against a slow comparison: the rows come with what each sort key means beside them, and every
two rows that stand next to each other change places exactly where the engine calls all their keys
the same.
"""

from __future__ import annotations

from collections import Counter
from itertools import product
from typing import Any, NamedTuple

import apsw
import pytest

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import QueryFailure
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.grading.expectations import expect
from jentrow.core.samples.sources import DatasetSource

TABLES = """
CREATE TABLE gauges (id INTEGER PRIMARY KEY, name TEXT COLLATE NOCASE, basin INTEGER, level REAL,
    built TEXT, "any" INTEGER, fetch TEXT, "two words" INTEGER);
CREATE TABLE readings (gauge INTEGER, flow, note TEXT);
"""
DATASETS = [
    """INSERT INTO gauges VALUES
        (1, 'Auwehr', 1, 1.5, '2024-01-05', 1, 'b', 2), (2, 'auwehr', 2, 1.5, '2024-09-09', 2, 'a', 2),
        (3, 'Brugg', 1, NULL, '2023-02-03', 1, 'b', 1), (4, 'brugg', 2, 2.5, '2024', 1, 'B', 1),
        (5, NULL, 1, 2.5, NULL, 2, NULL, 3), (6, 'Cham', 3, 0.5, '2023-12-31', 3, 'a', 3),
        (7, 'Auwehr', 1, 1.5, '2024-01-05', 1, 'b', 2), (8, 'Dorf', NULL, 0.5, '2024-01-06', 3, 'c', 1);
    INSERT INTO readings VALUES (1, 1, 'x'), (1, 1.0, 'X'), (2, 2, 'x'), (4, '2', NULL), (4, 2.0, 'y'),
        (6, NULL, 'y'), (8, x'02', 'z');""",
    """INSERT INTO gauges VALUES
        (9, 'Elm', 0, 0, '2020-02-29', 0, '', 0), (3, 'elm', 0, -0.0, '2020-02-29', 0, ' ', 0),
        (5, 'ELM', 0, 0, '2021-02-28', 0, '', 1), (4, 'Elm ', 1, -1, '2020', 1, 'é', 1),
        (1, 'Äule', 1, 1e20, '2020-12-31', 1, 'É', 0), (2, 'äule', -1, 1e20, NULL, NULL, NULL, NULL);
    INSERT INTO readings VALUES (9, 7, ''), (3, 7, ' '), (5, 70, ''), (1, 7.0, NULL), (2, -7, 'q');""",
]


class Key(NamedTuple):
    """A sort key as it is written, what it means as an expression, and its collation."""

    text: str
    means: str
    collation: str = "BINARY"


class Shape(NamedTuple):
    items: str
    rest: str
    keys: list[Key]
    distinct: bool = False


K = Key
NAME = K("name", "gauges.name", "NOCASE")
PLAIN = [
    NAME, K("gauges.name", "gauges.name", "NOCASE"), K("NAME", "gauges.name", "NOCASE"),
    K("name COLLATE BINARY", "gauges.name"), K('"name"', "gauges.name", "NOCASE"),
    K("[name] collate rtrim", "gauges.name", "RTRIM"), K("(level)", "level"), K("level * 2", "level"),
    K("-level", "level"), K("CAST(level AS INTEGER)", "CAST(level AS INTEGER)"),
    K("CAST(built AS DATE)", "CAST(built AS NUMERIC)"), K("CAST(built AS INT)", "CAST(built AS INT)"),
    K("CAST(level AS UNSIGNED BIG INT)", "CAST(level AS INTEGER)"), K("any", '"any"'),
    K("fetch", "fetch"), K('"two words"', '"two words"'), K("substr(built, 1, 4)", "substr(built, 1, 4)"),
    K("upper(name)", "upper(name)"), K("name || ''", "name || ''"), K("'a constant'", "1"),
    K("level IS NULL", "level IS NULL"), K("coalesce(level, 0)", "coalesce(level, 0)"),
    K("CASE WHEN basin = 1 THEN 0 ELSE 1 END", "basin IS NOT 1"), K("basin IN (1, 2)", "basin IN (1, 2)"),
    K("(SELECT count(*) FROM readings AS r WHERE r.gauge = gauges.id)",
      "(SELECT count(*) FROM readings AS r WHERE r.gauge = gauges.id)"),
    K("(SELECT max(flow) FROM readings ORDER BY 1 LIMIT 1)", "1"), K("level BETWEEN 1 AND 2", "level BETWEEN 1 AND 2"),
    K("basin % 2 -- odd\n", "basin % 2"), K("/* by */ basin", "basin"), K("name LIKE 'a%'", "name LIKE 'a%'"),
    K("round(level)", "round(level)"), K("built > '2024'", "built > '2024'"), K("basin IS 1", "basin IS 1"),
    K("NOT basin", "NOT basin"), K("basin = 1 OR level = 0.5", "basin = 1 OR level = 0.5"),
]  # fmt: skip
SHAPES = {
    "plain": Shape("id, name", "FROM gauges", PLAIN),
    "hidden keys": Shape("basin", "FROM gauges -- basin, ORDER BY nothing\n", PLAIN),
    "star": Shape("*", "FROM gauges", [*PLAIN[:12], K("2", "gauges.name", "NOCASE"), K("4", "level")]),
    "alias over a column": Shape(
        "level AS name, basin AS level, id",
        "FROM gauges",
        [K("name", "gauges.level"), K("level", "basin"), K("level + 0", "gauges.level"), K("1", "gauges.level")],
    ),
    "alias before a star": Shape(
        "level AS name, *", "FROM gauges", [K("name", "level"), K("name + 0", "gauges.name + 0"), K("3", "gauges.name", "NOCASE")]
    ),
    "aliases": Shape(
        'level * 2 AS twice, upper(name) name, basin AS "Basin of", id AS lateral',
        "FROM gauges",
        [K("twice", "level"), K("TWICE", "level"), K("-twice", "level"), K("name", "upper(name)"),
         K('"Basin of"', "basin"), K("[basin OF]", "basin"), K("lateral / 3", "id / 3"), K("twice + basin", "level * 2 + basin")],
    ),
    "reserved elsewhere": Shape(
        "any, fetch AS ilike, basin qualify",
        "FROM gauges AS lateral",
        [K("any", '"any"'), K("ilike", "fetch"), K("qualify", "basin"), K("lateral.level", "lateral.level"), K("fetch", "fetch")],
    ),
    "distinct": Shape(
        "DISTINCT g.name, g.basin",
        "FROM gauges AS g",
        [K("basin", "g.basin"), K("g.basin", "g.basin"), K("g.name", "g.name", "NOCASE"), K("basin * 2", "g.basin"), K("2", "g.basin"), K("-g.basin", "g.basin")],
        distinct=True,
    ),
    "distinct with an alias": Shape(
        "DISTINCT level * 2 AS twice, basin b",
        "FROM gauges",
        [K("twice", "level * 2"), K("level * 2", "level * 2"), K("level", "level * 2"), K("b", "basin"), K("basin + 1", "basin")],
        distinct=True,
    ),
    "grouped": Shape(
        "basin, count(*) AS n, max(level)",
        "FROM gauges GROUP BY basin",
        [K("n", "count(*)"), K("count(*)", "count(*)"), K("max(level)", "max(level)"), K("3", "max(level)"),
         K("sum(level) > 2", "sum(level) > 2"), K("basin IS NULL", "basin IS NULL"), K("count(DISTINCT name)", "count(DISTINCT name)")],
    ),
    "joined": Shape(
        "g.name, r.flow",
        "FROM gauges g LEFT JOIN readings r ON r.gauge = g.id",
        [K("r.flow", "r.flow"), K("flow", "r.flow"), K("g.name", "g.name", "NOCASE"), K("note", "note"), K("note COLLATE NOCASE", "note", "NOCASE"),
         K("typeof(flow)", "typeof(flow)"), K("g.level + 0", "g.level")],
    ),
    "window": Shape(
        "id, rank() OVER (ORDER BY level) AS r, row_number() OVER (PARTITION BY basin ORDER BY id) % 2 AS odd",
        "FROM gauges",
        [K("r", "rank() OVER (ORDER BY level)"), K("odd", "row_number() OVER (PARTITION BY basin ORDER BY id) % 2"),
         K("count(*) OVER (PARTITION BY basin)", "count(*) OVER (PARTITION BY basin)"), K("2", "rank() OVER (ORDER BY level)")],
    ),
    "derived": Shape(
        "n, l", "FROM (SELECT name AS n, level AS l FROM gauges ORDER BY id DESC LIMIT 7) AS d",
        [K("n", "n", "NOCASE"), K("l", "l"), K("d.l", "l"), K("lower(n)", "lower(n)")],
    ),
}  # fmt: skip
OPENINGS = ["", "WITH g AS (SELECT 1 AS one ORDER BY 1) ", "-- ORDER BY none; LIMIT 3\n"]
DIRECTIONS = ["", " DESC", " ASC NULLS LAST", " DESC NULLS FIRST"]
ENDINGS = ["", ";", " -- last", "; -- youngest first", ";\n/* ; */ ;", " /* open"]
Group = Counter[Any]


@pytest.fixture(scope="module", params=range(len(DATASETS)))
def data(request: pytest.FixtureRequest, engine: SQLiteEngine) -> tuple[Any, apsw.Connection]:
    script = TABLES + DATASETS[request.param]
    connection = apsw.Connection(":memory:")
    connection.execute(script)
    source = DatasetSource(f"ties {request.param}", script, keep_rows=True)
    return engine.load(source), connection


def slow_groups(
    connection: apsw.Connection, opening: str, shape: Shape, keys: list[Key], order: str
) -> list[Group]:
    means = ", ".join(f"({key.means}) AS jk{at}" for at, key in enumerate(keys))
    sql = f"{opening}SELECT {shape.items}, {means} {shape.rest} {order}"
    rows = list(connection.execute(sql))
    groups: list[Group] = []
    for at, row in enumerate(rows):
        own, keyed = row[: -len(keys)], row[-len(keys) :]
        before = rows[at - 1][-len(keys) :] if at else ()
        if at and may_change_places(connection, keys, before, keyed):
            groups[-1][own] += 1
        else:
            groups.append(Counter([own]))
    return groups


def may_change_places(
    connection: apsw.Connection, keys: list[Key], one: tuple[Any, ...], other: tuple[Any, ...]
) -> bool:
    same = " AND ".join(f"? IS ? COLLATE {key.collation}" for key in keys)
    both = [value for pair in zip(one, other, strict=True) for value in pair]
    return bool(next(connection.execute(f"SELECT {same}", both))[0])


def told_apart(groups: list[Group]) -> list[Group]:
    """Equal rows may change places unseen: a group of nothing else is as many groups of one.

    1 and 1.0 are equal here: they sort as one value, so that the columns do not tell them apart.
    """
    return [
        Counter([row]) if len(group) == 1 else group
        for group in groups
        for row in (group.elements() if len(group) == 1 else [None])
    ]


@pytest.mark.parametrize("name", SHAPES)
def test_ties_are_what_the_engine_calls_a_tie(
    engine: SQLiteEngine, data: tuple[Any, apsw.Connection], name: str
) -> None:
    dataset, connection = data
    shape = SHAPES[name]
    pairs = [[key] for key in shape.keys] + [
        [one, other] for one, other in product(shape.keys[:6], shape.keys[:9]) if one is not other
    ]
    variants = list(product(OPENINGS, DIRECTIONS, ENDINGS))
    for number, keys in enumerate(pairs):
        opening, direction, ending = variants[(7 * number) % len(variants)]
        terms = [keys[0].text + direction, *(key.text for key in keys[1:])]
        order = f"ORDER BY {', '.join(terms)}"
        sql = f"{opening}SELECT {shape.items} {shape.rest} {order}{ending}"
        found = expect(engine, dataset, sql, Limits(), "the reference")
        assert found.ordered, sql
        assert found.ties_known, sql
        groups: dict[int, Group] = {}
        for rank, row in zip(found.ranks or (), found.result.rows, strict=True):
            groups.setdefault(rank, Counter())[row] += 1
        slow = slow_groups(connection, opening, shape, keys, order)
        assert told_apart(list(groups.values())) == told_apart(slow), sql


@pytest.mark.parametrize(
    ("sql", "groups"),
    [
        # The collation of a set operation's column comes from the first operand that has one.
        ("SELECT upper(name) FROM gauges UNION ALL SELECT name FROM gauges ORDER BY 1", 5),
        ("SELECT name FROM gauges UNION ALL SELECT upper(name) FROM gauges ORDER BY name", 5),
        ("SELECT note FROM readings UNION ALL SELECT 'Y' ORDER BY note DESC; -- x", 6),
        ("SELECT basin, id FROM gauges UNION SELECT 1, 9 ORDER BY 1", 4),
        ("SELECT id FROM gauges EXCEPT SELECT 1 ORDER BY id % 2", None),
    ],
)
def test_ties_of_set_operations(engine: SQLiteEngine, sql: str, groups: int | None) -> None:
    dataset = engine.load(DatasetSource("ties 0", TABLES + DATASETS[0], keep_rows=True))
    if groups is None:  # SQLite wants a result column there
        assert isinstance(engine.run(dataset, sql, Limits()), QueryFailure)
        return
    found = expect(engine, dataset, sql, Limits(), "the reference")
    by_rank: dict[int, set[Any]] = {}
    for rank, row in zip(found.ranks or (), found.result.rows, strict=True):
        by_rank.setdefault(rank, set()).add(row[0])
    assert len({frozenset(values) for values in by_rank.values()}) == groups


@pytest.mark.parametrize(
    "sql",
    [
        "SELECT DISTINCT basin FROM gauges ORDER BY level",
        "SELECT DISTINCT basin FROM gauges ORDER BY level LIMIT 2",
        "SELECT DISTINCT name FROM gauges ORDER BY name COLLATE BINARY",
        "SELECT id FROM gauges ORDER BY random()",
        "SELECT id FROM gauges ORDER BY level + RANDOM () LIMIT 3; -- any",
        "WITH r AS (SELECT id, random() AS x FROM gauges) SELECT id FROM r ORDER BY x",
    ],
)
def test_where_an_order_is_chance_it_is_not_known(engine: SQLiteEngine, sql: str) -> None:
    dataset = engine.load(DatasetSource("ties 0", TABLES + DATASETS[0], keep_rows=True))
    found = expect(engine, dataset, sql, Limits(), "the reference")
    assert not found.ties_known
    assert found.pool_known
    assert bool(found.choices) == ("LIMIT" in sql)


@pytest.mark.parametrize(
    ("sql", "choices"),
    [
        ("SELECT id FROM gauges ORDER BY level DESC LIMIT 1; -- the highest", {4, 5}),
        ("SELECT DISTINCT basin, level FROM gauges ORDER BY level DESC LIMIT 1", {1, 2}),
        ("SELECT id FROM gauges ORDER BY CAST(built AS DATE) DESC LIMIT 2", {1, 2, 4, 7, 8}),
        ("SELECT id FROM gauges ORDER BY basin LIMIT 2 OFFSET 2", {1, 3, 5, 7}),
        ("SELECT id FROM gauges ORDER BY basin LIMIT (SELECT 1 LIMIT 1), 2", {1, 3, 5, 7}),
        ("WITH n AS (SELECT 1 AS k) SELECT id FROM gauges ORDER BY basin LIMIT 2 OFFSET (SELECT k FROM n)", {1, 3, 5, 7}),
        ("SELECT id FROM gauges LIMIT 3 -- any", {1, 2, 3, 4, 5, 6, 7, 8}),
    ],
)  # fmt: skip
def test_what_a_limit_may_choose_from(engine: SQLiteEngine, sql: str, choices: set[Any]) -> None:
    dataset = engine.load(DatasetSource("ties 0", TABLES + DATASETS[0], keep_rows=True))
    found = expect(engine, dataset, sql, Limits(), "the reference")
    assert found.ties_known
    ranks = {choice.rank for choice in found.choices}
    cut = {
        row[0]
        for row, rank in zip(found.result.rows, found.ranks or (), strict=True)
        if rank in ranks
    }
    assert {choice.row[0] for choice in found.choices} | cut == choices
