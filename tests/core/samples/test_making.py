from __future__ import annotations

import re
from pathlib import Path
from typing import Literal

import apsw
import pytest

from jentrow.core.errors import UnusableInput
from jentrow.core.samples.csvfiles import CSVFormat
from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.making.dataset_files import make_dataset
from jentrow.core.samples.making.process import Stopped, make, propose_tables
from jentrow.core.samples.making.proposals import kind_of_file, plain_name
from jentrow.core.samples.making.unfinished import LISTED, CannotMake
from jentrow.core.samples.recipes import ColumnSource, CSVSource, Problem, Recipe
from jentrow.core.samples.schema.coltypes import ColumnType

SCHEMA = "CREATE TABLE gates (code TEXT PRIMARY KEY NOT NULL, width INTEGER NOT NULL, built DATE);"


def source(path: Path, format: CSVFormat | None = None) -> CSVSource:
    return CSVSource(
        "gates",
        str(path),
        (
            ColumnSource("Code", "code", ColumnType("text")),
            ColumnSource("Width", "width", ColumnType("integer")),
            ColumnSource("Built", "built", ColumnType("date", "d.m.y")),
        ),
        format or CSVFormat(";"),
    )


def test_every_bad_row_is_named_with_its_line_and_column(tmp_path: Path) -> None:
    path = tmp_path / "gates.csv"
    path.write_text(
        "Code;Width;Built\na;1;1.4.2026\nb;x;\nc;2;31.2.2026\na;3;\nd;;\ne;4\n;5;\n",
        encoding="utf-8",
    )
    with pytest.raises(CannotMake) as caught:
        make_dataset(
            Recipe("tables", SCHEMA, (source(path),)), tmp_path / "x.db", lambda done, total: None
        )
    assert set(caught.value.problems) == {
        Problem("gates.csv", 3, "Width", "'x' is not a whole number."),
        Problem("gates.csv", 4, "Built", "'31.2.2026' is not a date such as 2026-07-03."),
        Problem("gates.csv", 5, "code", "a second row with the same code."),
        Problem("gates.csv", 6, "width", "NULL, where the table wants a value."),
        Problem("gates.csv", 7, "", "2 fields, but the header names 3."),
        Problem("gates.csv", 8, "code", "NULL, where the table wants a value."),
    }


def test_many_problems_are_counted_and_the_first_listed(tmp_path: Path) -> None:
    path = tmp_path / "gates.csv"
    lines = "".join(f"c{at};x;\n" for at in range(1_000))
    path.write_text("Code;Width;Built\n" + lines, encoding="utf-8")
    with pytest.raises(CannotMake) as caught:
        make(Recipe("tables", SCHEMA, (source(path),)), tmp_path / "x.db")
    assert len(caught.value.problems) == LISTED
    assert caught.value.count == 1_000
    assert not (tmp_path / "x.db").exists()


def test_values_come_as_their_types(tmp_path: Path) -> None:
    path = tmp_path / "gates.csv"
    path.write_text('Code;Width;Built\n"";1;1.4.2026\nb;2;\n', encoding="utf-8")
    make(Recipe("tables", SCHEMA, (source(path),)), tmp_path / "x.db")
    dataset = Dataset.adopt(tmp_path / "kept", tmp_path / "x.db", "made")
    with dataset.reading() as db:
        rows = list(db.execute("SELECT code, width, typeof(width), built FROM gates"))
    assert rows == [("", 1, "integer", "2026-04-01"), ("b", 2, "integer", None)]


def test_making_can_be_stopped_and_leaves_nothing(tmp_path: Path) -> None:
    path = tmp_path / "gates.csv"
    lines = "".join(f"c{at};{at};\n" for at in range(300_000))
    path.write_text("Code;Width;Built\n" + lines, encoding="utf-8")
    seen: list[tuple[int, int]] = []

    def watch(done: int, total: int) -> bool:
        seen.append((done, total))
        return done == 0

    with pytest.raises(Stopped):
        make(Recipe("tables", SCHEMA, (source(path),)), tmp_path / "x.db", watch)
    assert 0 < seen[-1][0] <= seen[-1][1] == path.stat().st_size
    assert not (tmp_path / "x.db").exists()


def test_tables_are_proposed_with_types_and_keys(tmp_path: Path) -> None:
    (tmp_path / "Rivers list.csv").write_text(
        "river_id,Name,Length (km)\n1,Lind,12.5\n2,Sarn,8.0\n", encoding="utf-8"
    )
    (tmp_path / "weirs.csv").write_text(
        "code,river_id,built,wet\nW1,1,2026-01-01,yes\nW2,2,,no\nW3,1,NULL,no\n", encoding="utf-8"
    )
    (tmp_path / "broken.csv").write_text('a,a\n1,"2\n', encoding="utf-8")
    found = propose_tables(sorted(tmp_path.glob("*.csv")))
    rivers, weirs = found.tables
    assert rivers.name == "rivers_list"
    assert [column.name for column in rivers.columns] == ["river_id", "name", "length_km"]
    assert rivers.primary_key == ("river_id",)
    assert weirs.format.null_marker == "NULL"
    types = {column.name: column.type.name for column in weirs.columns}
    assert types == {"code": "text", "river_id": "integer", "built": "date", "wet": "boolean"}
    assert weirs.primary_key == ("code",)
    assert [column.nulls for column in weirs.columns] == [0, 0, 2, 0]
    (key,) = weirs.foreign_keys
    assert (key.column, key.table, key.to) == ("river_id", "rivers_list", "river_id")
    (problem,) = found.problems
    assert problem.file == "broken.csv"
    assert "different name in every column" in problem.message
    again = propose_tables([tmp_path / "weirs.csv"], {"weirs.csv": CSVFormat(";")})
    assert len(again.tables[0].columns) == 1
    nowhere = propose_tables([tmp_path / "weirs.csv"], {"weirs.csv": CSVFormat(",", "klingon")})
    assert "no such encoding" in nowhere.problems[0].message


def test_files_are_known_by_what_is_in_them(tmp_path: Path) -> None:
    (tmp_path / "x.csv").write_bytes(b"SQLite format 3\0....")
    assert kind_of_file(tmp_path / "x.csv") == "database"
    for name in ("x.zip", "x.db", "x.docx"):
        (tmp_path / name).write_text("words", encoding="utf-8")
        with pytest.raises(UnusableInput, match=r"name says so|none of them"):
            kind_of_file(tmp_path / name)
    assert plain_name(" 2nd Gauge (m)", "x") == "n_2nd_gauge_m"
    assert plain_name("???", "x") == "x"


@pytest.mark.parametrize("kind", ["script", "database"])
@pytest.mark.parametrize(
    ("view", "why"),
    [
        ("SELECT wdith FROM gates", "no such column: wdith"),
        ("SELECT year(built) AS y FROM gates", "no such function: year"),
        ("SELECT * FROM locks", "no such table: main.locks"),
        ("SELECT code FROM seen", "view seen is circularly defined"),
        ("SELECT percentile(width, 50) AS p FROM gates", r"unsafe use of percentile\(\)"),
    ],
)
def test_a_view_that_cannot_be_read_is_left_out_and_so_is_one_over_it(
    tmp_path: Path, kind: Literal["script", "database"], view: str, why: str
) -> None:
    script = (
        f"{SCHEMA} INSERT INTO gates VALUES ('A', 3, NULL); CREATE VIEW seen AS {view}; "
        "CREATE VIEW over_it AS SELECT * FROM seen; CREATE VIEW wide AS SELECT code FROM gates;"
    )
    given = tmp_path / "given"
    given.write_text(script, encoding="utf-8")
    if kind == "database":
        given.unlink()
        connection = apsw.Connection(str(given))
        connection.execute(script)
        connection.close()
    made = make(Recipe(kind, path=str(given)), tmp_path / "made.db")
    assert {text for _, text, _ in made.left_out} == {"VIEW seen", "VIEW over_it"}
    assert re.search(why, next(words for _, text, words in made.left_out if text == "VIEW seen"))
    kept = Dataset.adopt(tmp_path / "kept", tmp_path / "made.db", "made")
    assert [one.name for one in kept.tables] == ["gates", "wide"]


def test_an_sqlite_file_is_copied_never_adopted(tmp_path: Path, weirs: Dataset) -> None:
    weirs.copy_to(tmp_path / "given.db")
    made = make(Recipe("database", path=str(tmp_path / "given.db")), tmp_path / "x.db")
    assert dict(made.table_rows) == {"rivers": 3, "weirs": 4, "notes": 4, "gates": 3}
    copy = Dataset.adopt(tmp_path / "kept", tmp_path / "x.db", "made")
    assert copy.tables == weirs.tables
    (tmp_path / "torn.db").write_bytes((tmp_path / "given.db").read_bytes()[:5000])
    with pytest.raises(CannotMake, match="SQLite"):
        make(Recipe("database", path=str(tmp_path / "torn.db")), tmp_path / "y.db")
