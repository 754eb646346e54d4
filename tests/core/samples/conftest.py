from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.making.dataset_files import make_dataset
from jentrow.core.samples.recipes import ColumnSource, CSVSource, Recipe
from tests.demo_course import DEMO

MakeDataset = Callable[[str], Dataset]

WEIRS = """
    CREATE TABLE rivers (
        river_id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, basin TEXT,
        CHECK (length(name) > 1)
    );
    CREATE TABLE weirs (
        code TEXT PRIMARY KEY NOT NULL,
        river_id INTEGER REFERENCES rivers (river_id) ON DELETE CASCADE,
        height_m DECIMAL(4,1) CHECK (height_m > 0),
        built DATE, open BOOLEAN NOT NULL DEFAULT TRUE
    );
    CREATE TABLE notes (text TEXT, weight REAL, raw BLOB, any);
    CREATE TABLE gates (weir TEXT NOT NULL REFERENCES weirs (code), no INTEGER NOT NULL,
        twice INTEGER GENERATED ALWAYS AS (no * 2) STORED, PRIMARY KEY (weir, no));
    CREATE VIEW low_weirs AS SELECT code, height_m FROM weirs WHERE height_m < 2;
    CREATE INDEX weirs_by_river ON weirs (river_id);
    INSERT INTO rivers VALUES (1, 'Lind', 'North'), (2, 'Sarn', NULL), (3, 'Kell', '');
    INSERT INTO weirs VALUES ('W1', 1, 2.5, '1961-04-01', 1), ('W2', 1, 1.5, NULL, 0),
        ('W3', 2, 1.5, '1999-09-09', 1), ('W4', NULL, NULL, '2004-03-29', 1);
    INSERT INTO gates (weir, no) VALUES ('W1', 1), ('W1', 2), ('W3', 1);
    INSERT INTO notes VALUES ('a', 1.5, x'00ff', 7), ('a', 1.5, x'00ff', 7), ('', NULL, NULL, '7'),
        (NULL, 2.0, 'text', 2.5);
"""


@pytest.fixture
def make_of(tmp_path: Path) -> MakeDataset:
    """Makes a dataset of a script."""
    count = 0

    def make(script: str) -> Dataset:
        nonlocal count
        count += 1
        path = tmp_path / f"script-{count}.sql"
        path.write_text(script, encoding="utf-8")
        file = tmp_path / f"made-{count}.db"
        make_dataset(Recipe("script", path=str(path)), file, lambda done, total: None)
        return Dataset.adopt(tmp_path / f"dataset-{count}", file, "made from a script")

    return make


@pytest.fixture
def weirs(make_of: MakeDataset) -> Dataset:
    return make_of(WEIRS)


@pytest.fixture
def huts_kept(tmp_path: Path) -> Dataset:
    """The demo's huts, kept."""
    from jentrow.core.samples.csvfiles import read_header

    folder = DEMO / "samples" / "huts"
    sources = tuple(
        CSVSource(
            path.stem, str(path), tuple(ColumnSource(name, name) for name in read_header(path))
        )
        for path in sorted((folder / "open").glob("*.csv"))
    )
    recipe = Recipe("tables", (folder / "schema.sql").read_text(encoding="utf-8"), sources)
    make_dataset(recipe, tmp_path / "huts.db", lambda done, total: None)
    return Dataset.adopt(tmp_path / "huts", tmp_path / "huts.db", "made from CSV")


def rows_of(dataset: Dataset, table: str) -> list[tuple[object, ...]]:
    """All rows of a table as a multiset, in a fixed order."""
    with dataset.reading() as db:
        return sorted(db.execute(f'SELECT * FROM "{table}"'), key=repr)
