from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import settings

from jentrow.core.engines.protocol import LoadedDataset
from jentrow.core.engines.sqlite import SQLiteEngine
from jentrow.core.samples.sources import DatasetSource, read_sample

settings.register_profile("jentrow", deadline=None, print_blob=True)
settings.load_profile("jentrow")

ROOT = Path(__file__).resolve().parents[1]
DEMO = ROOT / "demo"
ANSWERS = Path(__file__).parent / "data" / "submissions.csv"


@pytest.fixture(scope="session")
def engine() -> Iterator[SQLiteEngine]:
    running = SQLiteEngine(workers=2)
    yield running
    running.close()


@pytest.fixture(scope="session")
def huts(engine: SQLiteEngine) -> LoadedDataset:
    return engine.load(read_sample(DEMO / "samples" / "huts").open)


@pytest.fixture(scope="session")
def gauges(engine: SQLiteEngine) -> LoadedDataset:
    """Two small tables about river gauges, with ties, NULLs, repeats and a collation."""
    schema = """
        CREATE TABLE gauges (name TEXT COLLATE NOCASE, river TEXT, level REAL, basin INTEGER);
        INSERT INTO gauges VALUES ('Auwehr', 'Lind', 1.5, 1), ('auwehr', 'Lind', 2.5, 2),
            ('Brugg', 'Sarn', 2.5, 1), ('brugg', NULL, 4.0, 2), (NULL, 'Sarn', 4.0, 3);
        CREATE TABLE readings (gauge TEXT, day TEXT, flow INTEGER);
        INSERT INTO readings VALUES ('Auwehr', '2026-04-01', 10), ('Auwehr', '2026-04-02', 10),
            ('Brugg', '2026-04-01', 7), ('Brugg', '2026-04-01', 7), ('Xanten', '2026-04-03', NULL);
    """
    return engine.load(DatasetSource("gauges", schema, keep_rows=True))
