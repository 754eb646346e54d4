"""End to end on the real engine: whatever freedom the reference leaves, an answer may use.

A further sort key after the reference's own only breaks ties, so an answer with one is always
right, with a LIMIT too; an answer whose rows do not rise by the reference's keys never is.
"""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import LoadedDataset, QueryFailure
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.grading.judge import Judge
from jentrow.core.exercises.ruleset import RuleSet
from jentrow.core.results import ResultSet
from jentrow.core.samples.sources import DatasetSource, SampleSource

SCHEMA = """
    CREATE TABLE gauges (id INTEGER PRIMARY KEY, name TEXT COLLATE NOCASE, basin INTEGER, level REAL);
    INSERT INTO gauges (name, basin, level) VALUES ('Auwehr', 1, 1.5), ('auwehr', 2, 1.5),
        ('Brugg', 1, NULL), ('brugg', 2, 2.5), (NULL, 1, 2.5), ('Cham', 3, 0.5), ('Auwehr', 1, 1.5),
        ('Dorf', NULL, 0.5);
"""
SAMPLE = SampleSource("gauges", (DatasetSource("open", SCHEMA, keep_rows=True),))

# What is selected, from where, and the keys that make sense with it.
SHAPES: list[tuple[str, str, list[str]]] = [
    (
        "name, basin",
        "FROM gauges",
        ["name", "2", "level", "basin + 0", "UPPER(name)", "gauges.level"],
    ),
    ("*", "FROM gauges", ["name", "basin", "level * 2", "3"]),
    ("UPPER(name) AS name, level AS l", "FROM gauges", ["name", "l", "l + 1", "basin"]),
    ("DISTINCT basin, level", "FROM gauges", ["basin", "2", "level"]),
    ("basin, COUNT(*) AS n", "FROM gauges GROUP BY basin", ["n", "COUNT(*)", "MAX(level)", "1"]),
    ("name", "FROM gauges UNION ALL SELECT basin FROM gauges", ["1", "name"]),
    (
        "g.name, h.basin",
        "FROM gauges AS g JOIN gauges AS h ON g.basin = h.basin",
        ["g.name", "h.level", "h.name"],
    ),
    ("id, RANK() OVER (ORDER BY level) AS r", "FROM gauges", ["r", "basin"]),
    ("name", "FROM gauges WHERE level > 1 -- not low\n", ["level", "name COLLATE BINARY"]),
]


@st.composite
def queries(draw: st.DrawFn) -> tuple[str, list[str], str]:
    """The query without its order, its sort terms, and its limit."""
    selected, rest, keys = draw(st.sampled_from(SHAPES))
    chosen = draw(st.lists(st.sampled_from(keys), min_size=1, max_size=2, unique=True))
    terms = [
        key + draw(st.sampled_from(["", " DESC", " ASC NULLS LAST", " DESC NULLS FIRST"]))
        for key in chosen
    ]
    limit = draw(st.sampled_from(["", " LIMIT 2", " LIMIT 4 OFFSET 1", " LIMIT 1, 3"]))
    return f"SELECT {selected} {rest}", terms, limit


@pytest.fixture(scope="module")
def dataset(engine: SQLiteEngine) -> LoadedDataset:
    return engine.load(SAMPLE.open)


def columns_of(engine: SQLiteEngine, dataset: LoadedDataset, sql: str) -> int:
    outcome = engine.run(dataset, sql, Limits())
    assert not isinstance(outcome, QueryFailure), (sql, outcome)
    return len(outcome.columns)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(queries(), st.integers(0, 9), st.booleans(), st.sampled_from(["auto", "ignore"]))
def test_a_further_key_only_breaks_ties(
    engine: SQLiteEngine,
    dataset: LoadedDataset,
    query: tuple[str, list[str], str],
    further: int,
    falling: bool,
    row_order: Any,
) -> None:
    core, terms, limit = query
    reference = f"{core} ORDER BY {', '.join(terms)}{limit}"
    position = further % columns_of(engine, dataset, reference) + 1
    more = f"{position}{' DESC' if falling else ''}"
    answer = f"{core} ORDER BY {', '.join([*terms, more])}{limit}"
    exercise = Exercise(
        "x", "", "", "gauges", reference, rules=RuleSet(ComparisonRules(row_order=row_order))
    )
    outcome = Grader(engine, exercise, SAMPLE).grade(answer)
    assert outcome.verdict == "correct", (reference, answer, outcome.findings)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(queries())
def test_rows_in_the_reverse_order_are_right_only_where_all_tie(
    engine: SQLiteEngine, dataset: LoadedDataset, query: tuple[str, list[str], str]
) -> None:
    core, terms, _ = query
    reference = f"{core} ORDER BY {', '.join(terms)}"
    grader = Grader(engine, Exercise("x", "", "", "gauges", reference), SAMPLE)
    expectation = grader.expectations[0][0]
    assert expectation.ties_known, reference
    ranks = expectation.ranks or ()
    assume(len(ranks) > 1)
    rows = list(expectation.result.rows)[::-1]
    outcome = Judge(grader.measure).outcome("", [ResultSet(expectation.result.columns, rows)])
    tie_of_row: dict[int, list[Any]] = {}
    for rank, row in zip(ranks, expectation.result.rows, strict=True):
        tie_of_row.setdefault(rank, []).append(row)
    turned = [row for rank in sorted(tie_of_row) for row in tie_of_row[rank]]
    places = iter(rows)
    fits = all(
        sorted(map(repr, tie_of_row[rank])) == sorted(repr(next(places)) for _ in tie_of_row[rank])
        for rank in sorted(tie_of_row)
    )
    assert len(turned) == len(rows)
    assert (outcome.verdict == "correct") == fits
