"""Where untrusted SQL meets PostgreSQL: this process only hands it on, and takes the rows."""

from __future__ import annotations

from typing import Any, Final

import psycopg
from psycopg.pq import ExecStatus

from jentrow.core.engines.answers import Answer, Stop, Tables, failed, told_columns
from jentrow.core.engines.copy_answers import CopyAnswer, CopyPage
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.postgresql.connection import connected, connected_to_dataset, is_gone
from jentrow.core.engines.postgresql.datasets import build_dataset, drop_copy, make_copy, use_copy
from jentrow.core.engines.postgresql.policy import REFUSED, refusal
from jentrow.core.engines.postgresql.private_copy import (
    copy_bytes,
    copy_rows,
    copy_tables,
    run_on_copy,
)
from jentrow.core.engines.postgresql.problems import rejected
from jentrow.core.engines.postgresql.results import fetched, is_at_work
from jentrow.core.engines.postgresql.scratch import PostgreSQLScratch
from jentrow.core.engines.postgresql.tables import tables_in
from jentrow.core.engines.protocol import DatasetParts
from jentrow.core.engines.scratch import Scratch
from jentrow.core.engines.servers.engine import read_address
from jentrow.core.engines.servers.scratch import OpenScratches
from jentrow.core.errors import EngineUnavailable
from jentrow.core.results import Column
from jentrow.core.samples.schema.tables import CountedTable

OPEN_CONNECTIONS: Final = 6

_Connection = psycopg.Connection[tuple[Any, ...]]


class PostgreSQLRoom:
    """The connections to the datasets that were asked for last."""

    addresses: Final = 0

    def __init__(self, server: str) -> None:
        """``server`` is the address, the administrator's or that for reading."""
        self._address = read_address(server, ("postgresql", "postgres"), 5432, "postgres")
        self._open: dict[tuple[str, Limits], _Connection] = {}
        self._tables: dict[str, dict[int, str]] = {}
        self._scratches = OpenScratches()
        self._columns: tuple[tuple[str, int], ...] = ()
        self._types: tuple[str, ...] = ()

    def bound(self, memory: int) -> None:
        """Nothing: the server has its own memory."""

    def about(self) -> tuple[str, list[str]]:
        """The server's version, and the functions that queries may call."""
        db = connected(self._address, user=self._address.user, password=self._address.password)
        with db:
            found = db.execute(
                "SELECT DISTINCT proname::text FROM pg_catalog.pg_proc WHERE prokind IN ('f', 'a', 'w')"
            )
            names = [
                name for (name,) in found if name.isidentifier() and not REFUSED.fullmatch(name)
            ]
            ((version,),) = db.execute("SHOW server_version").fetchall()
        built_in = (
            "coalesce",
            "nullif",
            "greatest",
            "least",
            "extract",
            "cast",
            "position",
            "trim",
        )
        return version.split()[0], sorted({*names, *built_in})

    def run(self, location: str, sql: str, limits: Limits) -> Answer:
        """Runs one query."""
        self._columns = ()
        if problem := refusal(sql):
            return problem
        try:
            return self._run(location, sql, limits)
        except _Gone:  # the connection may have been an old one
            return self._run_again(location, sql, limits)

    def _run_again(self, location: str, sql: str, limits: Limits) -> Answer:
        try:
            return self._run(location, sql, limits)
        except _Gone as gone:
            raise EngineUnavailable(
                f"PostgreSQL at {self._address.says()} went away: {gone}."
            ) from gone

    def _run(self, location: str, sql: str, limits: Limits) -> Answer:
        try:
            db = self._get(location, limits)
            answer = self._asked(db, sql, limits)
            if is_at_work(db):
                db.cancel()
                db.close()  # rows that nobody reads are still on their way
            else:
                # The server does it while the rows are looked at here; the next query waits for it.
                db.pgconn.send_query(b"DISCARD ALL")
        except psycopg.Error as problem:
            self._drop(location, limits)
            raise _Gone(str(problem).strip()) from problem
        return answer

    def _asked(self, db: _Connection, sql: str, limits: Limits) -> Answer:
        try:
            found = fetched(db, sql, limits)
        except Stop as stop:
            return failed("stopped", stop.code, "")
        except psycopg.Error as problem:
            if is_gone(problem, db):
                raise
            return rejected(problem)
        self._columns, self._types = found.columns, found.types
        return ("rows", tuple(name for name, _ in found.columns), found.rows, found.types)

    def told_columns(self, location: str) -> tuple[Column, ...]:
        """The columns of the last query as people tell them apart, with their types."""
        tables = self._tables.get(location, {})
        columns = [(name, tables.get(table, "")) for name, table in self._columns]
        return told_columns(columns, self._types)

    def build(self, location: str, parts: DatasetParts) -> Tables:
        """Loads a dataset, unless it is there. Raises :class:`InvalidSample`."""
        return build_dataset(self._address, location, parts)

    def look(self, location: str) -> Tables:
        """What is in a dataset that is loaded."""
        with connected_to_dataset(self._address, location, f"-c search_path={location}") as db:
            return tables_in(db, location)

    def scratch(self, location: str) -> Scratch | None:
        """Temporary tables in place of the dataset's; None where its login may make none."""
        try:
            return self._scratches.at(
                location, lambda: PostgreSQLScratch(self._scratches, self._address, location)
            )
        except psycopg.Error:
            return None

    def make_copy(self, copy: str, parts: DatasetParts) -> None:
        """Loads a dataset as a learner's own copy. Raises :class:`InvalidSample`."""
        make_copy(self._address, copy, parts)

    def drop_copy(self, copy: str) -> None:
        """Deletes a learner's own copy."""
        drop_copy(self._address, copy)

    def use_copy(self, copy: str) -> None:
        """Notes that a learner's own copy is in use."""
        use_copy(self._address, copy)

    def change(self, copy: str, script: str, limits: Limits, most_bytes: int) -> CopyAnswer:
        """Runs statements on a learner's own copy."""
        return run_on_copy(self._address, copy, script, limits, most_bytes)

    def copy_tables(self, copy: str) -> list[CountedTable]:
        """The tables of a learner's own copy."""
        return copy_tables(self._address, copy)

    def copy_rows(self, copy: str, table: str, offset: int, limit: int) -> CopyPage | None:
        """Rows of a table of a learner's own copy."""
        return copy_rows(self._address, copy, table, offset, limit)

    def copy_bytes(self, copy: str) -> int:
        """What the rows of a learner's own copy take up."""
        return copy_bytes(self._address, copy)

    def _get(self, location: str, limits: Limits) -> _Connection:
        key = (location, limits)
        db = self._open.pop(key, None)
        if db is None or db.closed:
            milliseconds = int(limits.seconds * 1000)
            # What a session begins with is what it is reset to after each query.
            options = {
                "search_path": location,
                "statement_timeout": f"{milliseconds}ms",
                "lock_timeout": f"{milliseconds}ms",
                "default_transaction_read_only": "on",
                "work_mem": f"{max(4, min(limits.memory_mb // 8, 64))}MB",
                "max_parallel_workers_per_gather": "0",
                "jit": "off",
            }
            said = " ".join(f"-c {name}={value}" for name, value in options.items())
            db = connected_to_dataset(self._address, location, said)
            if location not in self._tables:
                found = db.execute(
                    "SELECT c.oid, c.relname::text FROM pg_catalog.pg_class AS c "
                    "JOIN pg_catalog.pg_namespace AS n ON n.oid = c.relnamespace WHERE n.nspname = %s",
                    (location,),
                )
                self._tables[location] = dict(found.fetchall())
        self._open[key] = db
        while len(self._open) > OPEN_CONNECTIONS:
            self._open.pop(next(iter(self._open))).close()
        _wait_until_new(db)
        return db

    def _drop(self, location: str, limits: Limits) -> None:
        db = self._open.pop((location, limits), None)
        if db is not None:
            db.close()


def _wait_until_new(db: _Connection) -> None:
    """Waits until a session has forgotten the query before, if there was one."""
    while (found := db.pgconn.get_result()) is not None:
        if found.status != ExecStatus.COMMAND_OK:
            raise psycopg.OperationalError(found.get_error_message())


class _Gone(Exception):
    """Raised when a connection broke under a query."""
