"""Values that a script's INSERTs write, as the texts and numbers that stand in a sample's file."""

from __future__ import annotations

import re
import uuid
from collections.abc import Collection, Sequence
from typing import Any, Final

from sqlglot import exp

from jentrow.core.samples.schema.coltypes import TRUTHS
from jentrow.core.samples.schema.listvalues import NumberText, json_text, read_list
from jentrow.core.samples.schema.tables import ColumnSchema, TableSchema
from jentrow.core.samples.scripts.moments import (
    STYLES,
    day_or_moment,
    moment_of_bytes,
    moved,
    read_by_format,
)

_MOMENT: Final = re.compile(
    r"(\d{4}-\d\d-\d\d)(?:[ T](\d\d:\d\d(?::\d\d)?)(?:\.(\d{1,9}))?)?\s*(Z|[+-]\d\d(?::?\d\d)?)?\Z",
    re.ASCII,
)
_DAY: Final = re.compile(r"\A(\d{4})(\d\d)(\d\d)(?=[ T]|\Z)", re.ASCII)
_UNSEPARATED: Final = ("tsql", "mysql", "postgres")
"""Dialects in which a day may be written as 20260102."""
_USA: Final = re.compile(r"\A(\d\d)/(\d\d)/(\d{4})\Z", re.ASCII)
_EUROPEAN: Final = re.compile(r"\A(\d\d)\.(\d\d)\.(\d{4})\Z", re.ASCII)
"""How Db2 takes a date beside ISO's own way."""
_CLOCK: Final = re.compile(r"(\d\d?:\d\d(?::\d\d)?)(?:\.(\d{1,9}))?\Z", re.ASCII)
_HEXADECIMAL: Final = re.compile(r"\\x((?:[0-9a-fA-F]{2})*)\Z")
_BYTE: Final = re.compile(rb"\\x([0-9a-fA-F]{2})")
_LENGTHS: Final = re.compile(r"(?:TO|MAKE)_(YEAR|MONTH|WEEK|DAY|HOUR|MINUTE|SECOND)S\Z", re.I)


class _Unknown:
    """What stands for a cell that is no literal."""


_UNKNOWN: Final = _Unknown()


def written_for_sqlite(statement: exp.Insert, table: TableSchema | None, dialect: str) -> None:
    """Changes the rows of an INSERT in a dialect into what SQLite takes.

    ``table`` is the one that they go into.
    """
    rows = statement.expression
    if isinstance(rows, exp.Values):
        columns = _columns_of(statement, table)
        for row in rows.expressions:
            cells = row.expressions if isinstance(row, exp.Tuple) else [row]
            for at, cell in enumerate(cells):
                written = plain_value(cell, columns[at] if at < len(columns) else None, dialect)
                if written is not cell:
                    cell.replace(written)
        return
    # Rows that a query gives: Oracle's SELECT … FROM DUAL UNION ALL, and such.
    for cell in list(statement.find_all(*_MARKED)):
        written = plain_value(cell, None, dialect)
        if written is not cell:
            cell.replace(written)


def _text_columns(tables: Sequence[TableSchema]) -> frozenset[str]:
    """The columns that hold texts in every table that has one of the name, in small letters."""
    texts: dict[str, bool] = {}
    for table in tables:
        for column in table.columns:
            name = column.name.lower()
            texts[name] = texts.get(name, True) and column.type_name == "text"
    return frozenset(name for name, is_text in texts.items() if is_text)


def with_plain_texts(statement: exp.Expr, dialect: str, tables: Sequence[TableSchema]) -> None:
    """Changes texts as T-SQL writes and joins them: N'it' and a plus, which SQLite takes for a sum.

    ``tables`` are those whose columns it may name. Most statements have no sum, and ask nothing of them.
    """
    if dialect != "tsql":
        return
    sums = list(statement.find_all(exp.Add))
    texts = _text_columns(tables) if sums else frozenset()
    for node in sums:
        if _joins_texts(node, texts):
            node.replace(exp.DPipe(this=node.this, expression=node.expression))
    for part in list(statement.find_all(exp.National)):
        part.replace(exp.Literal.string(part.name))


def _joins_texts(node: exp.Expr, texts: Collection[str]) -> bool:
    """Whether a plus of T-SQL's stands between texts, as far as the text and its columns say so."""
    match node:
        case exp.Add() | exp.DPipe():
            return _joins_texts(node.this, texts) or _joins_texts(node.expression, texts)
        case exp.Paren():
            return _joins_texts(node.this, texts)
        case exp.Literal():
            return bool(node.is_string)
        case exp.Column():
            return node.name.lower() in texts
        case exp.Cast():
            return bool(node.to.is_type(*exp.DataType.TEXT_TYPES))
    is_char = isinstance(node, exp.Anonymous) and node.name.upper() == "NCHAR"
    return is_char or isinstance(node, _TEXTS)


_TEXTS: Final = (
    exp.National, exp.Chr, exp.Concat, exp.Upper, exp.Lower, exp.Substring, exp.Trim, exp.Replace,
    exp.Space, exp.Repeat,
)  # fmt: skip
"""What gives a text whatever it is given."""

_MARKED: Final = (
    exp.Cast, exp.Convert, exp.National, exp.RawString, exp.ByteString, exp.Interval, exp.Array,
    exp.StrToTime, exp.StrToDate, exp.DateStrToDate, exp.TsOrDsToDate, exp.TimeStrToTime,
)  # fmt: skip
"""What other engines write around a literal."""


def _columns_of(statement: exp.Insert, table: TableSchema | None) -> list[ColumnSchema | None]:
    if table is None:
        return []
    if not isinstance(statement.this, exp.Schema):
        return list(table.writable)
    known = {column.name.lower(): column for column in table.columns}
    return [known.get(one.name.lower()) for one in statement.this.expressions]


def plain_value(cell: exp.Expr, column: ColumnSchema | None, dialect: str) -> exp.Expr:
    """A cell as a literal of SQLite's, where it stands for a value; else the cell itself."""
    if (
        column is not None
        and isinstance(cell, exp.Column | exp.Var)
        and cell.name.upper() == "DEFAULT"
    ):
        # SQLite knows the word in no row.
        return exp.maybe_parse(column.default or "NULL", dialect="sqlite")
    is_now = isinstance(cell, exp.Anonymous) and cell.name.upper() == "NOW"
    if is_now or isinstance(cell, exp.Systimestamp | exp.Localtimestamp):
        return exp.CurrentTimestamp()
    if isinstance(cell, exp.Literal) and not cell.is_string:
        return cell
    value = _value(cell)
    match value:
        case list() | dict():
            return exp.Literal.string(json_text(value))
        case bytes() if (
            dialect == "mysql" and column and column.type_name in ("integer", "boolean")
        ):
            return exp.Literal.number(str(int.from_bytes(value, "big")))  # bits
        case bytes():
            return exp.HexString(this=value.hex())
        case NumberText() if value.startswith("-"):
            return exp.Neg(this=exp.Literal.number(value[1:]))
        case NumberText():
            return exp.Literal.number(value)
        case str():
            return _text(value, cell, column, dialect)
    return cell


def _text(text: str, cell: exp.Expr, column: ColumnSchema | None, dialect: str) -> exp.Expr:
    """A text as the column's type has it."""
    match column.type_name if column is not None else None:
        case "list" if (array := read_list(text)) is not None:
            text = array
        case "binary" if "\\x" in text and (content := _bytes_in(text, dialect)) is not None:
            return exp.HexString(this=content.hex())
        case "integer" | "boolean" if isinstance(cell, exp.BitString):
            return exp.Literal.number(str(int(text or "0", 2)))
        case "timestamp" | "instant" | "date" as type:
            if dialect in _UNSEPARATED:
                text = _DAY.sub(r"\1-\2-\3", text)
            if dialect == "db2":
                text = _USA.sub(r"\3-\1-\2", _EUROPEAN.sub(r"\3-\2-\1", text))
            text = _moment(text) or text
            if type == "date" and dialect != "oracle" and isinstance(cell, exp.StrToDate):
                text = text[:10]  # the time of day that its format names counts for nothing
        case "boolean" if text.lower() in TRUTHS:
            return exp.Literal.number(str(int(TRUTHS[text.lower()])))
        case "time" if found := _CLOCK.match(text):
            text = found[1] + _fraction(found[2])
        case "identifier":
            text = text.lower()
        case None if isinstance(cell, exp.StrToTime | exp.TimeStrToTime):
            text = _moment(text) or text
    if isinstance(cell, exp.Literal) and text == cell.name:
        return cell
    return exp.Literal.string(text)


def _bytes_in(text: str, dialect: str) -> bytes | None:
    """Bytes as an engine writes them in a text: each with a mark in DuckDB, one mark for all else."""
    if dialect == "duckdb":
        return _BYTE.sub(lambda found: bytes.fromhex(found[1].decode()), text.encode())
    found = _HEXADECIMAL.match(text)
    return bytes.fromhex(found[1]) if found else None


def _moment(text: str) -> str | None:
    """A date, with its time of day and zone if it has them, as samples write them."""
    found = _MOMENT.match(text)
    if found is None:
        return None
    seconds = "" if found[2] is None or found[2].count(":") == 2 else ":00"
    clock = f" {found[2]}{seconds}{_fraction(found[3])}" if found[2] else ""
    return f"{found[1]}{clock}{found[4] or ''}"


def _fraction(digits: str | None) -> str:
    """A fraction of a second to the millionth, without zeros at its end."""
    kept = (digits or "")[:6].rstrip("0")
    return f".{kept}" if kept else ""


def _value(node: exp.Expr | None) -> Any:
    """The value that a literal, a list or a structure of such stands for; ``_UNKNOWN`` for others.

    Numbers come as they are written.
    """
    match node:
        case exp.Literal():
            return node.name if node.is_string else NumberText(node.name)
        case exp.National() | exp.RawString() | exp.ByteString() | exp.BitString():
            return node.name
        case exp.HexString():
            return bytes.fromhex(node.name.zfill(len(node.name) + len(node.name) % 2))
        case exp.Cast(this=exp.HexString()) if said := moment_of_bytes(node):
            return said
        case exp.Add() | exp.Sub() | exp.DateAdd() | exp.AddMonths() | exp.DateFromParts() if (
            moment := moved(node, _value)
        ):
            return moment
        case (
            exp.Cast()
            | exp.Paren()
            | exp.DateStrToDate()
            | exp.TsOrDsToDate()
            | exp.TimeStrToTime()
            | exp.Date()
        ):
            return _value(node.this)
        case exp.Convert() if style := STYLES.get(str(node.args.get("style"))):
            return _in_style(node, style)
        case exp.Convert() | exp.Introducer():
            return _value(node.expression)
        case exp.StrToTime() | exp.StrToDate():
            return _by_format(node)
        case exp.Neg() if isinstance(node.this, exp.Literal) and not node.this.is_string:
            return NumberText(f"-{node.this.name}")
        case exp.Add() | exp.DPipe() | exp.Concat():
            return _joined(node)
        case exp.Boolean():
            return bool(node.this)
        case exp.Null():
            return None
        case exp.Uuid():
            return str(uuid.uuid4())
        case exp.Interval():
            return _length_of_time(node)
        case exp.Decode() if node.args["charset"].name.lower() == "hex":
            return _bytes(node.this)
        case exp.Anonymous() if node.name.upper() == "HEXTORAW":
            return _bytes(node.expressions[0])
        case exp.Anonymous() if found := _LENGTHS.match(node.name):
            return counted(node.expressions[0].sql(), found[1].lower())
    return _nested_value(node)


def _joined(node: exp.Add | exp.DPipe | exp.Concat) -> Any:
    """Texts written side by side as one; a plus between numbers is none of them."""
    parts = node.expressions if isinstance(node, exp.Concat) else [node.this, node.expression]
    found = [_value(one) for one in parts]
    texts = [one for one in found if isinstance(one, str)]
    known = len(texts) == len(found) and any(not isinstance(one, NumberText) for one in texts)
    if not known or (
        isinstance(node, exp.Add) and any(isinstance(one, NumberText) for one in texts)
    ):
        return _UNKNOWN
    return "".join(texts)


def _nested_value(node: exp.Expr | None) -> Any:
    """The value of a list, a structure or a map; ``_UNKNOWN`` where it is none of these."""
    match node:
        case exp.Array():
            items = [_value(one) for one in node.expressions]
            return _UNKNOWN if _UNKNOWN in items else items
        case exp.Struct() | exp.JSONObject():
            parts = {one.name: _value(one.expression) for one in node.expressions}
            return _UNKNOWN if _UNKNOWN in parts.values() else parts
        case exp.ToMap():
            return _value(node.this)
        case exp.Map():
            keys, values = _value(node.args.get("keys")), _value(node.args.get("values"))
            known = isinstance(keys, list) and isinstance(values, list)
            return dict(zip(map(str, keys), values, strict=False)) if known else _UNKNOWN
    return _UNKNOWN


def _bytes(node: exp.Expr) -> Any:
    try:
        return bytes.fromhex(node.name)
    except ValueError:
        return _UNKNOWN


def _by_format(node: exp.StrToTime | exp.StrToDate) -> Any:
    """A date or a time that is written by a format, in ISO's own."""
    text = node.this.name if isinstance(node.this, exp.Literal) else ""
    if (moment := _moment(text)) is not None:
        return moment
    form = node.args.get("format")
    found = read_by_format(text, form.name if form is not None else "")
    if found is None:
        return _UNKNOWN
    return day_or_moment(found) if isinstance(node, exp.StrToDate) else found.isoformat(" ")


def _in_style(node: exp.Convert, style: str) -> Any:
    """A date or a time that T-SQL writes in one of its numbered ways."""
    found = read_by_format(str(_value(node.expression)), style)
    return _UNKNOWN if found is None else day_or_moment(found)


def _length_of_time(node: exp.Interval) -> str:
    """INTERVAL '2' HOUR as '2 hours'; one that is written in a text as that text."""
    amount = node.this.name if node.this is not None else ""
    unit = node.args.get("unit")
    if unit is None:
        return amount
    if not isinstance(unit, exp.IntervalSpan):
        return counted(amount, unit.name.lower().rstrip("s"))
    sign = "-" if amount.startswith("-") else ""
    first, _, rest = amount.lstrip("+-").partition(" " if " " in amount else "-")
    match unit.this.name.upper():
        case "YEAR" if rest:
            return f"{counted(sign + first, 'year')} {counted(sign + rest, 'month')}"
        case "DAY" if rest:
            return f"{counted(sign + first, 'day')} {sign}{rest}"
    return amount


def counted(amount: str, what: str) -> str:
    """An amount of a unit of time, in words."""
    return f"{amount} {what}" if amount in ("1", "-1") else f"{amount} {what}s"
