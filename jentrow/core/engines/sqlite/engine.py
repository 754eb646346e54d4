"""SQLite: pinned with apsw, so that a verdict does not depend on the machine's own version."""

from __future__ import annotations

from jentrow.core.engines.embedded import EmbeddedEngine
from jentrow.core.engines.protocol import Capabilities, LoadedDataset
from jentrow.core.engines.sqlite.capabilities import capabilities
from jentrow.core.samples.sources import DatasetSource


class SQLiteEngine(EmbeddedEngine):
    """Runs queries on SQLite files in worker processes."""

    name = "sqlite"
    ending = ".db"

    @property
    def capabilities(self) -> Capabilities:
        """What SQLite is called, and what it can and cannot do."""
        return capabilities()

    @property
    def version(self) -> str:
        """The version of SQLite that runs, which apsw carries."""
        import apsw

        return apsw.sqlite_lib_version()

    def _build(self, key: str, dataset: DatasetSource) -> LoadedDataset:
        if dataset.database is None:
            return super()._build(key, dataset)
        location = str(dataset.database)
        return self._is_loaded(key, location, self._built("look", location, dataset.name))
