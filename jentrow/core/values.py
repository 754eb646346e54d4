"""Cell values: the families they belong to, their printed forms, and their JSON.

A cell holds what the engine gave, as one of Python's types:

    ============================  ==========================================
    family                        Python type
    ============================  ==========================================
    number                        ``int``, ``bool``, ``float``, ``Decimal``
    text                          ``str``
    temporal                      ``date``, ``datetime``, ``time``
    interval                      ``timedelta``
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
from decimal import Decimal
from typing import Any, Final, Literal, TypeAlias
from uuid import UUID

Value: TypeAlias = Any
"""One cell. Only the types in the table above occur; JSON-like values may nest."""

Family: TypeAlias = Literal[
    "number", "text", "temporal", "interval", "binary", "list", "structure", "identifier", "null"
]

_FAMILY_OF_TYPE: Final[dict[type, Family]] = {
    int: "number",
    bool: "number",
    float: "number",
    Decimal: "number",
    str: "text",
    dt.date: "temporal",
    dt.datetime: "temporal",
    dt.time: "temporal",
    dt.timedelta: "interval",
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
    dt.timedelta: "interval",
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


def kind_of_column(values: list[Value]) -> str:
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
    """Days where there are some, and the time; what is negative has one sign in front of it all."""
    sign, size = ("-", -value) if value < dt.timedelta(0) else ("", value)
    days, rest = divmod(size, dt.timedelta(days=1))
    time = (dt.datetime.min + rest).time().isoformat()
    return f"{sign}{days} day{'' if days == 1 else 's'} {time}" if days else f"{sign}{time}"


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
    ``{"timestamp": …}``, ``{"interval": "<seconds>"}``, ``{"identifier": …}``, ``{"list": […]}``,
    ``{"structure": {…}}``.
    """
    match value:
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
            return {"interval": str(value.total_seconds())}
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
