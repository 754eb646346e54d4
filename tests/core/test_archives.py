"""Archives that are damaged, locked or lying: one clear line each."""

from __future__ import annotations

import io
import struct
import zipfile
from pathlib import Path

import pytest

from jentrow.core.archives import unpacked
from jentrow.core.errors import InvalidPack
from jentrow.core.exercises.submissions import read_answers


def zipped(**files: bytes) -> bytes:
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in files.items():
            archive.writestr(name, content)
    return held.getvalue()


def with_flag(archive: bytes) -> bytes:
    """The same, said to be encrypted in its list of files."""
    at = archive.index(b"PK\x01\x02") + 8
    return archive[:at] + struct.pack("<H", 1) + archive[at + 2 :]


def with_bad_checksum(archive: bytes) -> bytes:
    at = archive.index(b"PK\x01\x02") + 16
    return archive[:at] + b"\0\1\2\3" + archive[at + 4 :]


def with_lie(archive: bytes) -> bytes:
    """The same, said to hold one byte only."""
    at = archive.index(b"PK\x01\x02") + 24
    return archive[:at] + struct.pack("<I", 1) + archive[at + 4 :]


GOOD = zipped(**{"pack.yaml": b"title: x\n" * 100})


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (with_flag(GOOD), "is encrypted"),
        (with_bad_checksum(GOOD), "damaged"),
        (with_lie(GOOD), "damaged"),
        (GOOD[: len(GOOD) // 2] + GOOD[-60:], "ZIP"),
        (GOOD[:40] + b"\xff" * 20 + GOOD[60:], "damaged"),
        (zipped(**{"a" * 300: b"x"}), "no name that a file can have"),
        (zipped(**{"../x": b"x"}), "outside its folder"),
        (zipped(**{"a\nb": b"x"}), "no name that a file can have"),
        (zipped(**{"a": b"x", "a/b": b"x"}), "a file and a folder at once"),
        (b"no archive", "neither a folder nor a ZIP"),
    ],
)  # fmt: skip
def test_one_clear_line(tmp_path: Path, content: bytes, words: str) -> None:
    path = tmp_path / "pack.zip"
    path.write_bytes(content)
    with pytest.raises(InvalidPack, match=words) as said, unpacked(path):
        pass
    assert "\n" not in str(said.value)


def test_what_comes_out_is_counted(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("jentrow.core.archives.UNPACKED_BYTES", 500)
    path = tmp_path / "pack.zip"
    path.write_bytes(GOOD)
    with pytest.raises(InvalidPack, match="more than 1 GiB"), unpacked(path):
        pass


def test_a_deeply_nested_notebook_is_no_notebook(tmp_path: Path) -> None:
    path = tmp_path / "deep.ipynb"
    path.write_text('{"cells": ' + "[" * 100_000 + "]" * 100_000 + "}")
    found = read_answers(path)
    assert "no notebook that can be read" in found.problems[0]
