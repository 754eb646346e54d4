"""All stand-ins, with a dataset loaded into each."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from jentrow.core.engines.labels import STAND_INS
from jentrow.core.engines.protocol import Engine, LoadedDataset
from jentrow.core.samples.sources import DatasetSource
from jentrow.services.runtime.engines import engine_named


@contextmanager
def stand_ins_over(dataset: DatasetSource) -> Iterator[dict[str, tuple[Engine, LoadedDataset]]]:
    engines = {name: engine_named(name, workers=1) for name in STAND_INS}
    yield {name: (one, one.load(dataset)) for name, one in engines.items()}
    for one in engines.values():
        one.close()
