"""CSV as RFC 4180 has it, with NULL and empty text told apart.

An empty field is NULL, a quoted empty field (``""``) is empty text. Python's own reader does not
tell the two apart, hence this one; a file without a quote in it is split at its commas.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import Final

from jentrow.core.errors import InvalidSample
from jentrow.core.textfiles import read_text

_QUOTED: Final = re.compile(r'"((?:[^"]|"")*)"(?=[,\n]|$)')
_PLAIN: Final = re.compile(r'([^,"\n]*)(?=[,\n]|$)')


def read_records(path: Path) -> Iterator[tuple[int, list[str | None]]]:
    """Yields each record with the line that it begins in; NULL is None.

    Raises :class:`InvalidSample` at a quote out of place, naming file and line.
    """
    text = read_text(path)
    if '"' not in text:
        for number, line in enumerate(text.split("\n"), start=1):
            if line:
                yield number, [field or None for field in line.split(",")]
        return
    at, line_number = 0, 1
    while at < len(text):
        start_line = line_number
        record, at, line_number = _record(text, at, line_number, path)
        if record != [None]:  # a blank line is no record
            yield start_line, record


def _record(text: str, at: int, line: int, path: Path) -> tuple[list[str | None], int, int]:
    record: list[str | None] = []
    while True:
        quoted = at < len(text) and text[at] == '"'
        found = (_QUOTED if quoted else _PLAIN).match(text, at)
        if found is None:
            raise InvalidSample(
                f'{path}, line {line}: a quote out of place; a field with quotes is written "so", '
                "and a quote inside it twice."
            )
        field = found.group(1)
        if quoted:
            line += field.count("\n")
            record.append(field.replace('""', '"'))
        else:
            record.append(field or None)
        at = found.end()
        if at >= len(text):
            return record, at, line
        if text[at] == "\n":
            return record, at + 1, line + 1
        at += 1


def read_table(path: Path) -> tuple[list[str], list[list[str | None]]]:
    """The header and the rows of a table's CSV file.

    Raises :class:`InvalidSample` where a record has not as many fields as the header.
    """
    records = read_records(path)
    try:
        _, first = next(records)
    except StopIteration:
        raise InvalidSample(f"{path}: empty; the first line names the columns.") from None
    header = [name or "" for name in first]
    if not all(header) or len(set(header)) < len(header):
        raise InvalidSample(f"{path}, line 1: the header needs a different name in every column.")
    rows = []
    for line, record in records:
        if len(record) != len(header):
            raise InvalidSample(
                f"{path}, line {line}: {len(record)} fields, but the header names {len(header)}."
            )
        rows.append(record)
    return header, rows
