"""Notes on tables and columns: read, written, laid over the tables."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.errors import InvalidSample
from jentrow.core.samples.schema.tables import ColumnSchema, TableSchema
from jentrow.core.samples.sources import read_sample
from jentrow.core.samples.tablenotes import (
    MOST,
    TableNote,
    noted,
    notes_mapping,
    read_notes,
    unknown_names,
    with_note,
)

HUTS = TableSchema("Huts", (ColumnSchema("name"), ColumnSchema("beds")))
WORDS = st.text("ab c", max_size=6).map(str.strip)
NOTES = st.dictionaries(
    st.sampled_from(["huts", "stays", "trails"]),
    st.builds(TableNote, WORDS, st.dictionaries(st.sampled_from(["name", "beds"]), WORDS)),
)


@given(NOTES)
def test_what_is_written_is_read_again(notes: dict[str, TableNote]) -> None:
    written = notes_mapping(notes)
    assert notes_mapping(read_notes(written, "notes.yaml")) == written
    assert all(said for table in written.values() for said in table.values())


@given(NOTES, WORDS)
def test_one_note_is_written_and_the_others_stay(notes: dict[str, TableNote], text: str) -> None:
    after = with_note(notes, "HUTS", "Beds", text)
    (table,) = noted([HUTS], after)
    (before,) = noted([HUTS], notes)
    assert [one.note for one in table.columns] == [before.columns[0].note, text]
    assert table.note == before.note
    assert {name: said for name, said in after.items() if name.lower() != "huts"} == {
        name: said for name, said in notes.items() if name != "huts"
    }


def test_a_text_is_the_table_s_own_note() -> None:
    notes = read_notes({"huts": "All of them.", "Huts2": {"columns": {"x": "?"}}}, "notes.yaml")
    assert noted([HUTS], notes)[0].note == "All of them."
    assert unknown_names([HUTS], {**notes, "huts": TableNote("", {"bed": "?"})}) == [
        "huts.bed",
        "Huts2",
    ]


@pytest.mark.parametrize(
    ("content", "words"),
    [
        ([], "no mapping from tables"),
        ({"huts": 7}, "huts: is neither a text nor a mapping"),
        ({"huts": {"notes": "x"}}, "unknown name 'notes'"),
        ({"huts": {"columns": ["a"]}}, "columns is no mapping"),
        ({"huts": {"columns": {"beds": 7}}}, "huts.beds: its note is no text"),
        ({"huts": "x" * (MOST + 1)}, "501 characters; at most 500"),
    ],
)
def test_what_is_wrong_is_said(content: object, words: str) -> None:
    with pytest.raises(InvalidSample, match=r"notes\.yaml") as problem:
        read_notes(content, "notes.yaml")
    assert words in str(problem.value)


def test_a_sample_s_folder_may_hold_them(tmp_path: Path) -> None:
    (tmp_path / "schema.sql").write_text(
        "CREATE TABLE huts (name TEXT); INSERT INTO huts VALUES (1);"
    )
    assert read_sample(tmp_path).notes == {}
    (tmp_path / "notes.yaml").write_text("huts: [")
    with pytest.raises(InvalidSample, match=r"notes\.yaml"):
        read_sample(tmp_path)
    (tmp_path / "notes.yaml").write_text("huts: Where people sleep.")
    assert read_sample(tmp_path).notes["huts"].note == "Where people sleep."
