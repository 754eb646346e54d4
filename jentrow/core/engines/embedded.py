"""An engine that lives in the worker processes and keeps each dataset in a file."""

from __future__ import annotations

import os

from jentrow.core.engines.pooled import PooledEngine, parts_of
from jentrow.core.engines.protocol import LoadedDataset
from jentrow.core.errors import JentrowError
from jentrow.core.processes.crossing import packed
from jentrow.core.samples.sources import DatasetSource


class EmbeddedEngine(PooledEngine):
    """A pooled engine whose datasets are files in its folder."""

    ending: str

    def _build(self, key: str, dataset: DatasetSource) -> LoadedDataset:
        path = self._folder / f"{key}{self.ending}"
        unfinished = self._folder / f"{key}.{os.getpid()}.unfinished"
        unfinished.unlink(missing_ok=True)
        try:
            said = self._built("build", str(unfinished), dataset, packed(parts_of(dataset)))
        except JentrowError:
            unfinished.unlink(missing_ok=True)
            raise
        unfinished.replace(path)
        return self._is_loaded(key, str(path), said)
