"""Datasets that several processes load on one server at the same time."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from uuid import uuid4

import pytest

from jentrow.core.samples.sources import DatasetSource
from jentrow.services.runtime.engines import engine_named

AT_ONCE = 6
EACH = 4


@pytest.mark.parametrize("engine", ["postgresql", "mariadb"])
def test_datasets_loaded_at_the_same_time_do_not_disturb_one_another(engine: str) -> None:
    def load(process: int) -> list[int]:
        running = engine_named(engine, workers=1)
        try:
            return [running.load(_dataset(process, at)).table_rows[0][1] for at in range(EACH)]
        finally:
            running.close()

    def _dataset(process: int, at: int) -> DatasetSource:
        script = f"CREATE TABLE huts (name text); INSERT INTO huts VALUES ('{uuid4()}')"
        return DatasetSource(f"huts {process} {at}", script, keep_rows=True)

    with ThreadPoolExecutor(AT_ONCE) as pool:
        assert list(pool.map(load, range(AT_ONCE))) == [[1] * EACH] * AT_ONCE
