"""What a script's own engine made of it, beside what the parser read of it."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import replace
from math import isclose
from pathlib import Path
from typing import Final, TypeAlias

import apsw
from sqlglot import exp

from jentrow.core.samples.csvfiles import read_table
from jentrow.core.samples.recipes import RanTable
from jentrow.core.samples.schema.tables import ColumnSchema, TableSchema
from jentrow.core.samples.scripts.reading import read_one
from jentrow.core.samples.scripts.reasons import NOT_TAKEN
from jentrow.core.samples.scripts.script import ReadScript
from jentrow.core.samples.scripts.statements import SETTING_UP
from jentrow.core.samples.scripts.values import counted, plain_value
from jentrow.core.sql.text import quoted_name
from jentrow.core.values import Value

Stored: TypeAlias = str | int | bytes | None

_DONE: Final = re.compile(
    r"(?:CREATE\s+(?:OR\s+REPLACE\s+)?(?:TEMP\w*\s+)?TABLE|ALTER\s+TABLE|INSERT|REPLACE|UPDATE|DELETE|"
    r"MERGE|TRUNCATE|COPY|CALL|DO|SELECT|WITH|DROP|BEGIN|START|COMMIT)\b",
    re.IGNORECASE,
)
"""Beginnings of statements whose work is done where there are the tables and rows."""

_LENGTH: Final = re.compile(
    r"P(?:(-?\d+)Y)?(?:(-?\d+)M)?(?:(-?\d+)D)?(?:T(?:(-?\d+)H)?(?:(-?\d+)M)?(?:(-?\d+(?:\.\d+)?)S)?)?"
)
_UNITS: Final = ("year", "month", "day", "hour", "minute", "second")


def put_right(read: ReadScript, ran: Sequence[RanTable]) -> None:
    """Brings the tables that were read into line with those that there are.

    Of a table that the parser missed, made by a query or in words that it cannot read, the columns
    with their types are known. What was done is not left out, whether the parser knows it or not.
    """
    read.left_out = [
        one
        for one in read.left_out
        if not (
            one.why.startswith(NOT_TAKEN) and (_DONE.match(one.text) or SETTING_UP.match(one.text))
        )
    ]
    made = {one.name.lower(): one for one in ran if one.path}
    read.tables = [
        _with_columns(read, table, made[table.name.lower()])
        for table in read.tables
        if table.name.lower() in made
    ]
    for one in made.values():
        if read.table(one.name) is None:
            read.tables.append(_seen(read, one))


def _with_columns(read: ReadScript, table: TableSchema, ran: RanTable) -> TableSchema:
    known = {column.name.lower(): column for column in table.columns}
    if list(known) == [name.lower() for name, _ in ran.columns]:
        return table
    seen = _seen(read, ran).columns
    columns = tuple(known.get(column.name.lower(), column) for column in seen)
    names = {column.name for column in columns}
    return replace(
        table,
        columns=columns,
        primary_key=table.primary_key if names.issuperset(table.primary_key) else (),
        uniques=tuple(one for one in table.uniques if names.issuperset(one)),
        foreign_keys=tuple(one for one in table.foreign_keys if names.issuperset(one.columns)),
    )


def _seen(read: ReadScript, ran: RanTable) -> TableSchema:
    """A table of which its columns are all that is known."""
    parts = ", ".join(f"{quoted_name(name, read.dialect)} {type}" for name, type in ran.columns)
    alone = ReadScript(read.dialect)
    alone.types = read.types
    read_one(alone, 0, f"CREATE TABLE {quoted_name(ran.name, read.dialect)} ({parts})")
    if alone.tables:
        return alone.tables[0]
    return TableSchema(ran.name, tuple(ColumnSchema(name) for name, _ in ran.columns))


def rows_of(
    ran: RanTable, table: TableSchema, dialect: str
) -> tuple[tuple[str, ...], Iterator[tuple[Stored, ...]]]:
    """The columns of a table that can be written, and its rows as a sample's file holds them."""
    names, records = read_table(Path(ran.path))
    by_name = {column.name.lower(): column for column in table.writable}
    places = [
        (at, by_name[name.lower()]) for at, name in enumerate(names) if name.lower() in by_name
    ]
    rows = (
        tuple(_stored(record[at], column, dialect) for at, column in places) for record in records
    )
    return tuple(column.name for _, column in places), rows


COMPUTED_OTHERWISE: Final = (
    "SQLite computes other values; the column has those that the script's own engine computed"
)


def computed_otherwise(
    db: apsw.Connection, ran: RanTable, table: TableSchema, dialect: str
) -> list[str]:
    """The computed columns of a table in which SQLite has other values than those that there were.

    Its rows were put in as they came.
    """
    names, records = read_table(Path(ran.path))
    places = {name.lower(): at for at, name in enumerate(names)}
    computed = [
        (column, places[column.name.lower()])
        for column in table.columns
        if column.generated is not None and column.name.lower() in places
    ]
    listed = ", ".join(quoted_name(column.name) for column, _ in computed)
    found = db.execute(f"SELECT {listed} FROM {quoted_name(table.name)} ORDER BY {table.row_name}")
    otherwise: list[str] = []
    for record, values in zip(records, found, strict=True):
        for (column, at), value in zip(computed, values, strict=True):
            if column.name not in otherwise and not _is_alike(
                _stored(record[at], column, dialect), value
            ):
                otherwise.append(column.name)
    return otherwise


def _is_alike(told: Stored, value: Value) -> bool:
    if told is None or value is None:
        return told is value
    if isinstance(value, int | float):
        try:
            return isclose(float(str(told)), value, rel_tol=1e-9, abs_tol=1e-12)
        except ValueError:
            return False
    return bool(told == value)


def _stored(text: str | None, column: ColumnSchema, dialect: str) -> Stored:
    if text is None:
        return None
    if column.type_name == "interval" and (length := _LENGTH.fullmatch(text)):
        return _in_words(length)
    match plain_value(exp.Literal.string(text), column, dialect):
        case exp.HexString() as found:
            return bytes.fromhex(found.name)
        case exp.Literal() as found:
            return found.name if found.is_string else int(found.name)
    return text


def _in_words(length: re.Match[str]) -> str:
    """A length of time that is written P1DT2H, as every engine reads it."""
    parts = [
        counted(amount, unit)
        for amount, unit in zip(length.groups(), _UNITS, strict=True)
        if amount
    ]
    return " ".join(parts) or "0 seconds"
