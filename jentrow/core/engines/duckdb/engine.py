"""DuckDB: embedded in the worker processes, pinned with its Python package."""

from __future__ import annotations

from jentrow.core.engines.duckdb.capabilities import capabilities
from jentrow.core.engines.embedded import EmbeddedEngine
from jentrow.core.engines.protocol import Capabilities


class DuckDBEngine(EmbeddedEngine):
    """Runs queries on DuckDB files in worker processes."""

    name = "duckdb"
    ending = ".duckdb"

    @property
    def capabilities(self) -> Capabilities:
        """What DuckDB is called, and what it can and cannot do."""
        return capabilities()

    @property
    def version(self) -> str:
        """The version of DuckDB that runs."""
        import duckdb

        return duckdb.__version__
