"""The data folder at a start: one server holds it, and nothing that it does not know is deleted."""

from __future__ import annotations

import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from jentrow.core.errors import UnusableFolder
from jentrow.services.runtime.data_folder import LOCK, SET_ASIDE, held_folder, set_aside
from jentrow.services.runtime.runtime import Runtime


@pytest.fixture
def folder(demo_folder: Path, tmp_path: Path) -> Path:
    return Path(shutil.copytree(demo_folder, tmp_path / "data"))


def files_in(folder: Path) -> dict[str, bytes]:
    return {
        str(path.relative_to(folder)): path.read_bytes()
        for path in folder.rglob("*")
        if path.is_file() and path.suffix == ".db" and "samples" in path.parts
    }


@pytest.mark.parametrize("how", ["missing", "empty"])
def test_samples_without_records_are_refused_and_left_alone(folder: Path, how: str) -> None:
    before = files_in(folder)
    for name in ("records.db", "records.db-wal", "records.db-shm"):
        (folder / name).unlink(missing_ok=True)
    if how == "empty":
        (folder / "records.db").touch()
    with pytest.raises(UnusableFolder, match=r"samples here, but records\.db"):
        Runtime(folder)
    assert files_in(folder) == before


def test_records_of_another_folder_delete_no_sample(folder: Path, tmp_path: Path) -> None:
    other = tmp_path / "other"
    Runtime(other).close()
    before = files_in(folder)
    shutil.copy(other / "records.db", folder / "records.db")
    for name in ("records.db-wal", "records.db-shm"):
        (folder / name).unlink(missing_ok=True)
    (folder / "copies").mkdir(exist_ok=True)
    (folder / "copies" / "7-1.db").write_bytes(b"a copy")
    (folder / "copies" / "notes.txt").write_bytes(b"nobody's")
    Runtime(folder).close()
    (aside,) = (folder / SET_ASIDE).iterdir()
    assert files_in(aside) == before
    assert {path.name for path in (aside / "copies").iterdir()} == {"7-1.db", "notes.txt"}
    Runtime(folder).close()  # and once more, with nothing left to set aside
    assert files_in(aside) == before


def test_what_is_set_aside_twice_is_there_twice(tmp_path: Path) -> None:
    places = []
    for content in ("first", "second"):
        place = tmp_path / "samples" / "3"
        place.mkdir(parents=True)
        (place / "data.db").write_text(content)
        places.append(set_aside(tmp_path, place))
    assert [(place / "data.db").read_text() for place in places] == ["first", "second"]


def test_a_second_server_is_refused_and_the_first_one_named(tmp_path: Path) -> None:
    holding = """
import sys
from pathlib import Path
from jentrow.services.runtime.data_folder import held_folder
with held_folder(Path(sys.argv[1])):
    print("held", flush=True)
    sys.stdin.read()
"""
    folder = tmp_path / "data"
    first = subprocess.Popen(
        [sys.executable, "-c", holding, str(folder)],
        stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    assert first.stdout is not None
    assert first.stdout.readline() == "held\n"
    with pytest.raises(UnusableFolder, match=f"process {first.pid}"), held_folder(folder):
        raise AssertionError
    first.communicate("")
    with held_folder(folder):
        assert (folder.stat().st_mode & 0o777, (folder / LOCK).exists()) == (0o700, True)


def test_a_folder_that_cannot_be_made_is_said(tmp_path: Path) -> None:
    (tmp_path / "file").touch()
    with (
        pytest.raises(UnusableFolder, match="cannot be used as a data folder"),
        held_folder(tmp_path / "file" / "data"),
    ):
        raise AssertionError
