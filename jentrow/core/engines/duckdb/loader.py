"""Fills a DuckDB file with a dataset."""

from __future__ import annotations

import json
import shutil
import tempfile
from collections.abc import Sequence
from pathlib import Path
from typing import Any, Final

import duckdb

from jentrow.core.engines.answers import Tables
from jentrow.core.engines.duckdb.connection import Watch, opened
from jentrow.core.engines.duckdb.problems import words_of
from jentrow.core.engines.duckdb.tables import tables_in
from jentrow.core.engines.loading.datasets import records_with_bytes
from jentrow.core.engines.loading.loader import StatementFailed
from jentrow.core.engines.loading.neutral import Kind, NeutralTable, NeutralType
from jentrow.core.engines.loading.rules import TableRules
from jentrow.core.samples.csvfiles import written_field
from jentrow.core.samples.schema.listvalues import in_brackets
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.sql.text import quoted_name, quoted_text

SECONDS: Final = 120.0

_TYPES: Final[dict[Kind, str]] = {
    "small": "SMALLINT", "integer": "INTEGER", "big": "BIGINT", "float": "DOUBLE",
    "char": "VARCHAR", "varchar": "VARCHAR", "text": "VARCHAR", "date": "DATE", "time": "TIME", "span": "INTERVAL",
    "timestamp": "TIMESTAMP", "instant": "TIMESTAMP WITH TIME ZONE", "interval": "INTERVAL",
    "boolean": "BOOLEAN", "binary": "BLOB", "json": "JSON", "identifier": "UUID",
}  # fmt: skip


class DuckDBLoader:
    """A new file, being filled. Scripts run where no files are reached but those that it is filled from.

    Opening a file takes many times as long as filling a small table: it is open once for all.
    """

    dialect = "duckdb"
    script_dialect = ""
    text_type = "VARCHAR"
    empty_is_null = False

    def __init__(self, path: str, memory: int) -> None:
        self._path, self._memory = path, memory
        self._watch = Watch()
        self._folder = tempfile.TemporaryDirectory(prefix="jentrow-load-")
        self._db = self._opened()

    def _opened(self) -> duckdb.DuckDBPyConnection:
        return opened(self._path, self._memory, writing=True, folder=self._folder.name)

    def form(self, kind: Kind, text: str) -> str:
        """Lists stand in brackets."""
        return in_brackets(text) if kind == "list" else text

    def run(self, sql: str) -> None:
        """Runs one statement of a script."""
        self._execute(sql)

    def _execute(self, sql: str) -> Any:
        self._watch.begin(self._db, SECONDS)
        try:
            return self._db.execute(sql)
        except duckdb.Error as problem:
            raise StatementFailed(words_of(problem)) from problem
        finally:
            self._watch.end()

    def columns(self) -> dict[str, tuple[str, dict[str, bool]]]:
        """The tables, with their columns and whether each holds bytes."""
        found: dict[str, tuple[str, dict[str, bool]]] = {}
        for table, column, type in self._db.execute(
            "SELECT table_name, column_name, data_type FROM duckdb_columns() WHERE NOT internal "
            "ORDER BY table_oid, column_index"
        ).fetchall():
            found.setdefault(table.lower(), (table, {}))[1][column] = type == "BLOB"
        return found

    def empty(self) -> None:
        """Deletes the rows of all tables: those that refer to others first."""
        left = [name for name, _, rows in tables_in(self._db) if rows]
        while left:
            kept = []
            for name in left:
                try:
                    self._execute(f"DELETE FROM {quoted_name(name)}")
                except StatementFailed:
                    kept.append(name)
            if len(kept) == len(left):
                raise StatementFailed(f"the rows of {kept[0]} cannot be deleted")
            left = kept

    def copy(self, table: str, columns: Sequence[str], path: Path) -> None:
        """Loads a CSV file."""
        holds_bytes = self.columns()[table.lower()][1]
        binary = [holds_bytes[column] for column in columns]
        file = Path(self._folder.name) / "rows.csv"
        if any(binary):
            with file.open("w", encoding="utf-8", newline="") as out:
                out.write(",".join(map(_field, columns)) + "\n")
                for record in records_with_bytes(path, binary):
                    out.write(",".join(map(_field, record)) + "\n")
        else:
            shutil.copyfile(path, file)
        names = ", ".join(map(quoted_name, columns))
        nulls = "true" if self.empty_is_null else "false"
        self._execute(
            f"COPY {quoted_name(table)} ({names}) FROM {quoted_text(str(file))} (FORMAT csv, "
            f"HEADER true, DELIMITER ',', QUOTE '\"', ESCAPE '\"', NULLSTR '', "
            f"ALLOW_QUOTED_NULLS {nulls}, AUTO_DETECT false, MAX_LINE_SIZE 67108864)"
        )

    def create(self, table: NeutralTable, rules: TableRules) -> None:
        """Makes a table. Foreign keys are left out: they change no result, and cannot wait."""
        schema = table.schema
        numbers = _numbers_of(schema.name)
        if rules.numbered:
            self._execute(f"CREATE SEQUENCE {numbers} START {rules.number_from}")
        number = f"DEFAULT nextval({quoted_text(numbers)})"
        parts = [
            f"{quoted_name(column.name)} {self.type_of(type)}"
            f"{rules.of_column(column.name, computed='GENERATED ALWAYS AS ({})', numbered=number)}"
            f"{' NOT NULL' if column.not_null else ''}"
            for column, type in zip(table.columns, table.types, strict=True)
        ]
        if schema.primary_key:
            parts.append(f"PRIMARY KEY ({', '.join(map(quoted_name, schema.primary_key))})")
        parts += [f"UNIQUE ({', '.join(map(quoted_name, key))})" for key in schema.uniques]
        parts += [f"CHECK ({check})" for check in rules.checks]
        self._execute(f"CREATE TABLE {quoted_name(schema.name)} ({', '.join(parts)})")
        self._execute(f"COMMENT ON TABLE {quoted_name(schema.name)} IS {_kept_aside(schema)}")

    def type_of(self, type: NeutralType) -> str:
        """DuckDB's own type for one of a sample's."""
        if type.items is not None:
            return f"{self.type_of(type.items)}[]"
        if type.kind == "decimal":
            return f"DECIMAL({type.size}, {type.places})"
        if type.kind == "enumeration":
            return f"ENUM({', '.join(map(quoted_text, type.values))})"
        found = _TYPES[type.kind]
        return self.text_type if found == "VARCHAR" else found

    def drop(self, table: str) -> None:
        """Deletes a table, with what numbers its rows."""
        self._execute(f"DROP TABLE IF EXISTS {quoted_name(table)}")
        self._execute(f"DROP SEQUENCE IF EXISTS {_numbers_of(table)}")

    def own_name(self, name: str) -> str:
        """Names are the sample's own."""
        return name

    def start_over(self) -> None:
        """Makes the file new."""
        self._db.close()
        Path(self._path).unlink(missing_ok=True)
        self._db = self._opened()

    def tables(self) -> Tables:
        """What is in it."""
        return tables_in(self._db)

    def close(self) -> None:
        """Closes the file."""
        self._db.close()
        self._folder.cleanup()


def _numbers_of(table: str) -> str:
    """The sequence that numbers the rows of a table."""
    return quoted_name(f"{table}_numbers")


def _kept_aside(schema: TableSchema) -> str:
    """The constraints of a table that its file does not have, as a text in SQL."""
    keys = [[list(key.columns), key.table, list(key.to)] for key in schema.foreign_keys]
    said = json.dumps({"foreign_keys": keys, "checks": list(schema.checks)})
    return quoted_text(said)


def _field(cell: str | bytes | None) -> str:
    if isinstance(cell, bytes):
        cell = "".join(f"\\x{byte:02X}" for byte in cell)
    return written_field(cell)
