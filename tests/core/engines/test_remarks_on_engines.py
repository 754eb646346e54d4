"""What is remarked on a text is true on the engine that runs it, and not said where it is not."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import pytest

from jentrow.core.engines.labels import ENGINES, RUNNING, STAND_INS
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.grading.textfacts import text_facts
from jentrow.core.exercises.warnings import warnings_of
from jentrow.core.results import ResultSet
from jentrow.core.samples.sources import DatasetSource, SampleSource
from jentrow.core.sql.remarks import remarks_on
from jentrow.core.sql.stand_ins.stand_in import stood_in
from jentrow.services.runtime.engines import engine_named

DAYS = """
    CREATE TABLE days (day_id INTEGER PRIMARY KEY, name VARCHAR(20) NOT NULL, held DATE NOT NULL);
    CREATE TABLE gates (gate_id INTEGER PRIMARY KEY, day_id INTEGER NOT NULL);
    INSERT INTO days VALUES (1, 'arrival', '2026-01-05'), (2, 'Ascent', '2026-02-05');
    INSERT INTO gates VALUES (1, 1), (2, 9);
"""


def one_value(result: ResultSet) -> Any:
    return result.rows[0][0]


CASES: list[tuple[str, str, Callable[[ResultSet], bool]]] = [
    (
        "date_as_text",
        "SELECT COUNT(*) FROM days WHERE held = '2026-1-5'",
        lambda result: one_value(result) == 0,
    ),
    (
        "cast_as_date",
        "SELECT CAST(held AS DATE) FROM days ORDER BY day_id",
        lambda result: one_value(result) == 2026,
    ),
    (
        "plus_for_text",
        "SELECT name + ' of rest' FROM days ORDER BY day_id",
        lambda result: one_value(result) == 0,
    ),
    (
        "bounds_reversed",
        "SELECT COUNT(*) FROM days WHERE name BETWEEN 'a' AND 'B'",
        lambda result: one_value(result) == 0,
    ),
    (
        "user_as_value",
        "SELECT COUNT(*) FROM days JOIN (SELECT 'x' AS user) AS u ON user = 'x' OR held < '2026-01-06'",
        lambda result: one_value(result) == 1,
    ),
    (
        "text_as_key",
        "SELECT name FROM days ORDER BY 'name' DESC",
        lambda result: one_value(result) == "arrival",
    ),
    (
        "texts_compared",
        "SELECT COUNT(*) FROM days WHERE 'name' = 'Ascent'",
        lambda result: one_value(result) == 0,
    ),
    (
        "full_as_name",
        "SELECT COUNT(*) FROM days FULL JOIN gates USING (day_id)",
        lambda result: one_value(result) == 1,
    ),
]


SOURCE = DatasetSource("days", DAYS, keep_rows=True)


@pytest.fixture(scope="module", params=RUNNING)
def days(request: pytest.FixtureRequest) -> Iterator[tuple[Engine, LoadedDataset]]:
    running = engine_named(request.param, workers=1)
    yield running, running.load(SOURCE)
    running.close()


@pytest.mark.parametrize(("code", "sql", "is_so"), CASES, ids=[code for code, _, _ in CASES])
def test_a_remark_is_made_where_the_engine_does_so(
    days: tuple[Engine, LoadedDataset], code: str, sql: str, is_so: Callable[[ResultSet], bool]
) -> None:
    engine, dataset = days
    outcome = engine.run(dataset, sql, Limits())
    said = code in {remark.code for remark in remarks_on(sql, engine.dialect)}
    if said:
        assert isinstance(outcome, ResultSet), "what does not run needs no remark"
        assert is_so(outcome)
    elif isinstance(outcome, ResultSet) and code != "bounds_reversed":
        assert not is_so(outcome)


@pytest.mark.parametrize("days", ENGINES, indirect=True)
@pytest.mark.parametrize("sign", ["/", "//", "DIV"])
def test_whole_division_is_told_where_it_is(days: tuple[Engine, LoadedDataset], sign: str) -> None:
    engine, dataset = days
    sql = f"SELECT (day_id + 6) {sign} 2 AS half FROM days WHERE day_id = 1"
    outcome = engine.run(dataset, sql, Limits())
    cut = isinstance(outcome, ResultSet) and outcome.rows[0][0] == 3
    # A stand-in takes operators that its dialect has not.
    is_own = engine.name not in STAND_INS or not stood_in(engine.dialect, sql).notes
    if isinstance(outcome, ResultSet) and is_own:
        assert ("division" in text_facts(sql, engine.dialect).known) == cut
    if sign == "/":
        exercise = Exercise("half", "", "", "days", sql, engine.name)
        grader = Grader(engine, exercise, SampleSource("days", (SOURCE,)))
        told = {one.code for one in warnings_of(grader, [])}
        assert ("reference.whole_division" in told) == cut
