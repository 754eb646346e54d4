"""Deadlines: times of a course become instants, and an instant says what becomes of an answer."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from fractions import Fraction
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.errors import UnusableInput
from jentrow.core.exercises.deadlines import instant, mark_on_sheet, window, zone_named
from jentrow.core.exercises.sheets import Late

ZURICH = ZoneInfo("Europe/Zurich")
OPENS = datetime(2026, 11, 16, 8)
CLOSES = datetime(2026, 11, 29, 20)
SECOND = timedelta(seconds=1)


def test_times_are_those_of_the_zone() -> None:
    assert instant(datetime(2026, 11, 29, 20), ZURICH) == datetime(2026, 11, 29, 19, tzinfo=UTC)
    assert instant(datetime(2026, 7, 29, 20), ZURICH) == datetime(2026, 7, 29, 18, tzinfo=UTC)


def test_a_time_that_comes_twice_opens_with_the_first_and_closes_with_the_second() -> None:
    twice = datetime(2026, 10, 25, 2, 30)  # the clocks are set back at three
    assert instant(twice, ZURICH) == datetime(2026, 10, 25, 0, 30, tzinfo=UTC)
    assert instant(twice, ZURICH, last=True) == datetime(2026, 10, 25, 1, 30, tzinfo=UTC)
    found = window(twice, twice + timedelta(days=1), Late(), ZURICH)
    assert found.opens == datetime(2026, 10, 25, 0, 30, tzinfo=UTC)


@pytest.mark.parametrize("name", ["Europe/Nowhere", "", "../UTC", "localtime\0"])
def test_a_zone_that_there_is_not(name: str) -> None:
    with pytest.raises(UnusableInput, match="no time zone"):
        zone_named(name)


@pytest.mark.parametrize(
    ("late", "after", "standing", "share"),
    [
        (Late(), -SECOND, "open", 1),
        (Late(), timedelta(0), "open", 1),
        (Late(), SECOND, "closed", 0),
        (Late("accept"), timedelta(days=300), "late", 1),
        (Late("accept", days=2), timedelta(days=2), "late", 1),
        (Late("accept", days=2), timedelta(days=2) + SECOND, "closed", 0),
        (Late("reduce", 10, 5), SECOND, "late", Fraction(9, 10)),
        (Late("reduce", 10, 5), timedelta(days=1), "late", Fraction(9, 10)),
        (Late("reduce", 10, 5), timedelta(days=1) + SECOND, "late", Fraction(8, 10)),
        (Late("reduce", 60), timedelta(days=3), "late", 0),
    ],
)
def test_what_becomes_of_an_answer(
    late: Late, after: timedelta, standing: str, share: Fraction
) -> None:
    found = window(OPENS, CLOSES, late, ZURICH)
    assert found.closes is not None
    at = found.closes + after
    assert (found.standing(at), found.share(at)) == (standing, share)
    assert found.is_over(at) == (standing == "closed")


def test_before_opening_nothing_is_taken() -> None:
    found = window(OPENS, CLOSES, Late(), ZURICH)
    assert found.opens is not None
    assert found.standing(found.opens - SECOND) == "not_yet"
    assert found.standing(found.opens) == "open"
    assert window(None, None, Late(), ZURICH).standing(datetime.max.replace(tzinfo=UTC)) == "open"


def test_an_extension_moves_everything_that_counts_from_closing() -> None:
    usual = window(OPENS, CLOSES, Late("reduce", 10, 5), ZURICH)
    longer = window(
        OPENS, CLOSES, Late("reduce", 10, 5), ZURICH, extended=CLOSES + timedelta(days=3)
    )
    assert usual.ends is not None
    at = CLOSES.replace(tzinfo=ZURICH) + timedelta(days=2)
    assert (usual.standing(at), longer.standing(at)) == ("late", "open")
    assert longer.ends == usual.ends + timedelta(days=3)
    assert window(OPENS, CLOSES, Late(), ZURICH, extended=OPENS) == window(
        OPENS, CLOSES, Late(), ZURICH
    )


@given(
    mark=st.integers(0, 10_000).map(lambda whole: whole / 100),
    points=st.integers(1, 10_000).map(lambda whole: whole / 100),
    worth=st.integers(0, 10_000).map(lambda whole: whole / 100),
    share=st.fractions(0, 1),
)
def test_a_mark_on_a_sheet_is_its_share_to_half_a_hundredth(
    mark: float, points: float, worth: float, share: Fraction
) -> None:
    exact = Fraction(str(mark)) * share * Fraction(str(worth)) / Fraction(str(points))
    assert abs(Fraction(str(mark_on_sheet(mark, points, worth, share))) - exact) <= Fraction(1, 200)
    assert mark_on_sheet(mark, points, None, Fraction(1)) == mark
