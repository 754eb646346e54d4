"""A dataset taken out of its SQLite file: tables with types that every engine has, rows as CSV.

A type comes from what a column declares; where that says too little, its values tell the rest: how
large whole numbers are, how many places decimals have, how long texts are.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from types import NoneType
from typing import Final, Literal, TypeAlias

import apsw

from jentrow.core.samples.csvfiles import write_record, written_field
from jentrow.core.samples.schema.coltypes import TypeName, type_of_declaration
from jentrow.core.samples.schema.enumerations import values_of
from jentrow.core.samples.schema.listvalues import read_list
from jentrow.core.samples.schema.tables import ColumnSchema, TableSchema, read_schema
from jentrow.core.sql.text import quoted_name
from jentrow.core.values import Value

Kind: TypeAlias = Literal[
    "small", "integer", "big", "decimal", "float", "char", "varchar", "text", "date", "time",
    "span", "timestamp", "instant", "interval", "boolean", "binary", "json", "identifier", "list",
    "enumeration",
]  # fmt: skip

_SIZES: Final = re.compile(r"\(\s*(\d+)\s*(?:,\s*(\d+)\s*)?\)")
_CLOCK: Final = re.compile(r"\d[ T](?!00:00(?::00(?:\.0*)?)?\Z)\d\d:\d\d", re.ASCII)
"""A time of day behind a date, other than its beginning."""
_PAST_A_DAY: Final = re.compile(r"-|(?:2[4-9]|[3-9]\d|\d{3,}):", re.ASCII)
_FRACTION: Final = re.compile(r":\d\d\.(\d{1,6})", re.ASCII)
_INT32: Final = 2**31
MOST_DIGITS: Final = 38


@dataclass(frozen=True, slots=True)
class NeutralType:
    """A column's type: its kind, and its sizes where the kind has some.

    ``size`` is the length of a text, or all digits of a decimal; ``places`` those after the point,
    also of seconds. A ``span`` is a time that passes beyond a day, as MariaDB's may.
    ``longest`` is the longest text that there is. ``items`` is the type of a list's items, and
    ``values`` are those of an enumeration, in their order.
    """

    kind: Kind
    size: int = 0
    places: int = 0
    longest: int = 0
    items: NeutralType | None = None
    values: tuple[str, ...] = ()


@dataclass(frozen=True)
class NeutralTable:
    """A table and the file of its rows; ``types`` has one for each of ``columns``.

    ``loose_keys`` are keys that hold only where letter case, accents and blanks at the end count.
    ``next_number`` is what SQLite would number the next row with; None where it numbers none.
    """

    schema: TableSchema
    columns: tuple[ColumnSchema, ...]
    types: tuple[NeutralType, ...]
    rows: Path
    loose_keys: frozenset[tuple[str, ...]] = frozenset()
    next_number: int | None = None

    @property
    def without_enumerations(self) -> NeutralTable:
        """The table with texts in place of enumerations."""
        types = tuple(
            replace(one, kind="text", values=()) if one.kind == "enumeration" else one
            for one in self.types
        )
        return replace(self, types=types)


@dataclass(frozen=True)
class NeutralDataset:
    """Tables, those first that others refer to, and views as (name, the text of their DDL)."""

    tables: tuple[NeutralTable, ...]
    views: tuple[tuple[str, str], ...]


def neutral_dataset(
    database: Path, folder: Path, form: Callable[[Kind, str], str]
) -> NeutralDataset:
    """Reads a dataset's SQLite file; its rows are written as CSV into a folder.

    ``form`` writes a text of a kind as the engine reads it from a file; a list is a JSON array.
    """
    db = apsw.Connection(
        f"file:{database}?immutable=1&mode=ro",
        flags=apsw.SQLITE_OPEN_READONLY | apsw.SQLITE_OPEN_URI,
    )
    try:
        tables = [one for one in read_schema(db) if one.kind == "table"]
        views = db.execute("SELECT name, sql FROM sqlite_schema WHERE type = 'view' ORDER BY rowid")
        return NeutralDataset(
            tuple(
                _table(db, one, folder / f"{at}.csv", form)
                for at, one in enumerate(parents_first(tables))
            ),
            tuple(views),
        )
    finally:
        db.close()


def parents_first(tables: Sequence[TableSchema]) -> list[TableSchema]:
    """Tables in an order in which each comes after those that it refers to, as far as there is one."""
    left = list(tables)
    done: list[TableSchema] = []
    while left:
        waiting = {one.name.lower() for one in left}
        ready = next(
            (
                one
                for one in left
                if not ({key.table.lower() for key in one.foreign_keys} - {one.name.lower()})
                & waiting
            ),
            left[0],
        )
        left.remove(ready)
        done.append(ready)
    return done


def _table(
    db: apsw.Connection, table: TableSchema, path: Path, form: Callable[[Kind, str], str]
) -> NeutralTable:
    columns = table.columns
    names = ", ".join(quoted_name(column.name) for column in columns)
    rows = list(
        db.execute(f"SELECT {names} FROM {quoted_name(table.name)} ORDER BY {_order(db, table)}")
    )
    values = list(zip(*rows, strict=True)) if rows else [()] * len(columns)
    types = tuple(
        _enumerated(neutral_type(column.type, cells), column, table)
        for column, cells in zip(columns, values, strict=True)
    )
    with path.open("w", encoding="utf-8", newline="") as out:
        write_record(out, [column.name for column in columns])
        fields = (
            [_field(cell, type, form) for cell in cells]
            for cells, type in zip(values, types, strict=True)
        )
        out.writelines(",".join(record) + "\n" for record in zip(*fields, strict=True))
    of_column = dict(zip((column.name for column in columns), values, strict=True))
    loose = (key for key in table.keys if _is_loose([of_column[one] for one in key]))
    return NeutralTable(
        table, columns, types, path, frozenset(loose), _next_number(table, columns, values)
    )


def _enumerated(type: NeutralType, column: ColumnSchema, table: TableSchema) -> NeutralType:
    values = values_of(column.name, column.type, table.checks)
    return replace(type, kind="enumeration", values=values) if values else type


def _next_number(
    table: TableSchema, columns: Sequence[ColumnSchema], values: Sequence[Sequence[Value]]
) -> int | None:
    """What the next row is numbered with, where its key is the row's own number in SQLite."""
    (key,) = table.primary_key if len(table.primary_key) == 1 else ("",)
    for column, cells in zip(columns, values, strict=True):
        if column.name == key and column.type.strip().upper() == "INTEGER":
            numbers = [one for one in cells if isinstance(one, int)]
            # MariaDB numbers anew what has no number above 0.
            return max(numbers, default=0) + 1 if all(one > 0 for one in numbers) else None
    return None


def _is_loose(columns: Sequence[Sequence[Value]]) -> bool:
    """Whether two keys of these columns differ only in letter case, accents or blanks at their end."""
    if all(_folded(part) == part for column in columns for part in set(column)):
        return False  # keys that differ, as they do in SQLite
    keys = [key for key in zip(*columns, strict=True) if None not in key]
    return len({tuple(map(_folded, key)) for key in keys}) < len(keys)


def _folded(value: Value) -> Value:
    if not isinstance(value, str):
        return value
    if value.isascii():
        return value.lower().rstrip(" ")
    apart = unicodedata.normalize("NFD", value.casefold())
    return "".join(char for char in apart if not unicodedata.combining(char)).rstrip(" ")


def _order(db: apsw.Connection, table: TableSchema) -> str:
    """The order in which rows were put in: a table without row numbers is in that of its key."""
    (without,) = next(
        db.execute(
            "SELECT wr FROM pragma_table_list WHERE schema = 'main' AND name = ?", (table.name,)
        )
    )
    return "1" if without else table.row_name


def neutral_type(declared: str, values: Sequence[Value]) -> NeutralType:
    """The type of a column with this declaration and these values."""
    upper = declared.upper().rstrip()
    if type_of_declaration(upper) == "list":
        return NeutralType("list", items=neutral_type(upper[: upper.rindex("[")], ()))
    sizes = _SIZES.search(upper)
    size = int(sizes[1]) if sizes else 0
    places = int(sizes[2] or 0) if sizes else 0
    longest = max((len(one) for one in values if isinstance(one, str)), default=0)
    kind = _kind(upper, values)
    if kind == "integer" and any(isinstance(one, float) for one in values):
        kind = "float"  # larger than whole numbers are, or no whole numbers at all
    if kind == "date" and any(isinstance(one, str) and _CLOCK.search(one) for one in values):
        kind = "timestamp"  # as Oracle's dates are
    if kind == "time" and any(isinstance(one, str) and _PAST_A_DAY.match(one) for one in values):
        kind = "span"
    if kind in ("time", "timestamp", "instant", "span"):
        places = max((_fraction(one) for one in values if isinstance(one, str)), default=0)
    if kind == "decimal" and not size:
        places = max((_places(one) for one in values), default=0) or 2
        size = 18
    if kind in ("small", "integer") and any(
        isinstance(one, int) and abs(one) >= _INT32 for one in values
    ):
        kind = "big"
    if kind in ("char", "varchar") and longest > size:
        kind, size = "text", 0
    return NeutralType(kind, min(size, MOST_DIGITS) if kind == "decimal" else size, places, longest)


_NARROWER: Final[dict[TypeName, tuple[tuple[str, Kind], ...]]] = {
    "integer": (("BIGINT|INT8|BIGSERIAL", "big"), ("SMALLINT|TINYINT|INT2|SMALLSERIAL", "small")),
    "text": (("VARYING|VARCHAR|NVARCHAR", "varchar"), ("CHAR", "char")),
}
"""Kinds that the sample's types know as one."""


def _kind(upper: str, values: Sequence[Value]) -> Kind:
    type = type_of_declaration(upper)
    if type is not None:
        for pattern, kind in _NARROWER.get(type, ()):
            if re.search(pattern, upper):
                return "text" if type == "text" and not _SIZES.search(upper) else kind
        return type
    types = {one.__class__ for one in values} - {NoneType}
    if types == {int}:
        return "integer"
    if types and types <= {int, float}:
        return "float"
    return "binary" if types == {bytes} else "text"


def _fraction(text: str) -> int:
    found = _FRACTION.search(text)
    return len(found[1].rstrip("0")) if found else 0


def _places(value: Value) -> int:
    if not isinstance(value, float):
        return 0
    _, _, fraction = repr(value).partition(".")
    return min(len(fraction.split("e")[0]), 10) if fraction not in ("", "0") else 0


def _field(value: Value, type: NeutralType, form: Callable[[Kind, str], str]) -> str:
    """A value as a field of the file: only texts may need quotes."""
    if value is None:
        return ""
    if isinstance(value, str):
        known = read_list(value) if type.kind == "list" else value
        return written_field(value if known is None else form(type.kind, known))
    if isinstance(value, bytes):
        return f"x'{value.hex()}'"
    if type.kind == "boolean" and value in (0, 1):
        return "true" if value else "false"
    if isinstance(value, float) and not (value.is_integer() and abs(value) < 1e15):
        return repr(value)
    return str(int(value))
