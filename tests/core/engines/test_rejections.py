"""What each engine rejects, in a learner's words: case by case, from a file for each engine."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from jentrow.core.engines.labels import DIALECTS, LABELS, STAND_INS
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset, QueryFailure
from jentrow.core.results import ResultSet
from jentrow.core.samples.sources import read_sample
from jentrow.core.sql.skeleton import skeleton_of
from jentrow.core.sql.spellings.functions import FUNCTIONS, other_meaning
from jentrow.core.sql.spellings.spellings import FORMS
from jentrow.core.sql.stand_ins.refusals.function_names import FUNCTIONS as OWN_FUNCTIONS
from jentrow.core.sql.stand_ins.stand_in import stood_in
from jentrow.services.runtime.engines import engine_named
from tests.cases import read_cases
from tests.demo_course import DEMO, ROOT

OTHERS = ("duckdb", "postgresql", "mariadb")
CASES = [
    (engine, *case)
    for engine in OTHERS
    for case in read_cases(ROOT / "tests" / "data" / f"rejections-{engine}.yaml")
]


@pytest.fixture(scope="module")
def engines() -> Iterator[dict[str, tuple[Engine, LoadedDataset]]]:
    source = read_sample(DEMO / "samples" / "huts").open
    running = {name: engine_named(name, workers=1) for name in OTHERS}
    yield {name: (engine, engine.load(source)) for name, engine in running.items()}
    for engine in running.values():
        engine.close()


@pytest.mark.parametrize(
    ("name", "sql", "code", "message"), CASES, ids=[f"{case[0]} {case[1]}" for case in CASES]
)
def test_a_rejection_says_what_to_write(
    engines: dict[str, tuple[Engine, LoadedDataset]], name: str, sql: str, code: str, message: str
) -> None:
    engine, huts = engines[name]
    outcome = engine.run(huts, sql, Limits())
    assert isinstance(outcome, QueryFailure)
    assert (outcome.code, outcome.message) == (code, message)
    assert outcome.engine_words


def _deep(levels: int) -> str:
    return f"SELECT {'(' * levels}1{' + 1)' * levels}"


NESTED = f"{'SELECT * FROM (' * 70}SELECT name FROM huts{') x' * 70}"
JOINED = (
    f"SELECT h.name FROM huts h{''.join(f' JOIN huts h{at} USING (hut_id)' for at in range(70))}"
)
TOO_MUCH = [
    ("duckdb", _deep(1_200), "nested too deep"),
    ("postgresql", _deep(9_000), "nested too deep"),
    ("mariadb", NESTED, "nested too deep"),
    ("mariadb", JOINED, "takes 61 at most"),
]


@pytest.mark.parametrize(
    ("name", "sql", "words"), TOO_MUCH, ids=[f"{one[0]} {one[2]}" for one in TOO_MUCH]
)
def test_what_is_too_much_for_an_engine_is_told_in_plain_words(
    engines: dict[str, tuple[Engine, LoadedDataset]], name: str, sql: str, words: str
) -> None:
    engine, huts = engines[name]
    outcome = engine.run(huts, sql, Limits())
    assert isinstance(outcome, QueryFailure), outcome
    assert words in outcome.message, outcome


@pytest.mark.parametrize("name", OTHERS)
def test_what_is_told_of_a_function_is_true(
    engines: dict[str, tuple[Engine, LoadedDataset]], name: str
) -> None:
    """A hint that belongs to a function which the engine has would never be told, or be untrue."""
    here = set(engines[name][0].capabilities.functions)
    assert not {one for one, (_, instead) in FUNCTIONS.items() if name in instead} & here


SYNTAX = {"rollup", "cube", "grouping", "any", "regexp", "insert", "value", "unicode", "median"}
"""What some engine reads as a word of its own: it never says that such a function is missing."""


@pytest.mark.parametrize("name", OTHERS)
def test_every_function_of_another_dialect_has_its_place(
    engines: dict[str, tuple[Engine, LoadedDataset]], name: str
) -> None:
    """Whatever is told on one engine is told on each, unless that has the function."""
    here = set(engines[name][0].capabilities.functions)
    missing = {one for one, (_, instead) in FUNCTIONS.items() if name not in instead} - here
    assert {one for one in missing if other_meaning(one, name, name) is None} <= SYNTAX | {
        "add_months"  # of MariaDB since 10.6
    }


@pytest.mark.parametrize("name", OTHERS)
def test_a_function_belongs_where_it_is_said_to(
    engines: dict[str, tuple[Engine, LoadedDataset]], name: str
) -> None:
    here = set(engines[name][0].capabilities.functions)
    said = {
        one
        for one, (right_in, _) in FUNCTIONS.items()
        if LABELS[name] in [each for both in right_in for each in both.split(" and ")]
    }
    assert len(said) >= 10
    assert said - here <= SYNTAX


@pytest.mark.parametrize("dialect", sorted(STAND_INS))
def test_what_is_told_of_a_function_is_true_where_another_stands_in(dialect: str) -> None:
    told = {one.upper() for one, (_, instead) in FUNCTIONS.items() if dialect in instead}
    assert len(told) > 40
    assert not told & OWN_FUNCTIONS[dialect]


@pytest.mark.parametrize(
    ("dialect", "sql", "hint"),
    [
        ("tsql", "SELECT LENGTH(name) FROM huts", "belongs to Oracle, MySQL, MariaDB, PostgreSQL and Db2; here one writes LEN(text)"),
        ("oracle", "SELECT GROUP_CONCAT(name) FROM huts", "belongs to SQLite, MySQL and MariaDB; here one writes LISTAGG(x, ', ') WITHIN"),
        ("db2", "SELECT REVERSE(name) FROM huts", "there is nothing like it here"),
        ("db2", "SELECT NOSUCH(name) FROM huts", "no function NOSUCH that is known here."),
    ],
)  # fmt: skip
def test_a_function_of_another_dialect_is_named_where_another_stands_in(
    dialect: str, sql: str, hint: str
) -> None:
    (doubt,) = stood_in(dialect, sql).notes
    assert hint in doubt


@pytest.mark.parametrize("name", OTHERS)
def test_no_form_is_found_in_texts_and_comments(name: str) -> None:
    hidden = "SELECT 'TOP 5 x::y ILIKE N''z''' AS a -- SELECT TOP 5\nFROM huts"
    skeleton = skeleton_of(hidden, DIALECTS[name])
    assert not [form.name for form in FORMS if skeleton.spans(form.pattern)]


def test_every_engine_has_its_twenty_commonest_mistakes() -> None:
    for name in OTHERS:
        assert sum(case[0] == name for case in CASES) >= 20


@pytest.mark.parametrize(
    ("sql", "column"),
    [
        ("SELECT beds * 2 AS twice FROM huts WHERE twice > 10", 42),
        ("SELECT x.name FROM huts", 8),
        ("SELECT name FROM huts GROUP BY name HAVING beds > 3", 44),
        ("SELECT beds AS nothing FROM huts ORDER BY nothing + nowhere", 53),
    ],
)
def test_a_column_is_pointed_at_in_the_clause_that_lacks_it(
    engines: dict[str, tuple[Engine, LoadedDataset]], sql: str, column: int
) -> None:
    engine, huts = engines["mariadb"]
    outcome = engine.run(huts, sql, Limits())
    assert isinstance(outcome, QueryFailure)
    assert outcome.place is not None
    assert (outcome.place.line, outcome.place.column) == (1, column)


@pytest.mark.parametrize("name", ["sqlite", "duckdb"])
def test_a_name_of_an_aggregate_in_where_is_pointed_at_where_it_stands(name: str) -> None:
    """The engine points at the aggregate, which is right where it is."""
    engine = engine_named(name, workers=1)
    try:
        huts = engine.load(read_sample(DEMO / "samples" / "huts").open)
        sql = (
            "SELECT region,\n COUNT(*) AS n FROM huts\nWHERE region > 'A' AND n > 1 GROUP BY region"
        )
        outcome = engine.run(huts, sql, Limits())
    finally:
        engine.close()
    assert isinstance(outcome, QueryFailure)
    assert outcome.place is not None
    assert (outcome.near, outcome.place.line, outcome.place.column) == ("n", 3, 24)


def test_a_place_for_a_value_is_no_server_that_went_away(
    engines: dict[str, tuple[Engine, LoadedDataset]],
) -> None:
    """PostgreSQL's code for it is one of those that broken connections have."""
    engine, huts = engines["postgresql"]
    for _ in range(2):
        assert isinstance(
            engine.run(huts, "SELECT name FROM huts WHERE beds > $1", Limits()), QueryFailure
        )
    assert isinstance(engine.run(huts, "SELECT name FROM huts", Limits()), ResultSet)
