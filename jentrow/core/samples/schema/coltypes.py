"""The types of a sample's columns: their names in DDL, how text is read as them, how one is guessed.

The engine at hand may hold anything in any column; a sample is made for every engine, so that
values are read, and refused, by the type that the column declares.
"""

from __future__ import annotations

import datetime as dt
import json
import re
import uuid
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache
from typing import Final, Literal, TypeAlias

from jentrow.core.samples.schema.listvalues import read_list
from jentrow.core.values import Value

TypeName: TypeAlias = Literal[
    "integer", "decimal", "float", "text", "date", "time", "timestamp", "instant", "interval",
    "boolean", "binary", "identifier", "json", "list",
]  # fmt: skip
Form: TypeAlias = Literal["", "comma", "grouped", "d.m.y", "d/m/y", "m/d/y"]

DDL_NAMES: Final[dict[TypeName, str]] = {
    "integer": "INTEGER",
    "decimal": "DECIMAL",
    "float": "DOUBLE PRECISION",
    "text": "TEXT",
    "date": "DATE",
    "time": "TIME",
    "timestamp": "TIMESTAMP",
    "instant": "TIMESTAMP WITH TIME ZONE",
    "interval": "INTERVAL",
    "boolean": "BOOLEAN",
    "binary": "BLOB",
    "identifier": "UUID",
    "json": "JSON",
    "list": "TEXT[]",
}

TYPE_WORDS: Final[dict[TypeName, str]] = {
    name: {
        "instant": "timestamp with zone", "identifier": "UUID", "json": "JSON",
    }.get(name, name)
    for name in DDL_NAMES
}  # fmt: skip
"""The types as people call them."""

_WORDS: Final[tuple[tuple[TypeName, str], ...]] = (
    # The first that occurs in the declared type counts, as SQLite does it; what holds another comes
    # before it.
    ("list", r"\[\d*\]\s*$"),
    ("boolean", "BOOL"),
    ("interval", "INTERVAL"),
    ("instant", "TIMESTAMPTZ|DATETIMEOFFSET|(?:TIMESTAMP|DATETIME).*WITH (?:LOCAL )?TIME ZONE"),
    ("timestamp", "TIMESTAMP|DATETIME"),
    ("integer", "INT|SERIAL|YEAR"),
    ("text", "CHAR|CLOB|TEXT|STRING|ENUM"),
    ("binary", "BLOB|BYTEA|BINARY"),
    ("json", "JSON"),
    ("identifier", "UUID|UNIQUEIDENTIFIER"),
    ("float", "REAL|FLOA|DOUB"),
    ("date", "DATE"),
    ("time", "TIME(?!TZ|.*WITH TIME ZONE)"),
    ("decimal", "DEC|NUM|MONEY"),
)


@dataclass(frozen=True, slots=True)
class ColumnType:
    """A type, and the form in which a file writes it (a comma for the point, days first)."""

    name: TypeName
    form: Form = ""


@lru_cache(1_000)
def type_of_declaration(declared: str) -> TypeName | None:
    """The type that a declaration such as ``VARCHAR(30)`` means; None where it means any."""
    upper = declared.upper()
    return next((name for name, pattern in _WORDS if re.search(pattern, upper)), None)


class NotOfType(ValueError):
    """Raised inside this package where a text is not of a type; says in words what is."""


_INTEGER: Final = re.compile(r"[+-]?\d{1,19}\Z", re.ASCII)
_DECIMAL: Final = re.compile(r"[+-]?(?:\d+(?:\.\d*)?|\.\d+)\Z", re.ASCII)
_FLOAT: Final = re.compile(r"[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?\Z", re.ASCII)
_COMMA: Final = re.compile(r"[+-]?(?:\d{1,3}(?:\.\d{3})+|\d+)(?:,\d+)?\Z", re.ASCII)
_GROUPED: Final = re.compile(r"[+-]?(?:\d{1,3}(?:,\d{3})+|\d+)(?:\.\d+)?\Z", re.ASCII)
"""Numbers whose thousands may stand apart, by points before a comma or by commas before a point."""
_DATE: Final = re.compile(r"(\d{4})-(\d\d)-(\d\d)\Z", re.ASCII)
_DAY_FIRST: Final = re.compile(r"(\d{1,2})([./])(\d{1,2})\2(\d{4})\Z", re.ASCII)
_TIMESTAMP: Final = re.compile(
    r"(\d{4}-\d\d-\d\d)[ T](\d\d:\d\d(?::\d\d(?:\.\d{1,6})?)?)(Z|[+-]\d\d(?::?\d\d)?)?\Z", re.ASCII
)
_ZONE: Final = re.compile(r"(?:Z|[+-]\d\d(?::?\d\d)?)\Z", re.ASCII)
_TIME: Final = re.compile(r"(?:[01]?\d|2[0-3]):[0-5]\d(?::[0-5]\d(?:\.\d{1,6})?)?\Z", re.ASCII)
_PART: Final = r"[+-]?\d+(?:\.\d+)? ?(?:year|yr|mon|month|week|day|hour|hr|min|minute|sec|second)s?"
_INTERVAL: Final = re.compile(
    rf"(?:{_PART}(?: {_PART})*(?: [+-]?\d+:\d\d(?::\d\d(?:\.\d+)?)?)?|"
    r"[+-]?\d+:\d\d(?::\d\d(?:\.\d+)?)?|"
    r"P(?=.)(?:[+-]?[\d.]+[YMWD])*(?:T(?=.)(?:[+-]?[\d.]+[HMS])*)?)\Z",
    re.ASCII | re.IGNORECASE,
)
_IDENTIFIER: Final = re.compile(r"[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}\Z", re.ASCII | re.I)
TRUTHS: Final = {
    **dict.fromkeys(("true", "t", "yes", "y"), True),
    **dict.fromkeys(("false", "f", "no", "n"), False),
}
"""What a boolean is called in files and scripts, in small letters; 1 and 0 stand for it too."""
_BINARY: Final = re.compile(r"[xX]'((?:[0-9a-fA-F]{2})*)'\Z")

WHAT_IT_TAKES: Final[dict[TypeName, str]] = {
    "integer": "a whole number",
    "decimal": "a number",
    "float": "a number",
    "text": "text",
    "date": "a date such as 2026-07-03",
    "time": "a time of day such as 18:30:00",
    "timestamp": "a date and time such as 2026-07-03 18:30:00",
    "instant": "a date and time with its zone such as 2026-07-03 18:30:00+02:00",
    "interval": "a length of time such as 1 day 02:30:00",
    "boolean": "true or false",
    "binary": "bytes in hexadecimal such as x'48AF'",
    "identifier": "a UUID such as 5b0c3f7e-2d41-4c8a-9f06-1e7a8d2b6c90",
    "json": 'JSON such as {"depth": 1.5}',
    "list": 'a list such as ["steep", "wet"]',
}


def read_value(text: str, type: ColumnType) -> Value:
    """One value from its text. Raises :class:`NotOfType`."""
    value = _READERS[type.name](text.strip() if type.name != "text" else text, type.form)
    if value is None:
        raise NotOfType(f"{text!r} is not {WHAT_IT_TAKES[type.name]}")
    return value


def _read_integer(text: str, form: Form) -> Value:
    if not _INTEGER.match(text):
        return None
    value = int(text)
    return value if -(2**63) <= value < 2**63 else None


def _read_number(text: str, form: Form) -> Value:
    pattern = {"comma": _COMMA, "grouped": _GROUPED}.get(form, _FLOAT)
    if not pattern.match(text):
        return None
    if form == "comma":
        text = text.replace(".", "").replace(",", ".")
    elif form == "grouped":
        text = text.replace(",", "")
    return int(text) if _INTEGER.match(text) and len(text) < 19 else float(text)


def _read_date(text: str, form: Form) -> Value:
    try:
        if form == "":
            return text if _DATE.match(text) and dt.date.fromisoformat(text) else None
        found = _DAY_FIRST.match(text)
        if not found or found.group(2) != form[1]:
            return None
        first, second, year = int(found[1]), int(found[3]), int(found[4])
        month, day = (first, second) if form[0] == "m" else (second, first)
        return dt.date(year, month, day).isoformat()
    except ValueError:
        return None


def _read_timestamp(text: str, form: Form) -> Value:
    if form:
        day, _, clock = text.partition(" ")
        read = _read_date(day, form), _read_time(clock.strip() or "00:00", "")
        return f"{read[0]} {read[1]}" if None not in read else None
    found = _TIMESTAMP.match(text)
    try:
        if found:
            dt.datetime.fromisoformat(text)
            clock = found[2] if found[2].count(":") == 2 else found[2] + ":00"
            return f"{found[1]} {clock}{found[3] or ''}"
        return text + " 00:00:00" if _DATE.match(text) and dt.date.fromisoformat(text) else None
    except ValueError:
        return None


def _read_time(text: str, form: Form) -> Value:
    if not _TIME.match(text):
        return None
    hours, _, rest = text.partition(":")
    return f"{hours:0>2}:{rest}" + (":00" if len(rest) == 2 else "")


def _read_interval(text: str, form: Form) -> Value:
    return text if _INTERVAL.match(text) else None


def _read_identifier(text: str, form: Form) -> Value:
    return text.lower() if _IDENTIFIER.match(text) else None


def _read_json(text: str, form: Form) -> Value:
    try:
        json.loads(text, parse_constant=_no_json)
    except (ValueError, RecursionError):
        return None
    return text


def _no_json(word: str) -> None:
    raise ValueError(f"{word} is no JSON")


def _read_list(text: str, form: Form) -> Value:
    return read_list(text)


def _read_boolean(text: str, form: Form) -> Value:
    if text in ("1", "0"):
        return int(text)
    truth = TRUTHS.get(text.lower())
    return None if truth is None else int(truth)


def _read_binary(text: str, form: Form) -> Value:
    found = _BINARY.match(text)
    return bytes.fromhex(found[1]) if found else None


def _read_text(text: str, form: Form) -> Value:
    return text


_READERS: Final[dict[TypeName, Callable[[str, Form], Value]]] = {
    "integer": _read_integer,
    "decimal": _read_number,
    "float": _read_number,
    "text": _read_text,
    "date": _read_date,
    "time": _read_time,
    "timestamp": _read_timestamp,
    "instant": _read_timestamp,
    "interval": _read_interval,
    "boolean": _read_boolean,
    "binary": _read_binary,
    "identifier": _read_identifier,
    "json": _read_json,
    "list": _read_list,
}


def read_column(
    texts: Sequence[str | None], type: ColumnType
) -> tuple[Sequence[Value], list[tuple[int, str]]]:
    """A column's values from their texts, and what is wrong with which (its index, in words).

    An empty field of any type but text is NULL. Values that are wrong come out as NULL. Where all
    texts are written plainly they are left as they are: the engine reads them by the declaration.
    """
    if type.name == "text" or (not type.form and _all_plain(texts, type.name)):
        return texts, []
    values: list[Value] = []
    problems: list[tuple[int, str]] = []
    read: dict[str, Value] = {}
    for at, text in enumerate(texts):
        if text is None or not text.strip():
            values.append(None)
            continue
        if text not in read:
            try:
                read[text] = read_value(text, type)
            except NotOfType as problem:
                problems.append((at, str(problem)))
                values.append(None)
                continue
        values.append(read[text])
    return values, problems


def another(value: Value, type: TypeName | None, number: int) -> str:
    """A text unlike a value, of the same type; ``number``, from 2, tells one from the next."""
    match type:
        case "date" | "timestamp" | "instant":
            with suppress(ValueError, OverflowError):
                moment = dt.datetime.fromisoformat(str(value)) + dt.timedelta(days=number - 1)
                return moment.date().isoformat() if type == "date" else moment.isoformat(" ")
        case "time":
            return f"{number // 60 % 24:02}:{number % 60:02}:00"
        case "interval":
            return f"{number} days"
        case "identifier":
            return str(uuid.uuid5(uuid.NAMESPACE_OID, f"{value} {number}"))
        case "json" | "list":
            return f"[{number}]"
    return f"{value} {number}"


def bytes_or_text(text: str | None) -> bytes | str | None:
    """A field of a column that is declared BLOB: ``x'48AF'`` are bytes, all else is text."""
    found = _BINARY.match(text) if text else None
    return bytes.fromhex(found[1]) if found else text


_DAY: Final = (
    r"\d{4}-(?:(?:0[13578]|1[02])-(?:0[1-9]|[12]\d|3[01])|(?:0[469]|11)-(?:0[1-9]|[12]\d|30)|"
    r"02-(?:0[1-9]|1\d|2[0-8]))"
)
_CLOCK: Final = r"(?:[01]\d|2[0-3]):[0-5]\d:[0-5]\d"


def _plain_column(one: str) -> re.Pattern[str]:
    """A whole column at once, its texts one a line."""
    return re.compile(rf"(?:{one})(?:\n(?:{one}))*+\Z", re.ASCII)


_PLAIN_COLUMNS: Final[dict[TypeName, re.Pattern[str]]] = {
    "integer": _plain_column(r"-?\d{1,18}"),
    "decimal": _plain_column(r"-?\d{1,15}(?:\.\d{1,15})?"),
    "float": _plain_column(r"-?\d{1,15}(?:\.\d{1,17})?(?:[eE][+-]?\d{1,3})?"),
    "date": _plain_column(_DAY),
    "timestamp": _plain_column(f"{_DAY} {_CLOCK}"),
}


def _all_plain(texts: Sequence[str | None], type: TypeName) -> bool:
    """Whether every text is NULL or plainly of the type: one look at the whole column."""
    pattern = _PLAIN_COLUMNS.get(type)
    if pattern is None:
        return False
    try:
        whole = "\n".join(texts)  # type: ignore[arg-type]
    except TypeError:
        known = [text for text in texts if text is not None]
        if not known:
            return True
        whole = "\n".join(known)
    return pattern.match(whole) is not None


_NO_LEADING_ZERO: Final = re.compile(
    r"[+-]?(?:0|[1-9]\d*)(?:[.,]\d+)?(?:[eE][+-]?\d+)?\Z", re.ASCII
)


_NO_LEADING_ZERO_OF_MANY: Final = re.compile(r"[+-]?(?:0(?![\d])|[1-9])[\d.,]*\Z", re.ASCII)


def guess_type(texts: Sequence[str | None]) -> ColumnType:
    """The narrowest type that takes every text; text where none does, or where there is none.

    Numbers with leading zeros are text: they are codes, and would lose their zeros.
    """
    known = {text.strip() for text in texts if text is not None and text.strip()}
    if not known:
        return ColumnType("text")
    if all(map(_NO_LEADING_ZERO.match, known)):
        if all(_read_integer(text, "") is not None for text in known):
            return ColumnType("integer")
        if all(map(_DECIMAL.match, known)):
            return ColumnType("decimal")
        if all(map(_FLOAT.match, known)):
            return ColumnType("float")
    if all(map(_NO_LEADING_ZERO_OF_MANY.match, known)):
        if all(map(_COMMA.match, known)) and any("," in text for text in known):
            return ColumnType("decimal", "comma")
        if all(map(_GROUPED.match, known)) and any("," in text for text in known):
            return ColumnType("decimal", "grouped")
    if all(text.lower() in TRUTHS for text in known):
        return ColumnType("boolean")
    if all(_read_date(text, "") is not None for text in known):
        return ColumnType("date")
    if all(map(_TIMESTAMP.match, known)) and all(_read_timestamp(text, "") for text in known):
        zoned = all(_ZONE.search(text) for text in known)
        return ColumnType("instant" if zoned else "timestamp")
    if all(map(_TIME.match, known)):
        return ColumnType("time")
    if all(map(_IDENTIFIER.match, known)):
        return ColumnType("identifier")
    forms: tuple[Form, ...] = ("d.m.y", "d/m/y", "m/d/y")
    for form in forms:
        if all(_read_date(text, form) is not None for text in known):
            return ColumnType("date", form)
        if all(_read_timestamp(text, form) is not None for text in known):
            return ColumnType("timestamp", form)
    return ColumnType("text")
