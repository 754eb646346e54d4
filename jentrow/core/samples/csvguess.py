"""How a CSV file is written, guessed: its encoding, its delimiter, its marker for NULL."""

from __future__ import annotations

import codecs
from collections import Counter
from itertools import islice
from pathlib import Path
from typing import Final

from jentrow.core.errors import InvalidSample
from jentrow.core.samples.coltypes import guess_type
from jentrow.core.samples.csvfiles import BLOCK_BYTES, CSVFormat, Record, read_blocks
from jentrow.core.textfiles import opened

DELIMITERS: Final = (",", ";", "\t", "|")
ENCODINGS: Final = ("utf-8", "utf-16", "windows-1252", "iso-8859-1", "iso-8859-15", "mac-roman")
NULL_MARKERS: Final = ("NULL", "null", "Null", "\\N", "NA", "N/A", "n/a", "#N/A", "nil", "None")
_ALWAYS_NULL: Final = frozenset({"NULL", "null", "Null", "\\N", "#N/A"})
_LOOKED_AT: Final = 1_000


def guess_format(path: Path) -> CSVFormat:
    """The format of a CSV file, by what is in it."""
    encoding = guess_encoding(path)
    delimiter = _guess_delimiter(path, encoding)
    return CSVFormat(delimiter, encoding, _guess_null_marker(path, CSVFormat(delimiter, encoding)))


def guess_encoding(path: Path) -> str:
    """UTF-16 by its mark, UTF-8 where every byte fits it, else Windows-1252 or ISO 8859-1."""
    with opened(path) as file:
        if file.read(2) in (b"\xff\xfe", b"\xfe\xff"):
            return "utf-16"
    return next((name for name in ("utf-8", "windows-1252") if _fits(path, name)), "iso-8859-1")


def _fits(path: Path, encoding: str) -> bool:
    decoder = codecs.getincrementaldecoder(encoding)()
    try:
        with opened(path) as file:
            while data := file.read(BLOCK_BYTES):
                decoder.decode(data)
            decoder.decode(b"", final=True)
    except UnicodeDecodeError:
        return False
    return True


def _first_records(path: Path, format: CSVFormat) -> list[Record]:
    records = (record for block in read_blocks(path, format) for record in block.records)
    return list(islice(records, _LOOKED_AT))


def _guess_delimiter(path: Path, encoding: str) -> str:
    """The delimiter that gives most records the same number of fields, and more than one."""
    best, best_score = ",", (0.0, 0)
    for delimiter in DELIMITERS:
        try:
            widths = Counter(map(len, _first_records(path, CSVFormat(delimiter, encoding))))
        except InvalidSample:
            continue
        if not widths:
            continue
        width, count = widths.most_common(1)[0]
        score = (count / widths.total(), width)
        if width > 1 and score > best_score:
            best, best_score = delimiter, score
    return best


def _guess_null_marker(path: Path, format: CSVFormat) -> str:
    """A word that stands where a value is missing: by itself, or among numbers and dates."""
    try:
        rows = _first_records(path, format)[1:]
    except InvalidSample:
        return ""
    columns = list(zip(*(row for row in rows if len(row) == len(rows[0])), strict=True))
    for marker in NULL_MARKERS:
        for column in columns:
            if marker not in column:
                continue
            others = [value for value in column if value != marker]
            if marker in _ALWAYS_NULL or (
                any(others) and guess_type(others).name not in ("text", "boolean")
            ):
                return marker
    return ""
