"""A sample as files: a folder of CSV with its schema, one SQL script, one SQLite file, a pack."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Mapping
from pathlib import Path
from typing import Any, Final

import apsw

from jentrow.core.errors import UnusableInput
from jentrow.core.samples.csvfiles import write_record
from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.schema.schema_text import schema_text
from jentrow.core.samples.schema.tables import ColumnSchema, TableSchema
from jentrow.core.sql.text import quoted_name
from jentrow.core.values import Value

PACK_FORMAT: Final = "jentrow-pack/1"
_PORTION: Final = 500
_WRITTEN: Final = 1 << 16


class CannotExport(UnusableInput):
    """Raised where a file format cannot hold a value; names the cell, and a format that can."""


def write_script(dataset: Dataset, target: Path) -> None:
    """Writes a dataset as one script: the schema, then the rows as INSERTs, in one transaction."""
    with dataset.reading() as db, target.open("w", encoding="utf-8", newline="\n") as out:
        tables, rest = _schema_parts(db)
        out.write("BEGIN;\n\n" + tables)
        for table in dataset.tables:
            if table.kind == "table":
                _write_inserts(db, table, out)
        out.write(f"\n{rest}COMMIT;\n")


def _schema_parts(db: apsw.Connection) -> tuple[str, str]:
    """The tables' DDL, and what comes after the rows: indexes and views."""
    whole = list(
        db.execute(
            "SELECT type = 'table', sql FROM sqlite_schema WHERE sql IS NOT NULL "
            "AND type != 'trigger' AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY rowid"
        )
    )
    tables = "".join(f"{sql};\n\n" for is_table, sql in whole if is_table)
    return tables, "".join(f"{sql};\n\n" for is_table, sql in whole if not is_table)


def _write_inserts(db: apsw.Connection, table: TableSchema, out: io.TextIOBase | Any) -> None:
    names = ", ".join(quoted_name(column.name) for column in table.writable)
    into = f"INSERT INTO {quoted_name(table.name)} ({names}) VALUES"
    rows = db.execute(f"SELECT {names} FROM {quoted_name(table.name)} ORDER BY {table.row_name}")
    size, first = 0, True
    for at, row in enumerate(rows):
        line = "    (" + ", ".join(_sql_value(table, value) for value in row) + ")"
        if at % _PORTION == 0 or size > _WRITTEN:
            out.write(("" if first else ";\n") + into + "\n" + line)
            size = 0
        else:
            out.write(",\n" + line)
        size += len(line)
        first = False
    if not first:
        out.write(";\n")


def _sql_value(table: TableSchema, value: Value) -> str:
    if isinstance(value, str) and "\0" in value:
        raise CannotExport(
            f"{table.name}: a text holds a NUL character, which a script cannot; "
            "export an SQLite file."
        )
    if isinstance(value, str) and "\r" in value:
        # Whoever reads a script may take a carriage return for a line end.
        return " || char(13) || ".join(map(apsw.format_sql_value, value.split("\r")))
    return str(apsw.format_sql_value(value))


def write_database(dataset: Dataset, target: Path) -> None:
    """Writes a dataset as an SQLite file."""
    dataset.copy_to(target)
    db = apsw.Connection(str(target))
    db.execute("PRAGMA user_version = 0")
    db.close()


def write_csv_folder(opened: Dataset, held_back: Mapping[str, Dataset], target: Path) -> None:
    """Writes a sample as a ZIP: ``schema.sql``, ``open/`` and ``held-back/<name>/`` of CSV files.

    Raises :class:`CannotExport` where a value would not come back as it is.
    """
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
        with opened.reading() as db:
            archive.writestr("schema.sql", schema_text(db))
        _write_tables(archive, "open/", opened)
        for name, dataset in held_back.items():
            _write_tables(archive, f"held-back/{name}/", dataset)


def _write_tables(archive: zipfile.ZipFile, prefix: str, dataset: Dataset) -> None:
    with dataset.reading() as db:
        for table in dataset.tables:
            if table.kind == "table":
                with (
                    archive.open(f"{prefix}{table.name}.csv", "w", force_zip64=True) as raw,
                    io.TextIOWrapper(raw, encoding="utf-8", newline="\n") as out,
                ):
                    _write_csv(db, table, out)


def _write_csv(db: apsw.Connection, table: TableSchema, out: io.TextIOWrapper) -> None:
    columns = table.writable
    write_record(out, [column.name for column in columns])
    names = ", ".join(quoted_name(column.name) for column in columns)
    rows = db.execute(
        f"SELECT {table.row_name}, {names} FROM {quoted_name(table.name)} ORDER BY {table.row_name}"
    )
    for number, *values in rows:
        record = [
            _csv_text(table, column, number, value)
            for column, value in zip(columns, values, strict=True)
        ]
        if record == [None]:
            raise _unfit(table, columns[0], number, "a NULL alone in its row is a blank line")
        write_record(out, record)


def _csv_text(table: TableSchema, column: ColumnSchema, number: int, value: Value) -> str | None:
    """A value as CSV text from which the column's declaration makes the same value again."""
    affinity = _affinity(column)
    match value:
        case None:
            return None
        case str():
            if "\0" in value or "\r" in value:
                raise _unfit(table, column, number, "it holds a character that CSV cannot keep")
            if column.type_name == "binary" and _looks_binary(value):
                raise _unfit(table, column, number, "the text would be read as bytes")
            return value
        case bytes():
            if column.type_name != "binary":
                raise _unfit(table, column, number, "bytes in a column that is not declared BLOB")
            return f"x'{value.hex()}'"
        case int() if affinity in ("integer", "numeric"):
            return str(value)
        case float() if affinity in ("integer", "numeric", "real") and abs(value) < _INFINITE:
            return repr(value)
    raise _unfit(table, column, number, "a number in a column whose type does not say so")


_INFINITE: Final = float("inf")


def _looks_binary(text: str) -> bool:
    return text[:2].lower() == "x'" and text.endswith("'")


def _affinity(column: ColumnSchema) -> str:
    """How SQLite reads a text into the column (https://sqlite.org/datatype3.html, section 3.1)."""
    declared = column.type.upper()
    if "INT" in declared:
        return "integer"
    if any(word in declared for word in ("CHAR", "CLOB", "TEXT")):
        return "text"
    if "BLOB" in declared or not declared:
        return "blob"
    if any(word in declared for word in ("REAL", "FLOA", "DOUB")):
        return "real"
    return "numeric"


def _unfit(table: TableSchema, column: ColumnSchema, number: int, why: str) -> CannotExport:
    return CannotExport(
        f"{table.name}.{column.name}, row {number}: {why}; export a script or an SQLite file."
    )
