"""Rows are looked at, and changed, in processes of their own, within bounds."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import apsw
import pytest

from jentrow.core.errors import EngineInterrupted, UnusableInput
from jentrow.core.samples.dataset import Dataset, TooSlow
from jentrow.core.samples.rows.edits import Insert, RefusedEdit
from jentrow.core.samples.rows.reading_room import ReadingRoom
from jentrow.core.shownrows import Cut
from tests.core.deaths import dies_of


@pytest.fixture
def room() -> Iterator[ReadingRoom]:
    running = ReadingRoom(workers=1)
    yield running
    running.close()


def made(folder: Path, script: str) -> Dataset:
    file = folder / "made.db"
    db = apsw.Connection(str(file))
    db.execute(script)
    db.close()
    return Dataset.adopt(folder / "dataset", file, "made")


GAUGES = """
    CREATE TABLE gauges (name TEXT PRIMARY KEY, level REAL CHECK (level < 100));
    INSERT INTO gauges VALUES ('Auwehr', 1.5), ('Brugg', 2.5);
"""


def test_rows_are_looked_at_and_changed(tmp_path: Path, room: ReadingRoom) -> None:
    dataset = made(tmp_path, GAUGES)
    page = room.look("page", dataset.folder, "gauges", where="level > 2")
    assert [row.values for row in page.rows] == [("Brugg", 2.5)]
    room.change("edit", dataset.folder, (Insert("gauges", {"name": "Culm", "level": "3"}),))
    assert [one.rows for one in room.look("counts", dataset.folder)] == [3]
    assert dataset.version == 2
    with pytest.raises(RefusedEdit) as refused:
        room.change("edit", dataset.folder, (Insert("gauges", {"name": "D", "level": "300"}),))
    assert refused.value.refusal.column == "level"
    with pytest.raises(UnusableInput, match="no table 'nothing'"):
        room.look("page", dataset.folder, "nothing")


def test_values_that_fill_the_memory_cost_the_server_nothing(
    tmp_path: Path, room: ReadingRoom
) -> None:
    """A generated column of 100 MB a value, and a view over it."""
    dataset = made(
        tmp_path,
        """
        CREATE TABLE gauges (name TEXT, big TEXT AS (hex(zeroblob(25000000))));
        INSERT INTO gauges (name) VALUES ('a'), ('b'), ('c'), ('d'), ('e'), ('f'), ('g'), ('h');
        CREATE VIEW bigger AS SELECT name, big || big || big || big AS big FROM gauges;
        """,
    )
    for table in ("gauges", "bigger"):
        try:
            page = room.look("page", dataset.folder, table)
        except UnusableInput:
            continue
        assert all(isinstance(row.values[1], Cut) for row in page.rows)
        assert len(str(page)) < 50_000
    assert room.look("counts", dataset.folder)[0].rows == 8


def test_a_view_that_never_ends_is_stopped(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    import jentrow.core.samples.rows.reading_room as reading

    monkeypatch.setattr(reading, "SECONDS", 0.2)
    dataset = made(
        tmp_path,
        """
        CREATE VIEW endless AS
        WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT max(i) AS i FROM n
        """,
    )
    room = ReadingRoom(workers=1)
    with pytest.raises(TooSlow):
        room.look("page", dataset.folder, "endless")
    room.close()


def test_a_change_is_made_once_though_its_process_is_ended(
    tmp_path: Path, room: ReadingRoom, monkeypatch: pytest.MonkeyPatch
) -> None:
    dataset = made(tmp_path, GAUGES)
    room.look("counts", dataset.folder)
    dies_of(monkeypatch, b"Culm")
    with pytest.raises(EngineInterrupted, match="Try again"):
        room.change("edit", dataset.folder, (Insert("gauges", {"name": "Culm"}),))
    monkeypatch.undo()
    assert dataset.version == 1
    room.change("edit", dataset.folder, (Insert("gauges", {"name": "Culm"}),))
    assert dataset.version == 2
