"""Reading text as it comes: byte-order mark and line ends taken off, nothing cut silently."""

from __future__ import annotations

from pathlib import Path

from jentrow.core.errors import UnreadableFile


def read_text(path: Path) -> str:
    """The text of a UTF-8 file, without a byte-order mark, its line ends as line feeds.

    Raises :class:`UnreadableFile` where it is missing, is not UTF-8, or holds a NUL.
    """
    return decode(read_bytes(path), str(path))


def read_bytes(path: Path) -> bytes:
    """The bytes of a file. Raises :class:`UnreadableFile` where there is none to read."""
    try:
        return path.read_bytes()
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
        line = data.count(b"\n", 0, problem.start) + 1
        raise UnreadableFile(
            f"{where}: not UTF-8 (byte {data[problem.start]:#04x} in line {line}); "
            "save it as UTF-8."
        ) from problem
    if "\0" in text:
        line = text.count("\n", 0, text.index("\0")) + 1
        raise UnreadableFile(f"{where}: holds a NUL character (line {line}); remove it.")
    return text.replace("\r\n", "\n").replace("\r", "\n")
