from __future__ import annotations

import datetime as dt
import json
import math
from decimal import Decimal
from typing import Any
from uuid import UUID

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.processes.crossing import packed, unpacked
from jentrow.core.values import (
    DateText,
    Interval,
    TemporalText,
    TimestampText,
    TimeText,
    family_of,
    kind_of,
    kind_of_column,
    printed,
    to_json,
)

ID = UUID("12345678123456781234567812345678")


@pytest.mark.parametrize(
    ("value", "text"),
    [
        (None, "NULL"),
        (True, "true"),
        (5, "5"),
        (5.0, "5"),
        (-0.0, "0"),
        (2.50, "2.5"),
        (1e21, "1000000000000000000000"),
        (1e-7, "0.0000001"),
        (Decimal("2.500"), "2.5"),
        (Decimal("1E+3"), "1000"),
        (Decimal("NaN"), "NaN"),
        (Decimal("-Infinity"), "-Infinity"),
        (math.inf, "Infinity"),
        (math.nan, "NaN"),
        ("text ", "text "),
        (b"\x00\xff", "00ff"),
        (dt.date(2026, 8, 30), "2026-08-30"),
        (dt.datetime(2026, 8, 30, 12, 5), "2026-08-30 12:05:00"),
        (dt.time(12, 5), "12:05:00"),
        (Interval(0, 0, 0), "00:00:00"),
        (Interval(1, 2, 3_000_000), "1 month 2 days 00:00:03"),
        (Interval(-14, 1, -90_000_001), "-1 year -2 months 1 day -00:01:30.000001"),
        (Interval(0, 0, 36 * 3_600_000_000), "36:00:00"),
        (Interval(0, 1, 12 * 3_600_000_000), "1 day 12:00:00"),
        ([1, None, "a"], "[1, NULL, a]"),
        ({"b": 1.0, "a": [2]}, "{a: [2], b: 1}"),
        (ID, str(ID)),
    ],
)
def test_printed_forms(value: Any, text: str) -> None:
    assert printed(value) == text


@pytest.mark.parametrize(
    ("value", "family", "kind", "tagged"),
    [
        (Decimal("1.10"), "number", "decimal", {"decimal": "1.10"}),
        (
            dt.datetime(2026, 8, 30, 12),
            "temporal",
            "timestamp",
            {"timestamp": "2026-08-30 12:00:00"},
        ),
        (dt.date(2026, 8, 30), "temporal", "date", {"date": "2026-08-30"}),
        (dt.time(1, 2), "temporal", "time", {"time": "01:02:00"}),
        (dt.timedelta(minutes=1), "interval", "interval", {"interval": "00:01:00"}),
        (Interval(13, 0, 0), "interval", "interval", {"interval": "1 year 1 month"}),
        (DateText("infinity"), "temporal", "date", {"date": "infinity"}),
        (TimestampText("-infinity", True), "temporal", "timestamp", {"timestamp": "-infinity"}),
        (TimeText("24:00:00"), "temporal", "time", {"time": "24:00:00"}),
        (ID, "identifier", "identifier", {"identifier": str(ID)}),
        ((1, 2.0), "list", "list", {"list": [1, {"float": "2.0"}]}),
        ({"a": None}, "structure", "structure", {"structure": {"a": None}}),
        (True, "number", "boolean", True),
    ],
)
def test_families_kinds_and_tags(value: Any, family: str, kind: str, tagged: Any) -> None:
    assert (family_of(value), kind_of(value), to_json(value)) == (family, kind, tagged)


@given(st.integers(-9999, 9999), st.integers(-9999, 9999), st.integers(-(10**12), 10**12))
def test_an_interval_keeps_its_parts_and_is_compared_by_its_length(
    months: int, days: int, microseconds: int
) -> None:
    made = Interval(months, days, microseconds)
    crossed = unpacked(packed(made))
    assert type(crossed) is Interval
    parts = (crossed.months, crossed.whole_days, crossed.time)
    assert parts == (months, days, dt.timedelta(microseconds=microseconds))
    as_days = Interval(0, 30 * months + days, microseconds)
    assert (made, hash(made)) == (as_days, hash(as_days))
    assert made == made.length == as_days.length
    assert (printed(made) == printed(as_days)) == (months == 0)


@pytest.mark.parametrize("kind", [DateText, TimestampText, TimeText])
def test_a_time_that_is_told_as_a_text_stays_one(kind: type[TemporalText]) -> None:
    made = kind("24:00:00+02", True)
    crossed = unpacked(packed(made))
    assert (type(crossed), crossed, crossed.zoned) == (kind, made, True)
    assert printed(made) == "24:00:00+02"


def test_a_type_without_a_family_is_not_passed_on() -> None:
    with pytest.raises(TypeError, match="no family"):
        to_json(object())


@given(
    st.lists(st.one_of(st.none(), st.integers(), st.floats(), st.text(), st.binary()), max_size=5)
)
def test_json_keeps_every_value_apart(values: list[Any]) -> None:
    def back(cell: Any) -> Any:
        if not isinstance(cell, dict):
            return cell
        ((tag, text),) = cell.items()
        return {"integer": int, "float": float, "blob": bytes.fromhex}[tag](text)

    sent = json.loads(json.dumps([to_json(value) for value in values], allow_nan=False))
    for value, kept in zip(values, map(back, sent), strict=True):
        assert type(kept) is type(value)
        assert kept == value or (value != value and kept != kept)


@pytest.mark.parametrize(
    ("values", "kind"),
    [
        ([], "NULL"),
        ([None], "NULL"),
        ([1, None], "integer"),
        ([1, 2.0], "mixed"),
        (["a"], "text"),
    ],
)
def test_the_kind_of_a_column(values: list[Any], kind: str) -> None:
    assert kind_of_column(values) == kind
