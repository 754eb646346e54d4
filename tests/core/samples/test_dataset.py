from __future__ import annotations

from pathlib import Path

import apsw
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jentrow.core.errors import InvalidSample, UnusableInput
from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.rows.edits import Delete, Edit, Insert, RefusedEdit, Update, make_edits
from tests.core.samples.conftest import MakeDataset, rows_of

TABLES = ("rivers", "weirs", "gates", "notes")


def state(dataset: Dataset) -> dict[str, list[tuple[object, ...]]]:
    return {table: rows_of(dataset, table) for table in TABLES}


def at_version(dataset: Dataset, number: int) -> dict[str, list[tuple[object, ...]]]:
    with dataset.at_version(number) as db:
        return {table: sorted(db.execute(f'SELECT * FROM "{table}"'), key=repr) for table in TABLES}


small = st.integers(1, 6)
edits = st.one_of(
    st.builds(
        lambda name, basin: Insert("rivers", {"name": name, "basin": basin}),
        st.sampled_from(["Aue", "Lind", "Moor", "x"]),
        st.sampled_from([None, "", "North"]),
    ),
    st.builds(lambda row, to: Update("weirs", row, {"river_id": to}), small,
              st.sampled_from([None, "1", "2", "3", "9"])),
    st.builds(lambda row, code: Update("weirs", row, {"code": code}), small,
              st.sampled_from(["W1", "W9", None])),
    st.builds(lambda row: Delete("rivers", (row,)), small),
    st.builds(lambda row: Delete("notes", (row,)), small),
    st.builds(lambda row, text: Update("notes", row, {"text": text, "any": text}), small,
              st.sampled_from(["a", "", None, "7"])),
    st.builds(lambda weir, no: Insert("gates", {"weir": weir, "no": no}),
              st.sampled_from(["W1", "W2", "W8"]), st.sampled_from(["1", "5", None])),
)  # fmt: skip
steps = st.lists(
    st.one_of(
        st.lists(edits, min_size=1, max_size=3).map(lambda some: ("edit", some)),
        st.just(("undo", None)),
        st.just(("redo", None)),
        st.integers(1, 12).map(lambda number: ("restore", number)),
    ),
    max_size=12,
)


@settings(
    max_examples=settings.default.max_examples // 3,
    suppress_health_check=[HealthCheck.function_scoped_fixture],
)
@given(steps)
def test_every_version_stays_as_it_was_whatever_is_done(
    make_of: MakeDataset, done: list[tuple[str, object]]
) -> None:
    from tests.core.samples.conftest import WEIRS

    dataset = make_of(WEIRS)
    known = {1: state(dataset)}
    for what, more in done:
        before = state(dataset)
        try:
            match what:
                case "edit":
                    some: list[Edit] = more  # type: ignore[assignment]
                    make_edits(dataset, some)
                case "undo":
                    dataset.undo()
                case "redo":
                    dataset.redo()
                case _:
                    dataset.restore(int(more))  # type: ignore[call-overload]
        except UnusableInput:
            assert state(dataset) == before
            continue
        version = dataset.versions()[-1]
        known.setdefault(version.number, state(dataset))
        if version.kind in ("undo", "redo"):
            assert state(dataset) == known[version.stands_for]
        if what == "restore":
            assert state(dataset) == known[int(more)]  # type: ignore[call-overload]
    assert [version.number for version in dataset.versions()] == list(range(1, len(known) + 1))
    for number, rows in known.items():
        assert at_version(dataset, number) == rows


def test_undo_and_redo_walk_the_changes(weirs: Dataset) -> None:
    first = state(weirs)
    make_edits(weirs, [Update("rivers", 1, {"basin": "South"})])
    second = state(weirs)
    make_edits(weirs, [Delete("rivers", (3,))])
    third = state(weirs)
    assert weirs.can() == ("row deleted from rivers", "")
    weirs.undo()
    assert state(weirs) == second
    weirs.undo()
    assert state(weirs) == first
    with pytest.raises(UnusableInput, match="nothing to undo"):
        weirs.undo()
    weirs.redo()
    weirs.redo()
    assert state(weirs) == third
    with pytest.raises(UnusableInput, match="nothing to redo"):
        weirs.redo()
    weirs.undo()
    make_edits(weirs, [Update("rivers", 2, {"basin": "West"})])
    assert weirs.can()[1] == ""  # a new change ends what could be made again


def test_a_cascade_is_undone_and_redone_whole(weirs: Dataset) -> None:
    before = state(weirs)
    make_edits(weirs, [Delete("gates", (1, 2)), Delete("rivers", (1,))])
    assert weirs.versions()[-1].removed == 5
    after = state(weirs)
    assert [row[0] for row in after["weirs"]] == ["W3", "W4"]
    weirs.undo()
    assert state(weirs) == before
    weirs.redo()
    assert state(weirs) == after


def test_a_change_that_changes_nothing_is_no_version(weirs: Dataset) -> None:
    assert make_edits(weirs, [Update("rivers", 1, {"basin": "North"})]).version is None
    assert weirs.version == 1


def test_a_version_whose_change_never_came_to_be_is_forgotten(weirs: Dataset) -> None:
    make_edits(weirs, [Delete("notes", (1,))])
    history = apsw.Connection(str(weirs.folder / "history.db"))
    history.execute(
        "INSERT INTO versions SELECT 3, made_at, kind, 'lost', 3, 2, 0, 0, 0, changeset "
        "FROM versions WHERE number = 2"
    )
    history.close()
    again = Dataset(weirs.folder)
    assert [version.summary for version in again.versions()][-1] == "row deleted from notes"
    assert again.version == 2
    again.undo()
    assert len(rows_of(again, "notes")) == 4


def test_a_copy_is_one_file_and_later_changes_leave_it(weirs: Dataset, tmp_path: Path) -> None:
    weirs.copy_to(tmp_path / "copy.db")
    make_edits(weirs, [Delete("notes", (1, 2, 3, 4))])
    copy = apsw.Connection(str(tmp_path / "copy.db"), flags=apsw.SQLITE_OPEN_READONLY)
    assert next(copy.execute("SELECT count(*) FROM notes"))[0] == 4
    copy.close()
    assert sorted(path.name for path in tmp_path.glob("copy*")) == ["copy.db"]


def test_a_folder_without_a_dataset_says_so(tmp_path: Path) -> None:
    with pytest.raises(InvalidSample, match="holds no dataset"):
        Dataset(tmp_path)


@pytest.mark.parametrize(
    ("edit", "column", "words"),
    [
        (Insert("rivers", {"basin": "x"}), "name", "the column is NOT NULL"),
        (Insert("rivers", {"name": "Lind"}), "name", "there is name Lind already in row 1"),
        (Update("rivers", 2, {"name": "Lind"}), "name", "already in row 1"),
        (Update("rivers", 2, {"name": "x"}), "name", "breaks the check length"),
        (Update("rivers", 2, {"river_id": "two"}), "river_id", "'two' is not a whole number"),
        (Update("weirs", 1, {"height_m": "-1"}), "height_m", "breaks the check height_m > 0"),
        (Update("weirs", 1, {"built": "2026-02-30"}), "built", "not a date such as"),
        (Update("weirs", 1, {"open": "maybe"}), "open", "not true or false"),
        (Update("weirs", 1, {"river_id": "9"}), "river_id", "no row in rivers with river_id 9"),
        (Update("weirs", 2, {"code": None}), "code", "NOT NULL"),
        (Update("weirs", 1, {"code": "W7"}), "code", "2 rows of gates refer to this row"),
        (Delete("weirs", (1,)), "code", "2 rows of gates refer to this row"),
        (Insert("gates", {"weir": "W1", "no": "1"}), "weir", "there is weir W1, no 1 already"),
        (Insert("gates", {"weir": "W1", "no": "5", "twice": "1"}), "twice", "computed as no * 2"),
        (Update("rivers", 1, {"depth": "1"}), "depth", "no such column"),
        (Update("rivers", 99, {"basin": "x"}), "", "there is no row 99"),
        (Delete("rivers", (99,)), "", "there is no row 99"),
    ],
)
def test_a_refusal_is_said_at_its_cell(weirs: Dataset, edit: Edit, column: str, words: str) -> None:
    before = state(weirs)
    with pytest.raises(RefusedEdit) as caught:
        make_edits(weirs, [Update("rivers", 1, {"basin": "changed"}), edit])
    refusal = caught.value.refusal
    assert (refusal.edit, refusal.table, refusal.column) == (1, edit.table, column)
    assert words in refusal.message
    assert state(weirs) == before
    assert weirs.version == 1


def test_views_and_unknown_tables_take_no_edits(weirs: Dataset) -> None:
    with pytest.raises(UnusableInput, match="low_weirs is a view"):
        make_edits(weirs, [Delete("low_weirs", (1,))])
    with pytest.raises(UnusableInput, match="no table 'nowhere'"):
        make_edits(weirs, [Delete("nowhere", (1,))])


def test_what_is_typed_becomes_a_value_of_the_column(weirs: Dataset) -> None:
    make_edits(weirs, [Insert("notes", {"text": " 7 ", "weight": "2", "raw": "x'0a'", "any": "7"})])
    make_edits(weirs, [Update("weirs", 1, {"open": "false", "built": "2020-02-29"})])
    with weirs.reading() as db:
        assert list(db.execute("SELECT * FROM notes ORDER BY rowid DESC LIMIT 1")) == [
            (" 7 ", 2.0, b"\n", 7)
        ]
        assert list(db.execute("SELECT open, built FROM weirs LIMIT 1")) == [(0, "2020-02-29")]
