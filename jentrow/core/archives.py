"""ZIP files of folders, unpacked where nothing of them can land outside."""

from __future__ import annotations

import shutil
import tempfile
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path, PurePosixPath
from typing import Final

from jentrow.core.errors import InvalidPack

UNPACKED_BYTES: Final = 2**30


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
    with zipfile.ZipFile(path) as archive:
        if sum(entry.file_size for entry in archive.infolist()) > UNPACKED_BYTES:
            raise InvalidPack(f"{path}: more than 1 GiB when unpacked.")
        for entry in archive.infolist():
            parts = PurePosixPath(entry.filename).parts
            if entry.is_dir() or not parts:
                continue
            if ".." in parts or parts[0].startswith("/") or "\\" in entry.filename:
                raise InvalidPack(
                    f"{path}: {entry.filename!r} would be written outside its folder."
                )
            target = folder.joinpath(*parts)
            target.parent.mkdir(parents=True, exist_ok=True)
            with archive.open(entry) as source, target.open("wb") as out:
                shutil.copyfileobj(source, out)
