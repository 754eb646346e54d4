"""Cell values: the families they belong to, their printed forms, and their JSON.

A cell holds what the engine gave, as one of Python's types:

    ============================  ==========================================
    family                        Python type
    ============================  ==========================================
    number                        ``int``, ``bool``, ``float``, ``Decimal``
    text                          ``str``
    temporal                      ``date``, ``datetime``, ``time``, :class:`TemporalText`
    interval                      ``timedelta``, :class:`Interval`
    binary                        ``bytes``
    list                          ``list``, ``tuple``
    structure                     ``dict``
    identifier                    ``UUID``
    NULL                          ``None``
    ============================  ==========================================
"""

from __future__ import annotations

import datetime as dt
import math
from collections.abc import Sequence
from decimal import Decimal
from typing import Any, Final, Literal, Self, TypeAlias
from uuid import UUID

Value: TypeAlias = Any
"""One cell. Only the types in the table above occur; JSON-like values may nest."""

Family: TypeAlias = Literal[
    "number", "text", "temporal", "interval", "binary", "list", "structure", "identifier", "null"
]


class Interval(dt.timedelta):
    """An interval whose months and days are no lengths: a month is not always as long as another.

    It is compared as PostgreSQL compares it: by its length, a month as thirty days of 24 hours
    (https://www.postgresql.org/docs/15/datatype-datetime.html#DATATYPE-INTERVAL-INPUT).
    """

    months: int
    whole_days: int

    def __new__(cls, months: int, days: int, microseconds: int) -> Interval:
        """Each part has a sign of its own. Raises ``OverflowError`` beyond 999,999,999 days."""
        made = super().__new__(cls, days=30 * months + days, microseconds=microseconds)
        made.months, made.whole_days = months, days
        return made

    @property
    def time(self) -> dt.timedelta:
        """What it holds beside its months and days."""
        return self.length - dt.timedelta(days=30 * self.months + self.whole_days)

    @property
    def length(self) -> dt.timedelta:
        """All of it as one length."""
        return dt.timedelta(self.days, self.seconds, self.microseconds)

    def __reduce__(self) -> tuple[type[Interval], tuple[int, int, int]]:
        return Interval, (self.months, self.whole_days, self.time // dt.timedelta(microseconds=1))

    def __repr__(self) -> str:
        return f"Interval{self.__reduce__()[1]}"


def interval_of(text: str, months: int, days: int, seconds: Decimal) -> Interval | str:
    """The interval that an engine told in words; the words where it is longer than Python can hold."""
    try:
        return Interval(months, days, int(seconds * 1_000_000))
    except OverflowError:
        return text


class TemporalText(str):
    """A date or a time that Python's own types cannot hold, as its engine writes it.

    Years before 1 or after 9999, infinite dates, 24:00, days of month 0, billionths of a second.
    """

    zoned: bool

    def __new__(cls, text: str, zoned: bool = False) -> Self:
        """``zoned``: whether it has a time zone."""
        made = super().__new__(cls, text)
        made.zoned = zoned
        return made

    @property
    def same(self) -> tuple[str, bool]:
        """What two that are one and the same share: a date is the timestamp at its midnight."""
        return self.replace(_MIDNIGHT, ""), self.zoned

    def __reduce__(self) -> tuple[type[Self], tuple[str, bool]]:
        return type(self), (str(self), self.zoned)

    def __repr__(self) -> str:
        return f"{type(self).__name__}{self.__reduce__()[1]}"


class DateText(TemporalText):
    """A date that ``date`` cannot hold."""


class TimestampText(TemporalText):
    """A timestamp that ``datetime`` cannot hold."""


class TimeText(TemporalText):
    """A time of day that ``time`` cannot hold."""

    @property
    def same(self) -> tuple[str, bool]:
        """See :class:`TemporalText`."""
        return f"T{self}", self.zoned


_MIDNIGHT: Final = " 00:00:00"

_FAMILY_OF_TYPE: Final[dict[type, Family]] = {
    int: "number",
    bool: "number",
    float: "number",
    Decimal: "number",
    str: "text",
    dt.date: "temporal",
    dt.datetime: "temporal",
    dt.time: "temporal",
    DateText: "temporal",
    TimestampText: "temporal",
    TimeText: "temporal",
    dt.timedelta: "interval",
    Interval: "interval",
    bytes: "binary",
    list: "list",
    tuple: "list",
    dict: "structure",
    UUID: "identifier",
    type(None): "null",
}

_KIND_OF_TYPE: Final[dict[type, str]] = {
    int: "integer",
    bool: "boolean",
    float: "float",
    Decimal: "decimal",
    str: "text",
    dt.date: "date",
    dt.datetime: "timestamp",
    dt.time: "time",
    DateText: "date",
    TimestampText: "timestamp",
    TimeText: "time",
    dt.timedelta: "interval",
    Interval: "interval",
    bytes: "binary",
    list: "list",
    tuple: "list",
    dict: "structure",
    UUID: "identifier",
    type(None): "NULL",
}

JSON_SAFE_INTEGER: Final = 2**53
"""Integers of this size or larger travel as text: many JSON readers would round them."""


def family_of(value: Value) -> Family:
    """The family that a value belongs to (DESIGN: values compare only within a family)."""
    return _FAMILY_OF_TYPE[type(value)]


def kind_of(value: Value) -> str:
    """The finer kind of a value, in words, such as ``integer``, ``float`` or ``date``."""
    return _KIND_OF_TYPE[type(value)]


def kind_of_column(values: Sequence[Value]) -> str:
    """The kind that a column's values share, ``mixed`` where they do not, ``NULL`` if all are."""
    kinds = {_KIND_OF_TYPE[kind] for kind in set(map(type, values))} - {"NULL"}
    if not kinds:
        return "NULL"
    return kinds.pop() if len(kinds) == 1 else "mixed"


def printed(value: Value) -> str:
    """The printed form: numbers without trailing zeros, true / false, ISO dates.

    NULL prints as ``NULL`` here; whoever compares printed forms treats NULL before.
    """
    match value:
        case None:
            return "NULL"
        case bool():
            return "true" if value else "false"
        case float():
            return _printed_float(value)
        case Decimal():
            return _printed_decimal(value)
        case dt.datetime():
            return value.isoformat(sep=" ")
        case dt.date() | dt.time():
            return value.isoformat()
        case dt.timedelta():
            return _printed_interval(value)
        case bytes():
            return value.hex()
        case list() | tuple():
            return "[" + ", ".join(printed(item) for item in value) + "]"
        case dict():
            pairs = sorted((str(key), printed(item)) for key, item in value.items())
            return "{" + ", ".join(f"{key}: {item}" for key, item in pairs) + "}"
        case _:
            return str(value)


def _printed_interval(value: dt.timedelta) -> str:
    """Days where there are some, and the time; what is negative has one sign in front of it all.

    Where months and days are no lengths, each part has its own sign.
    """
    if isinstance(value, Interval):
        years = int(value.months / 12)
        months = value.months - 12 * years
        counts = ((years, "year"), (months, "month"), (value.whole_days, "day"))
        parts = [
            f"{count} {word}{'' if abs(count) == 1 else 's'}" for count, word in counts if count
        ]
        if value.time or not parts:
            parts.append(_printed_time(value.time))
        return " ".join(parts)
    sign, size = ("-", -value) if value < dt.timedelta(0) else ("", value)
    days, rest = divmod(size, dt.timedelta(days=1))
    time = _printed_time(rest)
    return f"{sign}{days} day{'' if days == 1 else 's'} {time}" if days else f"{sign}{time}"


def _printed_time(value: dt.timedelta) -> str:
    """Hours, of which there may be more than a day has, minutes and seconds."""
    sign = "-" if value < dt.timedelta(0) else ""
    minutes, rest = divmod(abs(value), dt.timedelta(minutes=1))
    below = f".{rest.microseconds:06}" if rest.microseconds else ""
    return f"{sign}{minutes // 60:02}:{minutes % 60:02}:{rest.seconds:02}{below}"


def _printed_float(value: float) -> str:
    if math.isnan(value):
        return "NaN"
    if math.isinf(value):
        return "Infinity" if value > 0 else "-Infinity"
    return _printed_decimal(Decimal(repr(value)))


def _printed_decimal(value: Decimal) -> str:
    if not value.is_finite():
        return "NaN" if value.is_nan() else ("Infinity" if value > 0 else "-Infinity")
    if value == 0:
        return "0"
    text = format(value, "f")
    return text.rstrip("0").rstrip(".") if "." in text else text


def to_json(value: Value) -> Any:
    """A value as JSON keeps it: plain where nothing is lost, else one tagged object.

    ``{"integer": "9007199254740993"}``, ``{"float": "5.0"}`` (a float without fraction, or not
    finite), ``{"blob": "<hex>"}``, ``{"decimal": "1.10"}``, ``{"date": …}``, ``{"time": …}``,
    ``{"timestamp": …}``, ``{"interval": "<printed>"}``, ``{"identifier": …}``, ``{"list": […]}``,
    ``{"structure": {…}}``.
    """
    match value:
        case TemporalText():
            return {kind_of(value): str(value)}
        case None | bool() | str():
            return value
        case int():
            return value if abs(value) < JSON_SAFE_INTEGER else {"integer": str(value)}
        case float():
            plain = math.isfinite(value) and not value.is_integer()
            return value if plain else {"float": _tagged_float(value)}
        case Decimal():
            return {"decimal": str(value)}
        case bytes():
            return {"blob": value.hex()}
        case dt.datetime():
            return {"timestamp": value.isoformat(sep=" ")}
        case dt.date():
            return {"date": value.isoformat()}
        case dt.time():
            return {"time": value.isoformat()}
        case dt.timedelta():
            return {"interval": _printed_interval(value)}
        case UUID():
            return {"identifier": str(value)}
        case list() | tuple():
            return {"list": [to_json(item) for item in value]}
        case dict():
            return {"structure": {str(key): to_json(item) for key, item in value.items()}}
        case _:
            raise TypeError(f"no family holds a {type(value).__name__}")


def _tagged_float(value: float) -> str:
    return repr(value) if math.isfinite(value) else _printed_float(value)
