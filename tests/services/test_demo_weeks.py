"""Whenever the demo is loaded, there is a sheet to hand in to."""

from __future__ import annotations

from datetime import datetime, timedelta

from hypothesis import example, given
from hypothesis import strategies as st

from jentrow.core.exercises.packs.reading import opened_pack
from jentrow.services.packs.demo import MADE_FOR, moved_to
from tests.demo_course import DEMO

with opened_pack(DEMO) as _PACK:
    SHEETS = _PACK.sheets


@given(st.datetimes(datetime(2026, 1, 1), datetime(2040, 1, 1)))
@example(datetime(2026, 11, 29, 19, 59, 59))
@example(datetime(2026, 11, 29, 20))
@example(datetime(2026, 11, 30, 8, 59))
def test_one_sheet_is_open_one_has_closed_and_one_is_to_come(now: datetime) -> None:
    moved = moved_to(now)
    assert moved % timedelta(weeks=1) == timedelta(0), "a Sunday stays one"
    stand = [
        "to come"
        if now < sheet.opens + moved
        else "open"
        if now < sheet.closes + moved
        else "closed"
        for sheet in SHEETS
        if sheet.opens and sheet.closes
    ]
    assert stand == ["closed", "open", "to come"]


def test_the_demo_is_made_for_a_day_of_its_own_week() -> None:
    assert moved_to(MADE_FOR) == timedelta(0)
