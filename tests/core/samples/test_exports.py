from __future__ import annotations

from pathlib import Path

import apsw
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jentrow.core.archives import unpacked
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.packs.writing import write_pack
from jentrow.core.samples.csvfiles import read_header
from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.exports import (
    CannotExport,
    write_csv_folder,
    write_database,
    write_script,
)
from jentrow.core.samples.making.dataset_files import make_dataset
from jentrow.core.samples.recipes import ColumnSource, CSVSource, Recipe
from jentrow.core.samples.sources import DatasetSource, read_sample
from tests.core.samples.conftest import MakeDataset, rows_of


def rows_with_types(path: Path, tables: list[str]) -> dict[str, list[tuple[object, ...]]]:
    db = apsw.Connection(str(path), flags=apsw.SQLITE_OPEN_READONLY)
    found = {
        table: [tuple((type(v), v) for v in row) for row in db.execute(f'SELECT * FROM "{table}"')]
        for table in tables
    }
    db.close()
    return found


def made_of_source(source: DatasetSource, target: Path) -> None:
    recipe = Recipe(
        "tables",
        source.schema,
        tuple(
            CSVSource(table, str(path), tuple(ColumnSource(n, n) for n in read_header(path)))
            for table, path in source.tables
        ),
    )
    make_dataset(recipe, target, lambda done, total: None)


texts = st.text(st.characters(codec="utf-8", exclude_characters="\0\r"), max_size=6)
numbers = st.one_of(
    st.integers(-(2**63), 2**63 - 1), st.floats(allow_nan=False, allow_infinity=False)
)
rows = st.lists(
    st.tuples(
        st.one_of(st.none(), texts),
        st.one_of(st.none(), numbers),
        st.one_of(st.none(), st.floats(allow_nan=False, allow_infinity=False)),
        st.one_of(st.none(), st.binary(max_size=4)),
        st.sampled_from([None, 0, 1]),
        st.one_of(st.none(), st.dates().map(str)),
    ),
    max_size=6,
)


@settings(
    max_examples=settings.default.max_examples * 3 // 8,
    suppress_health_check=[HealthCheck.function_scoped_fixture],
)
@given(rows)
def test_each_way_out_leads_back_to_the_same_rows(
    make_of: MakeDataset, tmp_path: Path, given_rows: list[tuple[object, ...]]
) -> None:
    dataset = make_of(
        'CREATE TABLE "odd name" (words TEXT, amount DECIMAL(9,2), level REAL, raw BLOB,'
        ' wet BOOLEAN, "on" DATE); CREATE INDEX by_day ON "odd name" ("on");'
    )

    def work(db: apsw.Connection) -> str:
        db.executemany('INSERT INTO "odd name" VALUES (?, ?, ?, ?, ?, ?)', given_rows)
        return "filled"

    dataset.change(work)
    known = rows_with_types(dataset.path, ["odd name"])
    name = f"{len(list(tmp_path.iterdir()))}"
    script, database = tmp_path / f"{name}.sql", tmp_path / f"{name}.db"
    folder, pack = tmp_path / f"{name}.zip", tmp_path / f"{name}.pack.zip"
    back = tmp_path / f"{name}.back.db"

    write_script(dataset, script)
    make_dataset(Recipe("script", path=str(script)), back, lambda done, total: None)
    assert rows_with_types(back, ["odd name"]) == known
    back.unlink()

    write_database(dataset, database)
    make_dataset(Recipe("database", path=str(database)), back, lambda done, total: None)
    assert rows_with_types(back, ["odd name"]) == known
    back.unlink()

    write_csv_folder(dataset, {"other": dataset}, folder)
    with unpacked(folder) as unzipped:
        sample = read_sample(unzipped)
        assert [one.name for one in sample.datasets] == ["open", "other"]
        for source in sample.datasets:
            made_of_source(source, back)
            assert rows_with_types(back, ["odd name"]) == known
            back.unlink()

    write_pack(pack, "Odd", {"odd": folder})
    with unpacked(pack) as unzipped:
        made_of_source(read_sample(unzipped / "samples" / "odd").open, back)
    assert rows_with_types(back, ["odd name"]) == known


def test_schema_and_rows_of_everything_come_back(weirs: Dataset, tmp_path: Path) -> None:
    write_script(weirs, tmp_path / "weirs.sql")
    file = tmp_path / "back.db"
    make_dataset(Recipe("script", path=str(tmp_path / "weirs.sql")), file, lambda done, total: None)
    back = Dataset.adopt(tmp_path / "back", file, "back")
    assert back.tables == weirs.tables
    for table in weirs.tables:
        assert rows_of(back, table.name) == rows_of(weirs, table.name)


def test_an_exported_pack_is_read_by_the_engine(
    huts_kept: Dataset, tmp_path: Path, engine: SQLiteEngine
) -> None:
    write_csv_folder(huts_kept, {}, tmp_path / "files.zip")
    write_pack(tmp_path / "huts.zip", "Huts", {"huts": tmp_path / "files.zip"})
    with unpacked(tmp_path / "huts.zip") as folder:
        loaded = engine.load(read_sample(folder / "samples" / "huts").open)
    assert dict(loaded.table_rows)["stays"] == 38


@pytest.mark.parametrize(
    ("script", "words"),
    [
        ("CREATE TABLE t (any); INSERT INTO t VALUES (7);", "t.any, row 1: a number in a column"),
        ("CREATE TABLE t (a, b TEXT); INSERT INTO t VALUES (x'00', '');", "bytes in a column"),
        ("CREATE TABLE t (a TEXT, b); INSERT INTO t VALUES ('a' || char(13), 1);", "character"),
        ("CREATE TABLE t (a BLOB, b TEXT); INSERT INTO t VALUES ('x''00''', 1);", "read as bytes"),
        ("CREATE TABLE t (a TEXT); INSERT INTO t VALUES (NULL);", "a blank line"),
        ("CREATE TABLE t (a REAL, b TEXT); INSERT INTO t VALUES (9e999, 1);", "a number"),
    ],
)
def test_what_csv_cannot_hold_is_named(
    make_of: MakeDataset, tmp_path: Path, script: str, words: str
) -> None:
    dataset = make_of(script)
    with pytest.raises(CannotExport, match=words):
        write_csv_folder(dataset, {}, tmp_path / "out.zip")
    write_script(dataset, tmp_path / "out.sql")
    make_dataset(
        Recipe("script", path=str(tmp_path / "out.sql")),
        tmp_path / "b.db",
        lambda done, total: None,
    )
    assert rows_with_types(tmp_path / "b.db", ["t"]) == rows_with_types(dataset.path, ["t"])
