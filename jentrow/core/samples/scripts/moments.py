"""Moments that a script writes as a calculation, as bytes, or by a format of its own."""

from __future__ import annotations

import datetime as dt
import re
from collections.abc import Callable
from typing import Any, Final

from sqlglot import exp

_DAYS: Final = {"DAY": 1, "D": 1, "DD": 1, "DAYOFYEAR": 1, "WEEK": 7, "WK": 7, "WW": 7}
_SECONDS: Final = {
    "HOUR": 3600, "HH": 3600, "MINUTE": 60, "MI": 60, "N": 60, "SECOND": 1, "SS": 1, "S": 1,
}  # fmt: skip
_MONTHS: Final = {
    "MONTH": 1, "MM": 1, "M": 1, "QUARTER": 3, "QQ": 3, "Q": 3, "YEAR": 12, "YY": 12, "YYYY": 12,
}  # fmt: skip
"""Units of time, as DATEADD may call them."""

_CALCULATED: Final = (
    exp.Cast, exp.DateStrToDate, exp.TsOrDsToDate, exp.TimeStrToTime, exp.StrToDate, exp.StrToTime,
    exp.Convert, exp.Paren, exp.Add, exp.Sub, exp.Date,
)  # fmt: skip
"""What a moment is written as to which days may be added: a bare text may be a text."""

STYLES: Final = {
    "101": "%m/%d/%Y", "102": "%Y.%m.%d", "103": "%d/%m/%Y", "104": "%d.%m.%Y", "105": "%d-%m-%Y",
    "106": "%d %b %Y", "107": "%b %d, %Y", "110": "%m-%d-%Y", "111": "%Y/%m/%d", "112": "%Y%m%d",
    "113": "%d %b %Y %H:%M:%S",
}  # fmt: skip
"""T-SQL's numbers of the ways to write a date."""

_TICKS: Final = 300
"""In so many parts T-SQL's DATETIME cuts a second."""


def moved(node: exp.Expr, value: Callable[[exp.Expr | None], Any]) -> str | None:
    """A moment so much later or earlier than one that is written out; None where it is no such.

    ``value`` tells what a literal stands for.
    """
    sign, unit = 1, "DAY"
    match node:
        case exp.Add() | exp.Sub() if isinstance(node.this, _CALCULATED):
            sign = -1 if isinstance(node, exp.Sub) else 1
            amount = node.expression
            if isinstance(amount, exp.Interval):
                unit, amount = str(amount.args.get("unit") or "").upper().rstrip("S"), amount.this
        case exp.DateAdd():
            unit, amount = str(node.args.get("unit") or "DAY").upper(), node.expression
        case exp.AddMonths():
            unit, amount = "MONTH", node.expression
        case exp.DateFromParts():
            parts = [str(value(node.args.get(name))) for name in ("year", "month", "day")]
            try:
                return dt.date(*map(int, parts)).isoformat()
            except ValueError:
                return None
        case _:
            return None
    try:
        begun = dt.datetime.fromisoformat(str(value(node.this)))
        count = sign * float(str(value(amount)))
        found = _later(begun, count, unit)
    except (ValueError, OverflowError):
        return None
    return None if found is None else day_or_moment(found)


def day_or_moment(found: dt.datetime) -> str:
    """A day where it is midnight, with the time of day otherwise."""
    return found.date().isoformat() if found.time() == dt.time() else found.isoformat(" ")


def _later(begun: dt.datetime, count: float, unit: str) -> dt.datetime | None:
    if unit in _MONTHS:
        months = begun.year * 12 + begun.month - 1 + int(count) * _MONTHS[unit]
        year, month = divmod(months, 12)
        following = dt.date(year + (month == 11), (month + 1) % 12 + 1, 1)
        last = (following - dt.timedelta(days=1)).day
        return begun.replace(year=year, month=month + 1, day=min(begun.day, last))
    if unit in _DAYS:
        return begun + dt.timedelta(seconds=round(count * _DAYS[unit] * 86_400))
    return begun + dt.timedelta(seconds=count * _SECONDS[unit]) if unit in _SECONDS else None


def moment_of_bytes(node: exp.Cast) -> str | None:
    """CAST(0x0000901A00000000 AS DATETIME): days since 1900, and parts of a second of that day.

    A DATE is the days since the year 1, its lowest byte first. None for any other type.
    """
    said = bytes.fromhex(node.this.name.zfill(len(node.this.name) + len(node.this.name) % 2))
    kind = str(node.to.this.name if isinstance(node.to.this, exp.DType) else node.to.this)
    try:
        if kind == "DATE" and len(said) in (3, 4):
            days = int.from_bytes(said, "little")
            return (dt.date(1, 1, 1) + dt.timedelta(days=days)).isoformat()
        if kind in ("DATETIME", "TIMESTAMP", "TIMESTAMPNTZ") and len(said) == 8:
            days, ticks = (
                int.from_bytes(part, "big", signed=True) for part in (said[:4], said[4:])
            )
            clock = dt.timedelta(days=days, milliseconds=round(ticks * 1000 / _TICKS))
            return (dt.datetime(1900, 1, 1) + clock).isoformat(" ")
    except OverflowError:
        pass
    return None


def read_by_format(text: str, form: str) -> dt.datetime | None:
    """A text read by a format in which Oracle's RR is a year of this century or the last."""
    is_round = "RR" in form
    form = form.replace("RRRR", "%Y").replace("RR", "%y")
    form = re.sub(r"\bFF\d?\b", "%f", form)
    form = re.sub(r"\b[AP]\.?M\b\.?", "%p", form)
    text = re.sub(r"([.,]\d{6})\d+", r"\1", text)
    try:
        found = dt.datetime.strptime(text, form)
        # 50 to 99 are of the last century: https://docs.oracle.com/en/database/oracle/oracle-database/23/sqlrf/Format-Models.html
        return found.replace(year=found.year - 100) if is_round and found.year >= 2050 else found
    except ValueError:
        return None
