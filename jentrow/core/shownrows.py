"""Rows as they are shown: the first ones, as JSON, each cell and all of them bounded."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Final

from jentrow.core.results import Column, Row
from jentrow.core.values import Value, kind_of_column, to_json

SHOWN_ROWS: Final = 200
CELL: Final = 2_000
"""Characters of a text (or bytes of a binary value) that are shown of it."""
FULL: Final = 2_000_000
"""Characters after which of each further long cell only its beginning is shown."""
BEGINNING: Final = 60


@dataclass(frozen=True)
class ColumnView:
    """A column over a table of rows."""

    name: str
    kind: str


@dataclass(frozen=True)
class ResultView:
    """Rows with their columns; ``row_count`` counts those that are not shown too."""

    columns: list[ColumnView]
    rows: list[list[Any]]
    row_count: int


def shown_rows(
    columns: Sequence[Column], rows: Sequence[Row], most: int = SHOWN_ROWS
) -> ResultView:
    """A result as it is shown: its first ``most`` rows, long cells cut and marked as such."""
    values = zip(*rows, strict=True) if rows else ([] for _ in columns)
    views = [
        ColumnView(column.name, kind_of_column(list(cells)))
        for column, cells in zip(columns, values, strict=True)
    ]
    return ResultView(views, list(_lines(rows[:most])), len(rows))


def _lines(rows: Sequence[Row]) -> Iterator[list[Any]]:
    size = 0
    for row in rows:
        line = []
        for value in row:
            long = isinstance(value, str | bytes) and len(value)
            most = CELL if size < FULL else BEGINNING
            line.append(shown_cell(value, most))
            size += min(long, most)
        yield line


def shown_cell(value: Value, most: int = CELL) -> Any:
    """A cell as JSON; of a long one its beginning, and how long it is.

    ``{"cut": "Ober…", "length": 70000}``, or with ``{"blob": "<hex>"}`` in place of the text.
    """
    if isinstance(value, str | bytes) and len(value) > most:
        return {"cut": to_json(value[:most]), "length": len(value)}
    return to_json(value)
