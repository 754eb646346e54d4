"""Scripts for SQLite as its own programs write them."""

from __future__ import annotations

from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.samples.scripts.sqlite import without_lines
from tests.core.samples.scripts.test_reading import made, rows_of

DUMP = """\
.mode list
PRAGMA foreign_keys=OFF;
BEGIN TRANSACTION;
CREATE TABLE huts(hut_id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT, region REFERENCES regions);
INSERT INTO huts VALUES(7,'Karr''s
.tables','NOR');
CREATE TABLE regions(code TEXT PRIMARY KEY) WITHOUT ROWID;
INSERT INTO regions VALUES('NOR');
PRAGMA writable_schema=ON;
INSERT INTO sqlite_schema(type,name,tbl_name,rootpage,sql) VALUES('table','words','words',0,'x');
CREATE VIRTUAL TABLE IF NOT EXISTS "words" USING fts5(body);
INSERT INTO words VALUES('hut; .quit');
ANALYZE sqlite_schema;
INSERT INTO sqlite_stat1 VALUES('huts',NULL,'1');
DELETE FROM sqlite_sequence;
INSERT INTO sqlite_sequence VALUES('huts',9);
COMMIT;
PRAGMA foreign_keys=ON;
  .quit
"""


def test_a_dump_with_virtual_tables_and_lines_with_a_dot(tmp_path: Path) -> None:
    dataset, left_out, _ = made(tmp_path, DUMP, "sqlite")
    assert {one.name for one in dataset.tables} == {"huts", "regions"}
    assert rows_of(dataset, "huts") == [(7, "Karr's\n.tables", "NOR")]
    assert rows_of(dataset, "regions") == [("NOR",)]
    assert [one[:20] for one in left_out] == [
        ".mode list", "INSERT INTO sqlite_s", "CREATE VIRTUAL TABLE", "INSERT INTO words VA", ".quit",
    ]  # fmt: skip


@given(st.text(alphabet=".;\n' CREATE VIRTUAL TABLE x", max_size=60))
def test_every_line_stays_where_it_was(script: str) -> None:
    assert without_lines(script, lambda *_: None).count("\n") == script.count("\n")
