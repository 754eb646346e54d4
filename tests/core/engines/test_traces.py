"""What the steps of a query tell beside their rows, on every engine that runs."""

from __future__ import annotations

import pytest

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.tracing import Traced, TracedStep, trace_query
from jentrow.core.samples.sources import DatasetSource, SampleSource
from tests.core.engines.test_contract import SCHEMA, any_engine, harbour, rows_of

__all__ = ["any_engine", "harbour"]


def traced(engine: Engine, dataset: LoadedDataset, sql: str) -> Traced:
    found = trace_query(engine, dataset, sql, Limits())
    assert found.note == ""
    return found


def step_of(found: Traced, kind: str) -> TracedStep:
    (step,) = [step for step in found.steps if step.kind == kind]
    assert step.problem == ""
    return step


def told_rows(engine: Engine, dataset: LoadedDataset, step: TracedStep, width: int) -> list[tuple]:
    """What is told of each row, behind its own ``width`` columns."""
    return [tuple(row[width:]) for row in rows_of(engine, dataset, step.telling)]


def test_each_part_of_a_condition_is_true_false_or_unknown(
    any_engine: Engine, harbour: LoadedDataset
) -> None:
    sql = "SELECT name FROM boats WHERE length_m > 9 AND (name = 'Auk' OR NOT boat_id = 4)"
    where = step_of(traced(any_engine, harbour, sql), "where")
    assert where.parts == {"kept": 2, "false": 1, "unknown": 1}
    assert [one.text for one in where.told] == ["length_m > 9", "name = 'Auk'", "NOT boat_id = 4"]
    # The last column is that of the whole condition.
    assert sorted(told_rows(any_engine, harbour, where, 3), key=str) == [
        (0, 1, 1, 0), (1, 0, 1, 1), (1, 1, 0, 1), (None, 0, 1, None)
    ]  # fmt: skip


def test_which_branch_of_a_case_was_taken(any_engine: Engine, harbour: LoadedDataset) -> None:
    case = "CASE WHEN length_m > 10 THEN 'long' WHEN length_m > 5 THEN 'short' END"
    select = step_of(traced(any_engine, harbour, f"SELECT {case} AS kind FROM boats"), "select")
    ((branches, otherwise),) = [(one.branches, one.otherwise) for one in select.told]
    assert (branches, otherwise) == (("length_m > 10", "length_m > 5"), False)
    rows = rows_of(any_engine, harbour, select.telling)
    assert {tuple(row) for row in rows} == {("long", 1), ("short", 2), (None, 0)}


@pytest.mark.parametrize(
    ("join", "parts"),
    [
        ("boats b JOIN berths p ON p.boat_id = b.boat_id", {"lonely_before": 2, "lonely_joined": 1}),
        ("boats b LEFT JOIN berths p ON p.boat_id = b.boat_id", {"lonely_before": 2, "lonely_joined": 1}),
        ("boats b JOIN berths p USING (boat_id)", {"lonely_before": 2, "lonely_joined": 1}),
        ("boats CROSS JOIN berths", {}),
    ],
)  # fmt: skip
def test_a_join_says_which_rows_have_no_partner(
    any_engine: Engine, harbour: LoadedDataset, join: str, parts: dict[str, int]
) -> None:
    step = step_of(traced(any_engine, harbour, f"SELECT 1 FROM {join}"), "join")
    assert step.parts == parts


def test_groups_hold_their_rows_and_conditions_theirs(
    any_engine: Engine, harbour: LoadedDataset
) -> None:
    sql = "SELECT name, COUNT(*) AS n FROM boats GROUP BY name HAVING COUNT(*) > 1 OR MAX(length_m) > 9"
    found = traced(any_engine, harbour, sql)
    assert [(step.kind, step.rows) for step in found.steps] == [
        ("from", 4), ("group", 3), ("having", 2), ("select", 2)
    ]  # fmt: skip
    assert step_of(found, "having").parts == {"kept": 2, "false": 0, "unknown": 1}


def test_rows_that_a_condition_leaves_out_unknown_are_told(any_engine: Engine) -> None:
    sample = SampleSource("harbour", (DatasetSource("harbour", SCHEMA, keep_rows=True),))
    exercise = Exercise(
        "one", "One", "", "harbour", "SELECT name FROM boats", engine=any_engine.name
    )
    found = Grader(any_engine, exercise, sample).grade("SELECT name FROM boats WHERE length_m < 50")
    (finding,) = found.findings
    assert finding.code == "rows.missing"
    assert "Where length_m is NULL, length_m < 50 is neither true nor false" in finding.message
