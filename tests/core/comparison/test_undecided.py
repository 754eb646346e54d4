"""Where nobody knows which rows tie, only what is surely right or wrong is said to be so."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.grader import Grader
from tests.core.comparison.build import codes, compared, due, result
from tests.core.exercises.test_grading import graded

ROWS = [("a", 1), ("b", 2), ("c", 3)]
UNKNOWN = replace(due(ROWS, "name n"), ordered=True, ties_known=False)


@pytest.mark.parametrize(
    ("rows", "rules", "verdict", "undecided"),
    [
        (ROWS, {}, "correct", ""),
        (ROWS[::-1], {}, "incorrect", "row_order"),
        (ROWS[1:], {}, "incorrect", ""),
        ([*ROWS[:2], ("c", 4)], {}, "incorrect", ""),
        (ROWS[::-1], {"row_order": "ignore"}, "correct", ""),
        (ROWS[::-1], {"row_order": "as_listed"}, "incorrect", ""),
        (ROWS[::-1], {"row_order": "required"}, "incorrect", "row_order"),
        (ROWS[::-1] * 2, {"duplicates": "ignore"}, "incorrect", "row_order"),
        (ROWS[::-1], {"column_names": "exact"}, "incorrect", ""),
        ([row[::-1] for row in ROWS[::-1]], {"column_order": "any"}, "incorrect", "row_order"),
    ],
)
def test_the_same_rows_in_another_sequence_are_undecided(
    rows: Any, rules: dict[str, Any], verdict: str, undecided: str
) -> None:
    found = compared(UNKNOWN, result(rows, "name m"), **rules)
    assert (found.verdict, found.undecided) == (verdict, undecided)


def test_what_is_undecided_is_said_and_nothing_else() -> None:
    found = compared(UNKNOWN, result(ROWS[::-1], "name n"))
    assert codes(found) == ["rows.order"]
    assert "your instructor decides" in found.findings[0].message
    # Where rows are wrong, too, nothing is said of an order that nobody knows.
    wrong = compared(UNKNOWN, result([*ROWS[2:0:-1], ("x", 9)], "name n"))
    assert codes(wrong) == ["rows.missing", "rows.extra"]


@pytest.mark.parametrize(
    ("rows", "pool_known", "undecided"),
    [
        ([("b", 2), ("d", 4), ("a", 1)], True, "row_order"),
        ([("b", 2), ("e", 5), ("a", 1)], True, ""),
        ([("b", 2), ("e", 5), ("a", 1)], False, "row_order"),
        ([("b", 2), ("e", 5)], False, ""),
    ],
)
def test_rows_that_a_limit_may_have_chosen_are_undecided(
    rows: Any, pool_known: bool, undecided: str
) -> None:
    spare = due(ROWS, "name n", choices=[(0, ("d", 4))] if pool_known else [])
    expectation = replace(spare, ordered=True, ties_known=False, pool_known=pool_known)
    found = compared(expectation, result(rows, "name n"))
    assert (found.verdict, found.undecided) == ("incorrect", undecided)
    chosen_freely = compared(expectation, result(rows, "name n"), row_order="ignore")
    assert (chosen_freely.verdict, chosen_freely.undecided) == ("incorrect", undecided)


UNORDERED = "SELECT name FROM gauges"
BY_CHANCE = "SELECT name FROM gauges ORDER BY level * (random() IS NOT NULL)"


def test_an_answer_is_undecided_where_each_dataset_is_right_or_undecided(
    engine: SQLiteEngine,
) -> None:
    found = graded(engine, BY_CHANCE, UNORDERED + " ORDER BY name DESC", points=4)
    assert (found.verdict, found.undecided, found.standing) == (
        "incorrect",
        "row_order",
        "undecided",
    )
    assert found.to_json()["undecided"] == "row_order"
    assert [(one.code, one.dataset) for one in found.findings] == [
        ("rows.order", "open"), ("held_back.differs", "flood"),
    ]  # fmt: skip
    assert all("instructor decides" in one.message for one in found.findings)
    wrong_elsewhere = UNORDERED + " WHERE basin > 0 ORDER BY name DESC"
    found = graded(engine, BY_CHANCE, wrong_elsewhere)
    assert (found.verdict, found.undecided) == ("incorrect", "")
    assert "undecided" not in found.to_json()
    # An alternative that is met settles it.
    also = {"by name": UNORDERED + " ORDER BY name DESC"}
    found = graded(engine, BY_CHANCE, UNORDERED + " ORDER BY name DESC; -- z to a", also=also)
    assert (found.verdict, found.answer) == ("correct", "by name")


def test_a_trial_that_is_undecided_does_not_hold(engine: SQLiteEngine) -> None:
    from jentrow.core.exercises.exercise import Exercise, Trial
    from jentrow.core.exercises.trials import run_trials
    from tests.core.exercises.test_warnings import SOURCE

    trials = tuple(
        Trial(expected, UNORDERED + " ORDER BY name DESC", expected)
        for expected in ("correct", "incorrect")
    )
    exercise = Exercise("x", "", "", "gauges", BY_CHANCE, trials=trials)  # type: ignore[arg-type]
    for one in run_trials(Grader(engine, exercise, SOURCE)):
        assert not one.holds
        assert one.said.startswith("undecided")


@pytest.mark.parametrize("offset", ["", " OFFSET 2"])
def test_any_rows_may_be_drawn_where_a_limit_cuts_an_order_by_chance(
    engine: SQLiteEngine, offset: str
) -> None:
    numbers = "WITH RECURSIVE n(i) AS (SELECT 1 UNION SELECT i + 1 FROM n WHERE i < 900)"
    drawn = f"{numbers} SELECT i FROM n ORDER BY RANDOM() LIMIT 2{offset}"
    # Which two are drawn changes each time: that it is these two, twice, is one in 10^11.
    others = graded(engine, drawn, "SELECT 7 UNION ALL SELECT 650")
    assert (others.standing, others.undecided) == ("undecided", "row_order")
    for outside in ["SELECT 7 UNION ALL SELECT 901", "SELECT 7 UNION ALL SELECT 7", "SELECT 7"]:
        wrong = graded(engine, drawn, outside)
        assert (wrong.verdict, wrong.undecided) == ("incorrect", ""), outside
