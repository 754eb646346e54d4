"""DuckDB: embedded in the worker processes, pinned with its Python package."""

from __future__ import annotations

from pathlib import Path

from jentrow.core.engines.duckdb.capabilities import capabilities
from jentrow.core.engines.embedded import EmbeddedEngine
from jentrow.core.engines.pooled import parts_of
from jentrow.core.engines.protocol import Capabilities
from jentrow.core.samples.sources import DatasetSource


class DuckDBEngine(EmbeddedEngine):
    """Runs queries on DuckDB files in worker processes."""

    name = "duckdb"
    ending = ".duckdb"

    def make_copy(self, source: DatasetSource, copy: Path) -> None:
        """Makes a learner's own copy of a dataset, with the rules for its rows."""
        if source.database is None:  # a script's own tables have theirs
            super().make_copy(source, copy)
            return
        unfinished = copy.with_name(f"{copy.name}.unfinished")
        self._built_file(copy, unfinished, source.name, parts_of(source, for_changing=True))

    @property
    def capabilities(self) -> Capabilities:
        """What DuckDB is called, and what it can and cannot do."""
        return capabilities()

    @property
    def version(self) -> str:
        """The version of DuckDB that runs."""
        import duckdb

        return duckdb.__version__
