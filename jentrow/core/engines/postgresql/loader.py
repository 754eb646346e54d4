"""Fills a schema on a PostgreSQL server with a dataset."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import count
from pathlib import Path
from typing import Any, Final

import psycopg
from psycopg import sql as text

from jentrow.core.engines.answers import Tables
from jentrow.core.engines.loading.datasets import records_with_bytes
from jentrow.core.engines.loading.loader import StatementFailed
from jentrow.core.engines.loading.neutral import Kind, NeutralTable, NeutralType
from jentrow.core.engines.loading.rules import TableRules
from jentrow.core.engines.postgresql.tables import tables_in
from jentrow.core.samples.csvfiles import written_field
from jentrow.core.samples.schema.listvalues import in_braces
from jentrow.core.sql.text import quoted_name, quoted_text

_ALL_IN_SCHEMA: Final = """
    SELECT CASE relkind WHEN 'v' THEN 'VIEW' WHEN 'm' THEN 'MATERIALIZED VIEW'
        WHEN 'S' THEN 'SEQUENCE' ELSE 'TABLE' END, oid::regclass::text
    FROM pg_catalog.pg_class
    WHERE relnamespace = %(schema)s::regnamespace AND relkind IN ('r', 'p', 'v', 'm', 'S')
    UNION ALL
    SELECT 'ROUTINE', oid::regprocedure::text FROM pg_catalog.pg_proc
    WHERE pronamespace = %(schema)s::regnamespace
    UNION ALL
    SELECT CASE typtype WHEN 'd' THEN 'DOMAIN' ELSE 'TYPE' END, oid::regtype::text
    FROM pg_catalog.pg_type
    WHERE typnamespace = %(schema)s::regnamespace AND typtype IN ('e', 'd', 'r')
"""
"""Whatever a script may have made, with the word by which it is dropped."""

_Connection = psycopg.Connection[tuple[Any, ...]]

_TYPES: Final[dict[Kind, str]] = {
    "small": "smallint", "integer": "integer", "big": "bigint",
    "float": "double precision", "text": "text", "date": "date", "time": "time", "span": "interval",
    "timestamp": "timestamp", "instant": "timestamp with time zone", "interval": "interval",
    "boolean": "boolean", "binary": "bytea", "json": "jsonb", "identifier": "uuid",
}  # fmt: skip


class PostgreSQLLoader:
    """A new schema, being filled by its own login: it can reach nothing else."""

    dialect = "postgres"
    script_dialect = ""

    def __init__(self, db: _Connection, schema: str) -> None:
        self._db, self._schema = db, schema
        self._enumerations: dict[tuple[str, ...], str] = {}

    def form(self, kind: Kind, text: str) -> str:
        """Lists stand in braces."""
        return in_braces(text) if kind == "list" else text

    def run(self, sql: str) -> None:
        """Runs one statement of a script."""
        try:
            self._db.execute(sql)
        except psycopg.Error as problem:
            raise StatementFailed(_words(problem)) from problem

    def columns(self) -> dict[str, tuple[str, dict[str, bool]]]:
        """The tables, with their columns and whether each holds bytes."""
        found: dict[str, tuple[str, dict[str, bool]]] = {}
        for table, column, type in self._db.execute(
            "SELECT table_name, column_name, data_type FROM information_schema.columns "
            "WHERE table_schema = %s ORDER BY table_name, ordinal_position",
            (self._schema,),
        ).fetchall():
            found.setdefault(table.lower(), (table, {}))[1][column] = type == "bytea"
        return found

    def empty(self) -> None:
        """Deletes the rows of all tables."""
        tables = [name for name, _, rows in tables_in(self._db, self._schema) if rows]
        if tables:
            names = text.SQL(", ").join(text.Identifier(self._schema, one) for one in tables)
            self._db.execute(text.SQL("TRUNCATE {} RESTART IDENTITY CASCADE").format(names))

    def copy(self, table: str, columns: Sequence[str], path: Path) -> None:
        """Loads a CSV file."""
        binary = [self._is_binary(table, one) for one in columns]
        into = text.SQL("COPY {} ({}) FROM STDIN (FORMAT csv, HEADER true)").format(
            self._named(table), text.SQL(", ").join(text.Identifier(_name(one)) for one in columns)
        )
        try:
            with self._db.cursor() as cursor, cursor.copy(into) as copy:
                if not any(binary):
                    with path.open("rb") as file:
                        while portion := file.read(1 << 20):
                            copy.write(portion)
                    return
                copy.write(",".join(map(written_field, columns)) + "\n")
                for record in records_with_bytes(path, binary):
                    copy.write(",".join(map(_field, record)) + "\n")
        except psycopg.Error as problem:
            raise StatementFailed(_words(problem)) from problem

    def _named(self, table: str) -> text.Identifier:
        known = self.columns()
        return text.Identifier(self._schema, known[table.lower()][0])

    def _is_binary(self, table: str, column: str) -> bool:
        columns = self.columns()[table.lower()][1]
        return next(
            (found for name, found in columns.items() if name.lower() == column.lower()), False
        )

    def create(self, table: NeutralTable, rules: TableRules) -> None:
        """Makes a table, its names in small letters where they are plain ones."""
        schema = table.schema
        computed = "GENERATED ALWAYS AS ({}) STORED"
        number = f"GENERATED BY DEFAULT AS IDENTITY (START WITH {rules.number_from})"
        parts = []
        for column, type in zip(table.columns, table.types, strict=True):
            if type.values:
                self._make_enumeration(column.name, type.values)
            parts.append(
                f"{_quoted(column.name)} {self.type_of(type)}"
                f"{rules.of_column(column.name, computed=computed, numbered=number)}"
                f"{' NOT NULL' if column.not_null else ''}"
            )
        if schema.primary_key:
            parts.append(f"PRIMARY KEY ({', '.join(map(_quoted, schema.primary_key))})")
        parts += [f"UNIQUE ({', '.join(map(_quoted, key))})" for key in schema.uniques]
        there = self.columns()
        for key in schema.foreign_keys:
            # A table that comes later, as where two refer to each other, is not there yet.
            if key.table.lower() in there or key.table.lower() == schema.name.lower():
                parts.append(
                    f"FOREIGN KEY ({', '.join(map(_quoted, key.columns))}) "
                    f"REFERENCES {_quoted(key.table)} ({', '.join(map(_quoted, key.to))})"
                    f"{key.actions if rules.actions else ''}"
                )
        parts += [f"CHECK ({check})" for check in rules.checks]
        self.run(f"CREATE TABLE {_quoted(schema.name)} ({', '.join(parts)})")

    def drop(self, table: str) -> None:
        """Deletes a table."""
        self.run(f"DROP TABLE IF EXISTS {_quoted(table)}")

    def own_name(self, name: str) -> str:
        """Plain names are in small letters."""
        return _name(name)

    def type_of(self, type: NeutralType) -> str:
        """PostgreSQL's own type for one of a sample's; an enumeration is made first."""
        if type.items is not None:
            return f"{self.type_of(type.items)}[]"
        match type.kind:
            case "decimal":
                return f"numeric({type.size}, {type.places})"
            case "char" | "varchar":
                return f"{type.kind}({type.size})"
            case "enumeration":
                return f"{quoted_name(self._schema)}.{quoted_name(self._enumerations[type.values])}"
            case kind:
                return _TYPES[kind]

    def _make_enumeration(self, column: str, values: tuple[str, ...]) -> None:
        """Makes a type of these values, named as its column is; columns of the same ones share it."""
        if values in self._enumerations:
            return
        taken = {*self._enumerations.values(), *self.columns()}
        names = (_name(column) + (str(at) if at > 1 else "") for at in count(1))
        name = next(one for one in names if one not in taken)
        listed = ", ".join(map(quoted_text, values))
        self.run(f"CREATE TYPE {quoted_name(name)} AS ENUM ({listed})")
        self._enumerations[values] = name

    def start_over(self) -> None:
        """Makes the schema empty again."""
        self._enumerations.clear()
        for kind, name in self._db.execute(_ALL_IN_SCHEMA, {"schema": self._schema}).fetchall():
            self.run(f"DROP {kind} IF EXISTS {name} CASCADE")

    def tables(self) -> Tables:
        """What is in it."""
        return tables_in(self._db, self._schema)


def _name(name: str) -> str:
    """A plain name is one in any letters, as PostgreSQL folds it; any other keeps its own."""
    return name.lower() if name.isidentifier() and name.isascii() else name


def _quoted(name: str) -> str:
    return quoted_name(_name(name))


def _field(cell: str | bytes | None) -> str:
    return written_field("\\x" + cell.hex() if isinstance(cell, bytes) else cell)


def _words(problem: psycopg.Error) -> str:
    return (problem.diag.message_primary or str(problem)).strip().rstrip(".")
