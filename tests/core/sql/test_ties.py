"""Which rows of a reference tie, as the engine sees it."""

from __future__ import annotations

from typing import Any

import pytest

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import LoadedDataset
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.grading.expectations import expect
from jentrow.core.results import Expectation
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.sql.freedom.ties import whole_groups


def expected(engine: SQLiteEngine, dataset: LoadedDataset, sql: str) -> Expectation:
    return expect(engine, dataset, sql, Limits(), "the reference")


@pytest.mark.parametrize(
    ("sql", "ranks"),
    [
        # Equal rows that tie may change places unseen, and count as a group of one each.
        ("SELECT river FROM gauges ORDER BY name", [1, 2, 3, 4, 4]),
        ("SELECT name FROM gauges ORDER BY name COLLATE BINARY", [1, 2, 3, 4, 5]),
        ("SELECT name, level FROM gauges ORDER BY 2 DESC", [1, 1, 2, 2, 3]),
        ("SELECT name, level * 2 AS twice FROM gauges ORDER BY twice", [1, 2, 2, 3, 3]),
        ("SELECT name, level * 2 AS twice FROM gauges ORDER BY -twice", [1, 1, 2, 2, 3]),
        ("SELECT name FROM gauges ORDER BY level, basin", [1, 2, 3, 4, 5]),
        ("SELECT * FROM gauges ORDER BY level", [1, 2, 2, 3, 3]),
        (
            "SELECT name FROM gauges ORDER BY CASE WHEN river IS NULL THEN 1 ELSE 0 END",
            [1, 1, 1, 1, 2],
        ),
        ("SELECT river, COUNT(*) FROM gauges GROUP BY river ORDER BY COUNT(*) DESC", [1, 1, 2]),
        ("SELECT DISTINCT river FROM gauges ORDER BY river", [1, 2, 3]),
        (
            "SELECT name FROM gauges UNION ALL SELECT gauge FROM readings ORDER BY 1",
            [1, 2, 2, 2, 2, 3, 3, 3, 3, 4],
        ),
        ("WITH g AS (SELECT * FROM gauges) SELECT name FROM g ORDER BY level", [1, 2, 2, 3, 3]),
        ("SELECT name, RANK() OVER (ORDER BY level) AS r FROM gauges ORDER BY r", [1, 2, 2, 3, 3]),
        (
            "SELECT g.name FROM gauges AS g JOIN readings AS r ON g.name = r.gauge ORDER BY r.flow DESC NULLS LAST",
            [1, 1, 1, 1, 2, 2, 2, 2],
        ),
        ("SELECT UPPER(name) AS name FROM gauges ORDER BY name", [1, 2, 3, 4, 5]),
    ],
)
def test_rows_tie_on_the_reference_s_own_keys(
    engine: SQLiteEngine, gauges: LoadedDataset, sql: str, ranks: list[int]
) -> None:
    found = expected(engine, gauges, sql)
    assert found.ordered
    assert found.ties_known
    assert list(found.ranks or ()) == ranks
    assert not found.choices


@pytest.mark.parametrize(
    ("sql", "choices"),
    [
        ("SELECT name FROM gauges ORDER BY level DESC LIMIT 1", {("brugg",), (None,)}),
        ("SELECT name FROM gauges ORDER BY level LIMIT 1", set()),
        ("SELECT level FROM gauges ORDER BY level LIMIT 2", set()),
        ("SELECT basin FROM gauges ORDER BY level LIMIT 2 OFFSET 2", {(2,), (1,), (3,)}),
        ("SELECT basin FROM gauges ORDER BY level LIMIT 2, 2", {(2,), (1,), (3,)}),
        (
            "SELECT basin -- a comment\nFROM gauges -- another\nORDER BY level DESC -- last\nLIMIT 1;",
            {(2,), (3,)},
        ),
        ("SELECT basin FROM gauges LIMIT 4", {(3,)}),
        (
            "SELECT name, level FROM gauges ORDER BY level DESC LIMIT 1 OFFSET 1 - 1",
            {("brugg", 4.0), (None, 4.0)},
        ),
    ],
)
def test_a_limit_through_a_tie_leaves_a_choice(
    engine: SQLiteEngine, gauges: LoadedDataset, sql: str, choices: set[Any]
) -> None:
    found = expected(engine, gauges, sql)
    assert {choice.row for choice in found.choices} <= choices
    assert bool(found.choices) == bool(choices)


@pytest.mark.parametrize(
    "sql",
    [
        "SELECT DISTINCT river FROM gauges ORDER BY level",
        "SELECT RANDOM() FROM gauges ORDER BY 1",
        "SELECT name FROM gauges ORDER BY " + "+".join(["level"] * 900),
    ],
)
def test_where_ties_cannot_be_known_it_says_so(
    engine: SQLiteEngine, gauges: LoadedDataset, sql: str
) -> None:
    found = expected(engine, gauges, sql)
    assert found.ordered
    assert found.ties_known == (found.ranks is not None)
    if "level+" not in sql:
        assert not found.ties_known


@pytest.mark.parametrize(
    ("sql", "named"),
    [
        ("SELECT name, level * 2, level AS l FROM gauges", [True, False, True]),
        ("SELECT *, COUNT(*) OVER () FROM gauges", [True, True, True, True, False]),
        ("SELECT 1, g.* FROM gauges AS g", [False, True, True, True, True]),
        ("SELECT g.*, LOWER(name), g.* FROM gauges AS g", [True] * 4 + [False] + [True] * 4),
        ("SELECT COUNT(*) FROM gauges UNION SELECT 1 AS one", [False]),
    ],
)
def test_which_columns_have_a_name_of_their_own(
    engine: SQLiteEngine, gauges: LoadedDataset, sql: str, named: list[bool]
) -> None:
    columns = expected(engine, gauges, sql).result.columns
    assert [column.named for column in columns] == named


def test_a_limit_over_more_rows_than_an_answer_may_give(engine: SQLiteEngine) -> None:
    many = engine.load(
        DatasetSource(
            "many",
            "CREATE TABLE readings (at INTEGER, flow INTEGER); INSERT INTO readings "
            "WITH RECURSIVE n(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM n WHERE i < 4999) "
            "SELECT i, i / 2 FROM n;",
            keep_rows=True,
        )
    )
    few = Limits(rows=100)
    found = expect(
        engine,
        many,
        "SELECT at FROM readings ORDER BY flow LIMIT 3 OFFSET 10",
        few,
        "the reference",
    )
    assert found.ranks == (6, 6, 7)
    assert {(choice.rank, choice.row) for choice in found.choices} <= {(7, (12,)), (7, (13,))}
    assert len(found.choices) == 1
    unordered = expect(engine, many, "SELECT at FROM readings LIMIT 2", few, "the reference")
    assert not unordered.ties_known
    nothing = expect(engine, many, "SELECT at FROM readings LIMIT 0", few, "the reference")
    assert (list(nothing.result.rows), nothing.choices) == ([], ())


@pytest.mark.parametrize(
    ("rising", "falling", "ranks"),
    [
        ("abc", "abc", [1, 2, 3]),
        ("abc", "bac", [1, 1, 2]),
        ("abc", "bc", []),
        ("abc", "ab", [1, 2]),
        ("ab", "abc", [1, 2]),
        ("abcd", "abdx", [1, 2]),
    ],
)
def test_groups_are_the_finest_parts_that_both_runs_have(
    rising: str, falling: str, ranks: list[int]
) -> None:
    assert whole_groups([(one,) for one in rising], [(one,) for one in falling]) == ranks
