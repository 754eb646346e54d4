"""Where untrusted SQL meets MariaDB: this process only hands it on, and takes the rows."""

from __future__ import annotations

from typing import Any, Final

import pymysql
from pymysql.connections import Connection
from pymysql.cursors import SSCursor

from jentrow.core.engines.answers import Answer, Stop, Tables, failed, told_columns, within_bounds
from jentrow.core.engines.copy_answers import CopyAnswer, CopyPage
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.mariadb.connection import (
    abandoned,
    begin_renewal,
    bounds,
    connected,
    connected_to_dataset,
    end_renewal,
    ended,
    is_gone,
    is_mariadb,
    output_columns,
    plain_version,
    server_version,
    words_of,
)
from jentrow.core.engines.mariadb.datasets import build_dataset, drop_copy, make_copy, use_copy
from jentrow.core.engines.mariadb.functions import FUNCTIONS
from jentrow.core.engines.mariadb.policy import refusal
from jentrow.core.engines.mariadb.private_copy import (
    copy_bytes,
    copy_rows,
    copy_tables,
    run_on_copy,
)
from jentrow.core.engines.mariadb.problems import rejected
from jentrow.core.engines.mariadb.scratch import MariaDBScratch
from jentrow.core.engines.mariadb.tables import tables_in
from jentrow.core.engines.protocol import DatasetParts
from jentrow.core.engines.scratch import Scratch
from jentrow.core.engines.servers.engine import read_address
from jentrow.core.engines.servers.scratch import OpenScratches
from jentrow.core.errors import EngineUnavailable
from jentrow.core.results import Column
from jentrow.core.samples.schema.tables import CountedTable

OPEN_CONNECTIONS: Final = 6


class MariaDBRoom:
    """The connections to the datasets that were asked for last."""

    addresses: Final = 0

    def __init__(self, server: str) -> None:
        """``server`` is the address, the administrator's or that for reading."""
        self._address = read_address(server, ("mariadb", "mysql"), 3306, "root")
        self._open: dict[tuple[str, Limits], Connection[SSCursor]] = {}
        self._scratches = OpenScratches()
        self._columns: tuple[tuple[str, str], ...] = ()

    def bound(self, memory: int) -> None:
        """Nothing: the server has its own memory."""

    def about(self) -> tuple[str, list[str]]:
        """The server's version, and the functions that queries may call."""
        address = self._address
        db = connected(address, user=address.user, password=address.password)
        try:
            return plain_version(server_version(db)), sorted(FUNCTIONS)
        finally:
            db.close()

    def run(self, location: str, sql: str, limits: Limits) -> Answer:
        """Runs one query."""
        self._columns = ()
        if problem := refusal(sql):
            return problem
        for attempt in range(2):  # the connection may have been an old one
            try:
                return self._run(location, sql, limits)
            except (pymysql.Error, OSError) as gone:
                self._drop(location, limits)
                if attempt:
                    raise EngineUnavailable(
                        f"MariaDB at {self._address.says()} went away: {words_of(gone)}."
                    ) from gone
        raise AssertionError("unreachable")

    def _run(self, location: str, sql: str, limits: Limits) -> Answer:
        db = self._begun(location, limits)
        answer = self._asked(db, sql, limits)
        if db.open:
            # The server does it while the rows are looked at here; the next query waits for it.
            begin_renewal(db, _settings(db, limits))
        return answer

    def _asked(self, db: Connection[SSCursor], sql: str, limits: Limits) -> Answer:
        cursor = db.cursor()
        try:
            cursor.execute(sql)
            rows = self._fetched(cursor, limits)
        except Stop as stop:
            abandoned(cursor)  # rows that nobody reads are still on their way
            return failed("stopped", stop.code, "")
        except (pymysql.Error, OSError) as problem:
            if is_gone(problem):
                raise
            return rejected(problem)
        except (ValueError, UnicodeDecodeError) as problem:
            abandoned(cursor)
            return failed("error", "sql.runtime", str(problem))
        return ("rows", tuple(name for name, _ in self._columns), rows, ())

    def _fetched(self, cursor: SSCursor, limits: Limits) -> list[tuple[Any, ...]]:
        """The rows, up to the bounds, as they come."""
        self._columns = output_columns(cursor)
        return within_bounds(cursor, limits)

    def told_columns(self, location: str) -> tuple[Column, ...]:
        """The columns of the last query as people tell them apart."""
        return told_columns(self._columns)

    def build(self, location: str, parts: DatasetParts) -> Tables:
        """Loads a dataset, unless it is there. Raises :class:`InvalidSample`."""
        return build_dataset(self._address, location, parts)

    def look(self, location: str) -> Tables:
        """What is in a dataset that is loaded."""
        db = connected_to_dataset(self._address, location)
        try:
            return tables_in(db, location)
        finally:
            db.close()

    def scratch(self, location: str) -> Scratch | None:
        """Temporary tables in place of the dataset's; None where its login may make none."""
        try:
            return self._scratches.at(
                location, lambda: MariaDBScratch(self._scratches, self._address, location)
            )
        except pymysql.Error:
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

    def _begun(self, location: str, limits: Limits) -> Connection[SSCursor]:
        """A connection whose session is new, with its bounds set."""
        key = (location, limits)
        db = self._open.pop(key, None)
        if db is None or not db.open:
            db = connected_to_dataset(self._address, location)
            begin_renewal(db, _settings(db, limits))
        self._open[key] = db
        while len(self._open) > OPEN_CONNECTIONS:
            ended(self._open.pop(next(iter(self._open))))
        end_renewal(db)
        return db

    def _drop(self, location: str, limits: Limits) -> None:
        db = self._open.pop((location, limits), None)
        if db is not None:
            ended(db)


def _settings(db: Connection[SSCursor], limits: Limits) -> str:
    """The statement that bounds a session."""
    read_only = "tx_read_only" if is_mariadb(db) else "transaction_read_only"
    settings = [*bounds(db, limits.seconds, limits.memory_mb), f"{read_only} = 1"]
    return "SET SESSION " + ", ".join(settings)
