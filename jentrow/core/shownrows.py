"""Rows as they are shown: the first ones, as JSON, each cell and all of them bounded."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
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
WHOLE: Final = 64 * 1024
"""Where rows are changed, values up to this length are whole: a cut one cannot be typed over."""


@dataclass(frozen=True, slots=True)
class Cut:
    """The beginning of a value that is too long to be shown whole, and its length."""

    beginning: str | bytes
    length: int


def cut_rows(rows: Iterable[Row], whole: int = WHOLE) -> Iterator[Row]:
    """Rows whose values longer than ``whole`` are cut; with much text, all that are long."""
    size = 0
    for row in rows:
        most = whole if size < FULL else BEGINNING
        cells = tuple(_cut(value, most) for value in row)
        size += sum(len(cell) for cell in cells if isinstance(cell, str | bytes))
        yield cells


def _cut(value: Value, most: int) -> Value | Cut:
    if isinstance(value, str | bytes) and len(value) > most:
        return Cut(value[: min(most, CELL)], len(value))
    return value


@dataclass(frozen=True)
class ColumnView:
    """A column over a table of rows; ``declared`` is its type, empty where nobody knows."""

    name: str
    kind: str
    declared: str = ""


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
        ColumnView(column.name, kind_of_column(list(cells)), column.declared)
        for column, cells in zip(columns, values, strict=True)
    ]
    return ResultView(views, list(json_rows(rows[:most])), len(rows))


def json_rows(rows: Iterable[Row]) -> Iterator[list[Any]]:
    """Rows as JSON, long cells cut: the more there is already, the more."""
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
    cut = value if isinstance(value, Cut) else _cut(value, most)
    if isinstance(cut, Cut):
        return {"cut": to_json(cut.beginning[:most]), "length": cut.length}
    return to_json(cut)
