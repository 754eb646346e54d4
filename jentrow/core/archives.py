"""ZIP files of folders, unpacked where nothing of them can land outside."""

from __future__ import annotations

import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path, PurePosixPath
from typing import Final

from jentrow.core.errors import InvalidPack

UNPACKED_BYTES: Final = 2**30
ENTRIES: Final = 20_000
"""Files in one archive."""
LONGEST_NAME: Final = 200
"""Bytes of one part of a path: file systems take little more."""


@contextmanager
def unpacked(path: Path) -> Iterator[Path]:
    """A folder as it is, or a ZIP file unpacked for the time of the context."""
    if path.is_dir():
        yield path
        return
    if not path.exists():
        raise InvalidPack(f"{path}: no such file or folder.")
    if not zipfile.is_zipfile(path):
        raise InvalidPack(f"{path}: neither a folder nor a ZIP file.")
    with tempfile.TemporaryDirectory(prefix="jentrow-") as held:
        folder = Path(held)
        _unpack(path, folder)
        inner = [entry for entry in folder.iterdir() if entry.name != "__MACOSX"]
        yield inner[0] if len(inner) == 1 and inner[0].is_dir() else folder


def _unpack(path: Path, folder: Path) -> None:
    try:
        with zipfile.ZipFile(path) as archive:
            _unpack_all(path, archive, folder)
    except (zipfile.BadZipFile, zlib.error, EOFError) as problem:
        raise InvalidPack(
            f"{path}: the ZIP file is damaged ({problem}); make it anew."
        ) from problem
    except (NotImplementedError, RuntimeError) as problem:
        # zipfile's words for methods that it does not know, and for passwords.
        raise InvalidPack(f"{path}: the ZIP file cannot be unpacked ({problem}).") from problem


def _unpack_all(path: Path, archive: zipfile.ZipFile, folder: Path) -> None:
    entries = archive.infolist()
    if len(entries) > ENTRIES:
        raise InvalidPack(f"{path}: more than {ENTRIES:,} files.")
    room = UNPACKED_BYTES
    for entry in entries:
        parts = PurePosixPath(entry.filename).parts
        if entry.is_dir() or not parts:
            continue
        if entry.flag_bits & 1:
            raise InvalidPack(f"{path}: {entry.filename!r} is encrypted; leave the password out.")
        if ".." in parts or parts[0].startswith("/") or "\\" in entry.filename:
            raise InvalidPack(f"{path}: {entry.filename!r} would be written outside its folder.")
        if not entry.filename.isprintable() or any(
            len(part.encode(errors="replace")) > LONGEST_NAME for part in parts
        ):
            raise InvalidPack(f"{path}: {entry.filename[:60]!r} is no name that a file can have.")
        target = folder.joinpath(*parts)
        try:
            target.parent.mkdir(parents=True, exist_ok=True)
            with archive.open(entry) as source, target.open("wb") as out:
                # By what comes out, not by what the archive says of itself.
                while part := source.read(1 << 20):
                    room -= len(part)
                    if room < 0:
                        raise InvalidPack(f"{path}: more than 1 GiB when unpacked.")
                    out.write(part)
        except (FileExistsError, NotADirectoryError, IsADirectoryError) as problem:
            raise InvalidPack(
                f"{path}: {entry.filename!r} is a file and a folder at once."
            ) from problem
