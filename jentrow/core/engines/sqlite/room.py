"""SQLite in a worker process: the databases that are open. Nothing of the server runs here."""

from __future__ import annotations

from pathlib import Path
from typing import Final

import apsw

from jentrow.core.engines.answers import Answer, Tables
from jentrow.core.engines.copy_answers import CopyAnswer, CopyPage
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import DatasetParts
from jentrow.core.engines.rooms import CopiesAreFiles
from jentrow.core.engines.sqlite.capabilities import capabilities
from jentrow.core.engines.sqlite.copy_reading import copy_rows, copy_tables
from jentrow.core.engines.sqlite.private_copy import run_on_copy
from jentrow.core.engines.sqlite.sandbox import Sandbox, opened
from jentrow.core.engines.sqlite.scratch import SQLiteScratch
from jentrow.core.results import Column
from jentrow.core.samples.making.database_build import build_database
from jentrow.core.samples.schema.tables import CountedTable

OPEN_DATABASES: Final = 8


class SQLiteRoom(CopiesAreFiles):
    """The databases that were asked for last, open."""

    addresses: Final = 0

    def __init__(self) -> None:
        self._open: dict[str, Sandbox] = {}

    def about(self) -> tuple[str, list[str]]:
        """The version of SQLite that runs, and its functions."""
        return apsw.sqlite_lib_version(), list(capabilities().functions)

    def bound(self, memory: int) -> None:
        """Bounds SQLite's heap (in bytes)."""
        apsw.hard_heap_limit(memory)

    def run(self, location: str, sql: str, limits: Limits) -> Answer:
        """Runs one query."""
        return self._get(location).run(sql, limits)

    def told_columns(self, location: str) -> tuple[Column, ...]:
        """The columns of the last query as people tell them apart, with their types."""
        return self._get(location).told_columns()

    def build(self, location: str, parts: DatasetParts) -> Tables:
        """Writes a database file. Raises :class:`BuildProblem`."""
        tables = [(name, Path(at)) for name, at in parts.tables]
        build_database(location, parts.schema, parts.keep_rows, parts.script, tables)
        return self.look(location)

    def look(self, location: str) -> Tables:
        """What is in a database file."""
        sandbox = Sandbox(opened(location))
        found = sandbox.tables()
        sandbox.close()
        return found

    def change(self, copy: str, script: str, limits: Limits, most_bytes: int) -> CopyAnswer:
        """Runs statements on a learner's own copy."""
        return run_on_copy(
            copy, script, limits.steps, limits.rows, most_bytes, limits.value_bytes,
            minds_case=limits.minds_case,
        )  # fmt: skip

    def copy_tables(self, copy: str) -> list[CountedTable]:
        """The tables of a learner's own copy."""
        return copy_tables(Path(copy))

    def copy_rows(self, copy: str, table: str, offset: int, limit: int) -> CopyPage | None:
        """Rows of a table of a learner's own copy."""
        return copy_rows(Path(copy), table, offset, limit)

    def scratch(self, location: str) -> SQLiteScratch | None:
        """A database of the same schema in memory; None where it cannot be made a second time."""
        try:
            return SQLiteScratch(location)
        except apsw.Error:
            return None

    def _get(self, path: str) -> Sandbox:
        sandbox = self._open.pop(path, None) or Sandbox(opened(path))
        self._open[path] = sandbox
        while len(self._open) > OPEN_DATABASES:
            self._open.pop(next(iter(self._open))).close()
        return sandbox
