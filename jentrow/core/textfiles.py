"""Reading text as it comes: byte-order mark and line ends taken off, nothing cut silently."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

from jentrow.core.errors import UnreadableFile


def read_text(path: Path) -> str:
    """The text of a UTF-8 file, without a byte-order mark, its line ends as line feeds.

    Raises :class:`UnreadableFile` where it is missing, is not UTF-8, or holds a NUL.
    """
    return decode(read_bytes(path), str(path))


def read_bytes(path: Path) -> bytes:
    """The bytes of a file. Raises :class:`UnreadableFile` where there is none to read."""
    with opened(path) as file:
        return file.read()


@contextmanager
def opened(path: Path) -> Iterator[BinaryIO]:
    """A file open for reading. Raises :class:`UnreadableFile` where there is none to read."""
    try:
        with path.open("rb") as file:
            yield file
    except FileNotFoundError as missing:
        raise UnreadableFile(f"{path}: no such file.") from missing
    except IsADirectoryError as folder:
        raise UnreadableFile(f"{path}: a folder, where a file is expected.") from folder
    except OSError as problem:
        raise UnreadableFile(f"{path}: cannot be read ({problem.strerror}).") from problem


def decode(data: bytes, where: str) -> str:
    """Text from UTF-8 bytes. Raises :class:`UnreadableFile`, naming ``where`` and the line."""
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        raise UnreadableFile(f"{where}: not UTF-8 but UTF-16; save it as UTF-8.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as problem:
        raise not_text(problem, where) from problem
    if "\0" in text:
        line = text.count("\n", 0, text.index("\0")) + 1
        raise UnreadableFile(f"{where}: holds a NUL character (line {line}); remove it.")
    return text.replace("\r\n", "\n").replace("\r", "\n")


def is_text(text: str) -> bool:
    """Whether it can be kept: it has a form in UTF-8, and no NUL."""
    try:
        return b"\0" not in text.encode()
    except UnicodeEncodeError:  # half of a pair of code units
        return False


def not_text(
    problem: UnicodeDecodeError, where: str, line: int = 1, encoding: str = "utf-8"
) -> UnreadableFile:
    """The error for bytes that are no text; ``line`` is the one that the bytes begin in."""
    data = problem.object
    line += data.count(b"\n", 0, problem.start)
    name = "UTF-8" if encoding == "utf-8" else encoding
    return UnreadableFile(
        f"{where}: not {name} (byte {data[problem.start]:#04x} in line {line}); "
        + ("save it as UTF-8." if encoding == "utf-8" else "choose another encoding.")
    )
