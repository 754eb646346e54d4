"""Sums of sheets and totals: laws first, then examples."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.marks.attempts import counting_attempts
from jentrow.core.marks.totals import ExerciseMark, SheetSum, rounded, sheet_sum, total

POINTS = st.integers(1, 800).map(lambda hundredths: hundredths / 100)
MARKS = st.lists(
    st.tuples(POINTS, st.integers(0, 100), st.booleans()).map(
        lambda one: ExerciseMark(round(one[0] * one[1] / 100, 2), one[0], one[2])
    ),
    max_size=8,
)


@given(MARKS, st.integers(1, 8))
def test_the_best_of_some_is_never_a_smaller_share_than_all(
    marks: list[ExerciseMark], best_of: int
) -> None:
    whole, best = sheet_sum(marks, None), sheet_sum(marks, best_of)
    if whole.points and best.points:
        assert best.mark / best.points >= whole.mark / whole.points
    assert best.points <= whole.points


@given(MARKS)
def test_the_order_of_exercises_changes_nothing(marks: list[ExerciseMark]) -> None:
    assert sheet_sum(marks, 2) == sheet_sum(marks[::-1], 2)


@given(MARKS)
def test_without_weights_a_total_is_the_plain_sum(marks: list[ExerciseMark]) -> None:
    sheets = [sheet_sum([one], None) for one in marks]
    assert total([(one, None) for one in sheets]) == SheetSum(
        sum((one.mark for one in sheets), Fraction(0)),
        sum((one.points for one in sheets), Fraction(0)),
    )


@given(st.integers(0, 100_000), st.sampled_from([0.01, 0.1, 0.25, 0.5, 1.0]))
def test_rounding_goes_to_a_step_that_is_near(thousandths: int, step: float) -> None:
    number = Fraction(thousandths, 1000)
    found = Fraction(str(rounded(number, step)))
    assert found % Fraction(str(step)) == 0
    assert abs(found - number) <= Fraction(str(step)) / 2


def test_half_of_a_step_goes_up() -> None:
    assert rounded(Fraction("2.125"), 0.25) == 2.25
    assert rounded(Fraction("0.5"), 1.0) == 1.0


def test_weights_make_a_sheet_count_as_much_as_they_say() -> None:
    first, second = SheetSum(Fraction(5), Fraction(10)), SheetSum(Fraction(40), Fraction(40))
    assert total([(first, 30.0), (second, 70.0)]) == SheetSum(Fraction(85), Fraction(100))


def test_an_excuse_leaves_the_points_out_and_an_extra_mark_adds_to_the_sum() -> None:
    marks = [ExerciseMark(3.0, 4.0), ExerciseMark(None, 6.0, excused=True)]
    assert sheet_sum(marks, None, 0.5) == SheetSum(Fraction("3.5"), Fraction(4))
    assert sheet_sum(marks, None, -5.0).mark == 0


@pytest.mark.parametrize(
    ("counting", "marks", "places"),
    [
        ("best", [1.0, 3.0, 3.0, 2.0], [1]),
        ("best", [None, 1.0, None], [1]),
        ("best", [None, None], [1]),
        ("last", [3.0, 1.0], [1]),
        ("all", [3.0, None, 1.0], [0, 1, 2]),
        ("best", [], []),
    ],
)
def test_which_attempts_count(counting: str, marks: list[float | None], places: list[int]) -> None:
    assert counting_attempts(marks, counting) == places  # type: ignore[arg-type]
