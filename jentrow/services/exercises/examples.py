"""Examples: few made-up rows on which two queries differ, as pages show them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, TypeAlias

from jentrow.core.comparison.woven import WovenView
from jentrow.core.exercises.distinguishing.smallest_example import SmallestExample
from jentrow.core.results import Column, Row
from jentrow.core.shownrows import ResultView, shown_rows
from jentrow.core.values import printed

KeptRows: TypeAlias = Mapping[str, list[list[Any]]]
"""Made-up rows as the records keep them: plain JSON."""


@dataclass(frozen=True)
class ExampleTableView:
    """A table of an example with its rows."""

    name: str
    result: ResultView


@dataclass(frozen=True)
class MadeTable:
    """Rows of a table as texts, to be put into a dataset; None for NULL."""

    table: str
    columns: list[str]
    rows: list[list[str | None]]


@dataclass(frozen=True)
class ExampleView:
    """Rows on which a query gives another result than is due, and both woven.

    ``agrees`` tells that the query gives what is due: it was mended.
    """

    tables: list[ExampleTableView]
    row_count: int
    woven: WovenView
    agrees: bool


def example_view(example: SmallestExample) -> ExampleView:
    """An example as pages show it."""
    return ExampleView(
        [
            ExampleTableView(one.name, shown_rows([*map(Column, one.columns)], list(one.rows)))
            for one in example.tables
        ],
        example.row_count,
        example.woven,
        example.agrees,
    )


def made_tables(
    rows: Sequence[tuple[str, tuple[Row, ...]]], columns: Mapping[str, Sequence[str]]
) -> list[MadeTable]:
    """Made-up rows as texts; ``columns`` are the writable ones of each table."""
    return [
        MadeTable(
            name,
            list(columns[name]),
            [[None if value is None else printed(value) for value in row] for row in held],
        )
        for name, held in rows
        if held
    ]


def kept_rows(rows: Sequence[tuple[str, tuple[Row, ...]]]) -> dict[str, list[list[Any]]]:
    """Made-up rows as the records keep them."""
    return {
        name: [
            [
                value if value is None or isinstance(value, bool | int | float | str)
                else printed(value)
                for value in row
            ]
            for row in held
        ]
        for name, held in rows
    }  # fmt: skip


def rows_kept(kept: KeptRows) -> tuple[tuple[str, tuple[Row, ...]], ...]:
    """The same as they are put in again."""
    return tuple((name, tuple(tuple(row) for row in rows)) for name, rows in kept.items())
