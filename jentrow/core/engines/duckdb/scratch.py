"""DuckDB's scratch database: in memory, with the schema of a dataset's file."""

from __future__ import annotations

import datetime as dt
import json
from collections.abc import Mapping, Sequence
from contextlib import suppress
from time import process_time
from typing import Any, Final

import duckdb

from jentrow.core.engines.answers import ROWS, Answer
from jentrow.core.engines.duckdb.connection import opened
from jentrow.core.engines.duckdb.queries import Queries
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.scratch import listed_values
from jentrow.core.engines.sqlite.checks import Checks
from jentrow.core.results import Row
from jentrow.core.samples.schema.tables import ColumnSchema, ForeignKey, TableSchema
from jentrow.core.sql.text import quoted_name
from jentrow.core.values import Interval, Value

_BYTES: Final = 256 * 2**20
_TABLES: Final = (
    "SELECT table_name, sql, comment FROM duckdb_tables() WHERE NOT internal ORDER BY table_oid"
)
_SEQUENCES: Final = "SELECT sequence_name, sql FROM duckdb_sequences() WHERE NOT temporary"
_VIEWS: Final = "SELECT view_name, sql FROM duckdb_views() WHERE NOT internal ORDER BY view_oid"
_COLUMNS: Final = """
    SELECT table_name, column_name, data_type, NOT is_nullable FROM duckdb_columns()
    WHERE NOT internal ORDER BY table_oid, column_index
"""
_CONSTRAINTS: Final = """
    SELECT table_name, constraint_type, constraint_column_names, referenced_table,
        referenced_column_names
    FROM duckdb_constraints() ORDER BY table_oid, constraint_index
"""


class DuckDBScratch:
    """See :class:`~jentrow.core.engines.scratch.Scratch`."""

    slowness: Final = 5.0
    clock = staticmethod(process_time)

    def __init__(
        self,
        source: duckdb.DuckDBPyConnection,
        functions: Sequence[str] = (),
        *,
        empty_is_null: bool = False,
        collation: str = "",
    ) -> None:
        """Takes the schema from the open file of a dataset; ``functions`` are made besides."""
        self.schema = tuple(map(listed_values, _read_schema(source)))
        self._db = opened(":memory:", _BYTES, writing=True, collation=collation)
        for _, sql, *_ in [
            *source.execute(_SEQUENCES).fetchall(),
            *source.execute(_TABLES).fetchall(),
            *source.execute(_VIEWS).fetchall(),
        ]:
            self._db.execute(sql)
        for sql in functions:
            self._db.execute(sql)
        self._empty = None if empty_is_null else ""
        self._queries = Queries()
        self._checks = Checks(self.schema)
        self._filled = False
        self._held: tuple[Mapping[str, Sequence[Row]], bool] = ({}, False)

    def fill(self, rows: Mapping[str, Sequence[Row]], *, backwards: bool = False) -> bool:
        """Holds these rows and no others; false where a constraint refuses one."""
        self._held = rows, backwards
        if self._filled:
            with suppress(duckdb.Error):
                self._db.execute("ROLLBACK")
        self._db.execute("BEGIN")
        self._filled = True
        try:
            for table, held in rows.items():
                if held:
                    ordered = list(reversed(held)) if backwards else held
                    marks = f"({', '.join('?' for _ in held[0])})"
                    self._db.execute(
                        f"INSERT INTO {quoted_name(table)} VALUES {', '.join([marks] * len(held))}",
                        [self._given(value) for row in ordered for value in row],
                    )
        except duckdb.Error:
            return False
        return True

    def _given(self, value: Value) -> object:
        """A value as the driver takes it, which knows no months of intervals."""
        if isinstance(value, Interval):
            time = value.time // dt.timedelta(microseconds=1)
            return f"{value.months} months {value.whole_days} days {time} microseconds"
        return self._empty if value == "" else value

    def run(self, sql: str, limits: Limits) -> Answer:
        """Runs one query on them, within its limits."""
        answer = self._queries.run(self._db, sql, limits)
        if answer[0] != ROWS:
            try:
                self._db.execute("SELECT 1")
            except duckdb.Error:
                # Some failures take the transaction along, with the rows in it.
                rows, backwards = self._held
                self.fill(rows, backwards=backwards)
        return answer

    def allows(self, table: TableSchema, row: Row) -> bool:
        """Whether a row meets the CHECK constraints of its table."""
        return self._checks.allow(table, row)


def _read_schema(db: duckdb.DuckDBPyConnection) -> list[TableSchema]:
    columns: dict[str, list[ColumnSchema]] = {}
    for table, column, type, not_null in db.execute(_COLUMNS).fetchall():
        columns.setdefault(table, []).append(ColumnSchema(column, type, bool(not_null)))
    keys: dict[str, list[tuple[str, tuple[str, ...]]]] = {}
    references: dict[str, list[ForeignKey]] = {}
    for table, kind, names, parent, to in db.execute(_CONSTRAINTS).fetchall():
        if kind in ("PRIMARY KEY", "UNIQUE"):
            keys.setdefault(table, []).append((kind, tuple(names)))
        elif kind == "FOREIGN KEY":
            references.setdefault(table, []).append(ForeignKey(tuple(names), parent, tuple(to)))
    found: list[TableSchema] = []
    for table, _, comment in db.execute(_TABLES).fetchall():
        aside = _aside(comment)
        more = [ForeignKey(tuple(own), parent, tuple(to)) for own, parent, to in aside[0]]
        own_keys = keys.get(table, [])
        found.append(
            TableSchema(
                table,
                tuple(columns.get(table, ())),
                primary_key=next((names for kind, names in own_keys if kind != "UNIQUE"), ()),
                uniques=tuple(names for kind, names in own_keys if kind == "UNIQUE"),
                foreign_keys=(*references.get(table, ()), *more),
                checks=tuple(aside[1]),
            )
        )
    views = [name for name, _ in db.execute(_VIEWS).fetchall()]
    found += [TableSchema(name, tuple(columns.get(name, ())), "view") for name in views]
    return found


def _aside(comment: str | None) -> tuple[list[Any], list[str]]:
    """The constraints that were kept beside a table when it was loaded."""
    try:
        said = json.loads(comment or "{}")
        return said.get("foreign_keys", []), said.get("checks", [])
    except (ValueError, AttributeError):  # a comment of the script's own
        return [], []
