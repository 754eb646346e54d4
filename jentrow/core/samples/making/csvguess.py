"""How a CSV file is written, guessed: its encoding, its delimiter, its marker for NULL."""

from __future__ import annotations

import codecs
from collections import Counter
from itertools import islice
from pathlib import Path
from typing import Final

from charset_normalizer import from_bytes

from jentrow.core.errors import InvalidSample
from jentrow.core.samples.csvfiles import (
    BLOCK_BYTES,
    CSVFormat,
    Record,
    read_blocks,
)
from jentrow.core.samples.schema.coltypes import guess_type
from jentrow.core.spreadsheets import SAID_DELIMITER
from jentrow.core.textfiles import opened

DELIMITERS: Final = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}
"""What stands between the fields of a file, with its words; looked for in this order."""
ENCODINGS: Final = ("utf-8", "utf-16", "windows-1252", "iso-8859-1", "iso-8859-15", "mac-roman")
NULL_MARKERS: Final = ("NULL", "null", "Null", "\\N", "NA", "N/A", "n/a", "#N/A", "nil", "None")
_ALWAYS_NULL: Final = frozenset({"NULL", "null", "Null", "\\N", "#N/A"})
_LOOKED_AT: Final = 1_000
_SAMPLED_BYTES: Final = 65_536
_TELLING_BYTES: Final = 8
"""Letters beyond ASCII from which on it can be told what language they make."""
_OF_ONE_BYTE: Final = {"cp1252": "windows-1252", "mac_roman": "mac-roman"}
"""What old programs write: all the others differ from these in a few letters only."""


def guess_format(path: Path) -> CSVFormat:
    """The format of a CSV file, by what is in it."""
    encoding = guess_encoding(path)
    delimiter = _guess_delimiter(path, encoding)
    return CSVFormat(delimiter, encoding, _guess_null_marker(path, CSVFormat(delimiter, encoding)))


def guess_encoding(path: Path) -> str:
    """UTF-16 by its mark, UTF-8 where every byte fits it, else the likeliest of one byte a letter."""
    with opened(path) as file:
        beginning = file.read(_SAMPLED_BYTES)
    if beginning.startswith((b"\xff\xfe", b"\xfe\xff")):
        return "utf-16"
    if _fits(path, "utf-8"):
        return "utf-8"
    likeliest = ""
    if sum(byte > 127 for byte in beginning) >= _TELLING_BYTES:
        found = from_bytes(beginning, cp_isolation=list(_OF_ONE_BYTE)).best()
        likeliest = _OF_ONE_BYTE.get(found.encoding, "") if found else ""
    wanted = (likeliest, "windows-1252")
    return next((name for name in wanted if name and _fits(path, name)), "iso-8859-1")


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
    """The delimiter that the file says, or that gives most records the same number of fields."""
    with opened(path) as file:
        beginning = file.read(_SAMPLED_BYTES).decode(encoding, "ignore").replace("\r\n", "\n")
    said = SAID_DELIMITER.match(beginning)
    if said is not None and said[1] in DELIMITERS:
        return said[1]
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
