"""The woven table as it is drawn: rows of both sides, cells as JSON."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from jentrow.core.comparison.compare import Comparison
from jentrow.core.comparison.difference import WovenRow
from jentrow.core.values import kind_of_column, to_json

SHOWN_ROWS = 400


@dataclass(frozen=True)
class WovenColumn:
    """A column of the woven table; one of the names is missing where only one side has it."""

    due: str | None
    given: str | None
    kind: str


@dataclass(frozen=True)
class WovenLine:
    """A row of the woven table.

    ``due`` and ``given`` are cells, None where the row is not on that side. ``wrong`` are the
    places of cells that differ. ``due_at`` and ``given_at`` count from 1.
    """

    kind: str
    due: list[Any] | None
    given: list[Any] | None
    wrong: list[int]
    due_at: int | None
    given_at: int | None
    times_due: int | None
    times_given: int | None
    tie: int | None


@dataclass(frozen=True)
class WovenView:
    """The woven table, or its first part.

    ``left_out`` counts the rows that are not shown; ``partial`` says that rows were left unpaired
    because there are too many.
    """

    columns: list[WovenColumn]
    lines: list[WovenLine]
    counts: dict[str, int]
    due_rows: int
    given_rows: int
    order_counts: bool
    left_out: int
    partial: bool


def woven_view(
    comparison: Comparison,
    names: Sequence[str] = (),
    most: int = SHOWN_ROWS,
    *,
    differing_only: bool = False,
) -> WovenView:
    """The woven table of a comparison, the due columns called by ``names`` where there are any.

    Where there are more than ``most`` rows, those that do not simply agree come first in choosing;
    with ``differing_only`` the others are left out altogether.
    """
    due, given = comparison.expectation.result, comparison.given
    difference = comparison.difference
    lines = _chosen(difference.rows, most, differing_only=differing_only)
    sides = _Sides(comparison)
    return WovenView(
        sides.columns(names or due.names),
        [sides.line(row) for row in lines],
        {str(kind): count for kind, count in difference.counts.items()},
        len(due.rows),
        len(given.rows),
        comparison.mode != "free",
        len(difference.rows) + difference.agreeing - len(lines),
        difference.partial,
    )


class _Sides:
    """The columns of both sides: those that are paired, then those due only, then those given only."""

    def __init__(self, comparison: Comparison) -> None:
        self._due, self._given = comparison.expectation.result, comparison.given
        pairing = comparison.pairing
        self._shared = comparison.shared_columns
        self._only_due = [at for at in range(len(self._due.columns)) if pairing.given[at] is None]
        self._only_given = list(pairing.without_partner(len(self._given.columns)))

    def columns(self, names: Sequence[str]) -> list[WovenColumn]:
        """The columns, those due called by ``names``."""
        due, given = self._due.columns_of_values(), self._given.columns_of_values()
        given_names = self._given.names
        return [
            *(
                WovenColumn(names[at], given_names[other], kind_of_column(due[at] or given[other]))
                for at, other in self._shared
            ),
            *(WovenColumn(names[at], None, kind_of_column(due[at])) for at in self._only_due),
            *(
                WovenColumn(None, given_names[at], kind_of_column(given[at]))
                for at in self._only_given
            ),
        ]

    def line(self, row: WovenRow) -> WovenLine:
        """A row with the cells of both sides under these columns."""
        due_cells = given_cells = None
        if row.due is not None:
            whole = self._due.rows[row.due_at] if row.due_at is not None else ()
            due_cells = [
                *map(to_json, row.due),
                *(to_json(whole[at]) for at in self._only_due),
                *([None] * len(self._only_given)),
            ]
        if row.given is not None:
            whole = self._given.rows[row.given_at] if row.given_at is not None else ()
            given_cells = [
                *map(to_json, row.given),
                *([None] * len(self._only_due)),
                *(to_json(whole[at]) if whole else None for at in self._only_given),
            ]
        return WovenLine(
            row.kind,
            due_cells,
            given_cells,
            list(row.wrong),
            None if row.due_at is None else row.due_at + 1,
            None if row.given_at is None else row.given_at + 1,
            row.times[0] if row.times else None,
            row.times[1] if row.times else None,
            row.tie,
        )


def _chosen(rows: tuple[WovenRow, ...], most: int, *, differing_only: bool) -> list[WovenRow]:
    telling = [at for at, row in enumerate(rows) if row.kind not in ("agrees", "tie")][:most]
    if differing_only:
        return [rows[at] for at in telling]
    if len(rows) <= most:
        return list(rows)
    room = most - len(telling)
    agreeing = [at for at, row in enumerate(rows) if row.kind in ("agrees", "tie")][:room]
    return [rows[at] for at in sorted({*telling, *agreeing})]


def without_column(view: WovenView, name: str) -> WovenView:
    """A woven table without the column of a name; it must be the same on both sides everywhere."""
    kept = [at for at, column in enumerate(view.columns) if column.due != name]
    lines = [
        replace(
            line,
            due=None if line.due is None else [line.due[at] for at in kept],
            given=None if line.given is None else [line.given[at] for at in kept],
            wrong=[kept.index(at) for at in line.wrong if at in kept],
        )
        for line in view.lines
    ]
    return replace(view, columns=[view.columns[at] for at in kept], lines=lines)
