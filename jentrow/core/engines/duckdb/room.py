"""Where untrusted SQL meets DuckDB, in a worker process. Nothing of the server runs here."""

from __future__ import annotations

from typing import Final

import duckdb

from jentrow.core.engines.answers import Answer, Tables
from jentrow.core.engines.copy_answers import CopyAnswer, CopyPage
from jentrow.core.engines.duckdb.capabilities import capabilities
from jentrow.core.engines.duckdb.connection import opened
from jentrow.core.engines.duckdb.loader import DuckDBLoader
from jentrow.core.engines.duckdb.private_copy import copy_rows, copy_tables, run_on_copy
from jentrow.core.engines.duckdb.queries import Queries
from jentrow.core.engines.duckdb.scratch import DuckDBScratch
from jentrow.core.engines.duckdb.tables import tables_in
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.loading.datasets import load_parts
from jentrow.core.engines.protocol import DatasetParts
from jentrow.core.engines.rooms import CopiesAreFiles
from jentrow.core.engines.scratch import Scratch
from jentrow.core.results import Column
from jentrow.core.samples.schema.tables import CountedTable

OPEN_DATABASES: Final = 8
LOADING_BYTES: Final = 2**30


class DuckDBRoom(CopiesAreFiles):
    """The databases that were asked for last, open for reading."""

    addresses: Final = 2 * 2**30

    def __init__(self) -> None:
        self._open: dict[tuple[str, int], duckdb.DuckDBPyConnection] = {}
        self._queries = Queries()

    def about(self) -> tuple[str, list[str]]:
        """The version of DuckDB that runs, and its functions."""
        return duckdb.__version__, list(capabilities().functions)

    collation = ""
    """How texts compare that say nothing else."""

    def bound(self, memory: int) -> None:
        """Nothing: each connection is bounded by its own configuration."""

    def run(self, location: str, sql: str, limits: Limits) -> Answer:
        """Runs one query."""
        return self._queries.run(self._get(location, limits.memory_mb * 2**20), sql, limits)

    def told_columns(self, location: str) -> tuple[Column, ...]:
        """The columns of the last query as people tell them apart, with their types."""
        return self._queries.told_columns()

    def build(self, location: str, parts: DatasetParts) -> Tables:
        """Writes a database file. Raises :class:`InvalidSample`."""
        loader = DuckDBLoader(location, LOADING_BYTES)
        try:
            return load_parts(loader, parts)
        finally:
            loader.close()

    def look(self, location: str) -> Tables:
        """What is in a database file."""
        return tables_in(self._get(location, LOADING_BYTES))

    def scratch(self, location: str) -> Scratch | None:
        """A database of the same schema in memory, for made-up rows."""
        return DuckDBScratch(self._get(location, LOADING_BYTES))

    def change(self, copy: str, script: str, limits: Limits, most_bytes: int) -> CopyAnswer:
        """Runs statements on a learner's own copy."""
        return run_on_copy(copy, script, limits, most_bytes, self._queries.watch)

    def copy_tables(self, copy: str) -> list[CountedTable]:
        """The tables of a learner's own copy."""
        return copy_tables(copy, self._queries.watch)

    def copy_rows(self, copy: str, table: str, offset: int, limit: int) -> CopyPage | None:
        """Rows of a table of a learner's own copy."""
        return copy_rows(copy, table, offset, limit, self._queries.watch)

    def _get(self, path: str, memory: int) -> duckdb.DuckDBPyConnection:
        db = self._open.pop((path, memory), None)
        if db is None:
            # One file cannot be open twice with two bounds.
            for key in [key for key in self._open if key[0] == path]:
                self._open.pop(key).close()
            db = opened(path, memory, collation=self.collation)
        self._open[path, memory] = db
        while len(self._open) > OPEN_DATABASES:
            self._open.pop(next(iter(self._open))).close()
        return db
