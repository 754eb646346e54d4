"""Which due row stands with which given row: equal ones first, and what is then left over.

The woven table, the findings and the shares of a mark all begin here.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from decimal import Decimal
from typing import TYPE_CHECKING, Final

from jentrow.core.comparison.cells import CellComparison, ComparisonTooLong
from jentrow.core.comparison.order import OrderMode, first_occurrences
from jentrow.core.comparison.rows import RowComparison
from jentrow.core.comparison.rules import NumberTolerance
from jentrow.core.results import Expectation, Row
from jentrow.core.values import Value

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Grid = NDArray[np.bool_]

SHOWN_EDGES: Final = 200_000
"""Pairs within tolerance that are looked at when a difference is shown."""

_USUAL: Final = NumberTolerance(1e-12, 1e-9)


@dataclass(frozen=True)
class Alignment:
    """Due and given rows, and which of them are partners.

    ``rows`` holds both sides, ``due_places`` and ``given_places`` where each row stands in its
    result. ``partner`` gives a due row's equal given row; ``chosen`` the given row that a cut tie
    allows in place of a due one. ``due_left`` and ``given_left`` have neither. ``levels`` has a
    number for each due row that never falls where order counts: equal for rows that tie.
    """

    rows: RowComparison
    due_places: Sequence[int]
    given_places: Sequence[int]
    partner: dict[int, int]
    chosen: dict[int, int]
    due_left: tuple[int, ...]
    given_left: tuple[int, ...]
    levels: Sequence[int] | None


def align(
    expectation: Expectation,
    given: Sequence[Row],
    mode: OrderMode,
    cells: CellComparison,
    *,
    repeats_count: bool = True,
) -> Alignment:
    """Aligns the expected rows and the given ones, whose columns stand in the expected order.

    Where tolerance leaves too much to look at, rows are aligned by their keys alone.
    """
    due = expectation.result.rows
    due_places: Sequence[int] = range(len(due))
    given_places: Sequence[int] = range(len(given))
    if not repeats_count:
        with suppress(ComparisonTooLong):  # then repeats are shown, too
            firsts = first_occurrences(due, cells), first_occurrences(given, cells)
            due_places, given_places = firsts
    rows = RowComparison(
        cells,
        [due[at] for at in due_places],
        [given[at] for at in given_places],
        expectation.held_types,
    )
    try:
        matching = rows.match(edge_limit=SHOWN_EDGES)
    except ComparisonTooLong:
        matching = rows.match(edge_limit=0)
    ranks = expectation.ranks
    own_ranks = None if ranks is None else [ranks[at] for at in due_places]
    chosen = _spent_choices(expectation, own_ranks, rows, matching.due_left, matching.given_left)
    taken = set(chosen.values())
    levels: Sequence[int] | None = None
    if mode != "free":
        ties_count = mode == "ties_free" and own_ranks is not None
        levels = own_ranks if ties_count else range(len(due_places))
    return Alignment(
        rows,
        due_places,
        given_places,
        dict(matching.pairs),
        chosen,
        tuple(at for at in matching.due_left if at not in chosen),
        tuple(at for at in matching.given_left if at not in taken),
        levels,
    )


def _spent_choices(
    expectation: Expectation,
    ranks: Sequence[int] | None,
    rows: RowComparison,
    due_left: Sequence[int],
    given_left: Sequence[int],
) -> dict[int, int]:
    """Given rows that a cut tie allows in place of those that the reference happened to keep."""
    if not expectation.choices or not due_left or not given_left:
        return {}
    open_places: dict[int, list[int]] = defaultdict(list)
    for at in due_left:
        open_places[ranks[at] if ranks is not None else 0].append(at)
    pool = RowComparison(
        rows.cells,
        [choice.row for choice in expectation.choices],
        [rows.given[at] for at in given_left],
    )
    chosen: dict[int, int] = {}
    for spare, other in pool.match(edge_limit=0).pairs:
        rank = expectation.choices[spare].rank if ranks is not None else 0
        places = open_places.get(rank)
        if places:
            chosen[places.pop(0)] = given_left[other]
    return chosen


def equal_cells(rows: RowComparison, column: int, due: Sequence[int], given: Sequence[int]) -> Grid:
    """Which of these due rows have the same cell as which of these given rows in a column."""
    same = equal_codes(
        [rows.due_keys[at][column] for at in due],  # type: ignore[index]
        [rows.given_keys[at][column] for at in given],  # type: ignore[index]
    )
    if column in rows.tolerant:
        bounds = rows.cells.rules.number_tolerance or _USUAL
        same |= within([rows.due[at][column] for at in due],
                       [rows.given[at][column] for at in given], bounds)  # fmt: skip
    return same


def equal_codes(one: Sequence[Hashable], other: Sequence[Hashable]) -> Grid:
    """Which keys of two columns are equal."""
    import numpy as np

    codes: dict[Hashable, int] = {}
    first = np.array([codes.setdefault(key, len(codes)) for key in one])
    second = np.array([codes.setdefault(key, len(codes)) for key in other])
    same: Grid = first[:, None] == second
    return same


def within(one: Sequence[Value], other: Sequence[Value], bounds: NumberTolerance) -> Grid:
    """Which numbers of two columns lie within bounds. In floats: good enough for pairing."""
    import numpy as np

    ours = np.array(list(map(_as_number, one)))[:, None]
    theirs = np.array(list(map(_as_number, other)))
    with np.errstate(invalid="ignore"):
        gap = abs(ours - theirs)
        largest = np.maximum(abs(ours), abs(theirs))
        near: Grid = (gap <= bounds.absolute) | (gap <= bounds.relative * largest)
    return near


def assigned(weight: NDArray[np.float64]) -> dict[int, int]:
    """Pairs of a row and a column with the largest sum of weights (the Hungarian method)."""
    from scipy.optimize import linear_sum_assignment

    best = weight.argmax(axis=1).tolist()
    if len(set(best)) == len(best):  # nobody's best is another's, too
        return dict(enumerate(best))
    chosen = linear_sum_assignment(-weight)
    return dict(zip(*(part.tolist() for part in chosen), strict=True))


def _as_number(value: Value) -> float:
    if isinstance(value, int | float | Decimal):
        try:
            return float(value)
        except OverflowError:
            return float("nan")
    return float("nan")
