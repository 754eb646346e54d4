"""PostgreSQL's scratch database: temporary tables and views, which hide the dataset's own."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from typing import Any, Final

import psycopg
from psycopg import sql as text

from jentrow.core.engines.answers import Answer, Stop, failed
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.postgresql.connection import connected_to_dataset, is_gone
from jentrow.core.engines.postgresql.policy import refusal
from jentrow.core.engines.postgresql.problems import rejected
from jentrow.core.engines.postgresql.results import fetched
from jentrow.core.engines.postgresql.tables import schema_of
from jentrow.core.engines.servers.engine import ServerAddress
from jentrow.core.engines.servers.scratch import PATIENCE, Gone, OpenScratches, ServerScratch
from jentrow.core.results import Row
from jentrow.core.samples.schema.listvalues import NumberText, json_text
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.values import Interval

_PLACE: Final = "pg_temp"
_FILLS: Final = 400
"""After so many fills the deleted rows are cleared away, which takes as long as several."""

_ENUMERATIONS: Final = """
    SELECT pg_catalog.format_type(t.oid, NULL), string_agg(quote_literal(e.enumlabel), ', ' ORDER BY e.enumsortorder)
    FROM pg_catalog.pg_type AS t JOIN pg_catalog.pg_enum AS e ON e.enumtypid = t.oid
    WHERE t.typnamespace = %s::regnamespace GROUP BY t.oid
"""
_VIEWS: Final = """
    SELECT relname::text, pg_catalog.pg_get_viewdef(oid) FROM pg_catalog.pg_class
    WHERE relnamespace = %s::regnamespace AND relkind IN ('v', 'm') ORDER BY oid
"""

_Connection = psycopg.Connection[tuple[Any, ...]]


class PostgreSQLScratch(ServerScratch):
    """See :class:`ServerScratch`: its login reads the dataset, and makes temporary tables."""

    dialect = "postgres"

    def __init__(self, opened: OpenScratches, address: ServerAddress, location: str) -> None:
        """``address`` is that for reading.

        Raises :class:`EngineUnavailable`, and ``psycopg.Error`` where it may not make such tables.
        """
        self._address, self._location = address, location
        self._db: _Connection | None = None
        self._seconds = 0.0
        self._fills = 0
        with self._connected() as db:
            schema = _schema_of(db, location)
            self._views: list[tuple[str, str]] = db.execute(_VIEWS, (location,)).fetchall()
            super().__init__(opened, schema)
            self._make_tables(db)

    @property
    def is_open(self) -> bool:
        """Whether there is a connection."""
        return self._db is not None and not self._db.closed

    def close(self) -> None:
        """Ends the connection."""
        if self._db is not None:
            self._db.close()
        self._db = None

    def _connected(self) -> _Connection:
        options = {
            "search_path": self._location,
            "default_transaction_read_only": "on",
            "max_parallel_workers_per_gather": "0",
            "jit": "off",
        }
        said = " ".join(f"-c {name}={value}" for name, value in options.items())
        return connected_to_dataset(self._address, self._location, said)

    def _open(self) -> None:
        self._db = self._connected()
        self._seconds, self._fills = 0.0, 0
        try:
            self._make_tables(self._db)
        except psycopg.Error as problem:
            raise Gone(str(problem).strip()) from problem

    def _make_tables(self, db: _Connection) -> None:
        made = [
            text.SQL("CREATE TEMPORARY TABLE {} (LIKE {} INCLUDING ALL)").format(
                text.Identifier(name), text.Identifier(self._location, name)
            )
            for name in self._tables
        ]
        # They are spelled out while their tables are the dataset's own, without a schema.
        made += [
            text.SQL("CREATE TEMPORARY VIEW {} AS ").format(text.Identifier(name))
            + text.SQL(query.rstrip().rstrip(";"))
            for name, query in self._views
        ]
        _written(db, made)

    def _filled(self, rows: Mapping[str, Sequence[Row]], backwards: bool) -> bool:
        db = self._db
        assert db is not None
        self._fills += 1
        clear = "TRUNCATE {}" if self._fills % _FILLS == 0 else "DELETE FROM {}"
        statements: list[text.Composable] = [
            text.SQL(clear).format(text.Identifier(_PLACE, name)) for name in self._tables
        ]
        try:
            for name, held in rows.items():
                if held:
                    ordered = list(reversed(held)) if backwards else held
                    statements.append(_insert(self._tables[name], ordered))
            _written(db, statements)
        except psycopg.Error as problem:
            if is_gone(problem, db):
                raise Gone(str(problem).strip()) from problem
            return False
        return True

    def _ran(self, sql: str, limits: Limits) -> Answer:
        if refused := refusal(sql):
            return refused
        db = self._db
        assert db is not None
        try:
            if self._seconds != limits.seconds:
                milliseconds = int(limits.seconds * PATIENCE * 1000)
                db.execute(f"SET statement_timeout = '{milliseconds}ms'")
                self._seconds = limits.seconds
            found = fetched(db, sql, limits)
        except Stop as stop:
            self.close()  # rows that nobody reads are still on their way
            return failed("stopped", stop.code, "")
        except psycopg.Error as problem:
            if is_gone(problem, db):
                raise Gone(str(problem).strip()) from problem
            return rejected(problem)
        return ("rows", tuple(name for name, _ in found.columns), found.rows, found.types)


def _written(db: _Connection, statements: Sequence[text.Composable]) -> None:
    """Runs statements that write, all in one message, and all or none of them."""
    whole = text.SQL("; ").join([text.SQL("BEGIN READ WRITE"), *statements, text.SQL("COMMIT")])
    try:
        db.execute(whole)
    except psycopg.Error:
        if not db.closed:
            db.execute("ROLLBACK")
        raise


def _schema_of(db: _Connection, location: str) -> list[TableSchema]:
    """The tables and views, with the values of an enumeration in the type of its columns."""
    values: dict[str, str] = dict(db.execute(_ENUMERATIONS, (location,)).fetchall())
    return [
        replace(
            table,
            columns=tuple(
                replace(one, type=f"ENUM({values[one.type]})") if one.type in values else one
                for one in table.columns
            ),
        )
        for table in schema_of(db, location)
    ]


def _insert(table: TableSchema, rows: Sequence[Row]) -> text.Composed:
    columns = table.writable
    written = [
        text.SQL("({})").format(
            text.SQL(", ").join(
                text.Literal(_given(value, column.type))
                for value, column in zip(row, columns, strict=True)
            )
        )
        for row in rows
    ]
    return text.SQL("INSERT INTO {} ({}) OVERRIDING SYSTEM VALUE VALUES {}").format(
        text.Identifier(_PLACE, table.name),
        text.SQL(", ").join(text.Identifier(one.name) for one in columns),
        text.SQL(", ").join(written),
    )


def _given(value: Any, declared: str) -> Any:
    """A value as the driver writes it into a column of this type."""
    if isinstance(value, Interval):
        seconds = Decimal(value.time // dt.timedelta(microseconds=1)) / 1_000_000
        return f"P{value.months}M{value.whole_days}DT{seconds}S"
    if isinstance(value, dict) or (isinstance(value, list) and not declared.endswith("[]")):
        return json_text(_with_numbers(value))
    return value


def _with_numbers(value: Any) -> Any:
    """What JSON came to, its decimals in the digits that they had."""
    match value:
        case dict():
            return {key: _with_numbers(one) for key, one in value.items()}
        case list():
            return list(map(_with_numbers, value))
        case Decimal():
            return NumberText(value)
    return value
