"""Lists that people keep in a spreadsheet program, as that writes them into CSV files."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator
from typing import Final, Protocol

SAID_DELIMITER: Final = re.compile(r"\A\ufeff?sep=(.)\n", re.IGNORECASE)
"""The line with which spreadsheet programs say what stands between the fields; no record."""

DELIMITERS: Final = ",;\t"


class Rows(Protocol):
    """The rows of a list, each a list of fields; ``line_num`` is the line of the last one."""

    line_num: int

    def __iter__(self) -> Iterator[list[str]]:
        """The rows."""
        ...

    def __next__(self) -> list[str]:
        """The next row."""
        ...


def rows_of_list(text: str) -> Rows:
    """The rows of a CSV text, its header first, delimited by what is most frequent in the header.

    A line before it that says the delimiter is no row. The rows raise :class:`csv.Error` where
    they are no CSV.
    """
    csv.field_size_limit(2**30)
    said = SAID_DELIMITER.match(text.replace("\r\n", "\n", 1))
    first = text.partition("\n")[0]
    delimiter = said[1] if said else max(DELIMITERS, key=first.count)
    rows: Rows = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
    if said:
        next(rows)
    return rows
