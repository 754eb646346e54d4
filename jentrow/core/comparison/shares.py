"""How much of a result is right, part by part: what a mark by parts is made of.

A row is worth the same whatever it holds, and is shared out over all due columns, so that a column
that is left out counts as one that is wrong in every row. Whatever is right more than in another
result never earns less than there.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import combinations
from typing import TYPE_CHECKING, Final

from jentrow.core.comparison.alignment import Alignment, assigned, equal_cells
from jentrow.core.comparison.compare import Comparison

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

ASSIGNED_ROWS: Final = 400
"""Left-over rows of a side up to which the best assignment is worked out; more are hashed."""

READ_PAIRS: Final = 1_000_000
"""Pairs of rows up to which all are looked at for what stands in place."""


@dataclass(frozen=True, slots=True)
class ResultShares:
    """The right share of each part of a result, from 0 to 1; None for a part that does not count.

    ``rows`` is the share of right cells, over all due columns, among all rows that are due or
    given, whichever are more; ``order`` the share of the due cells that stand where they belong.
    """

    columns: Fraction = Fraction(1)
    rows: Fraction = Fraction(1)
    order: Fraction | None = None
    names: Fraction | None = None

    def least(self, other: ResultShares) -> ResultShares:
        """The smaller share of each part: what holds on two datasets."""
        return ResultShares(
            min(self.columns, other.columns),
            min(self.rows, other.rows),
            _least(self.order, other.order),
            _least(self.names, other.names),
        )


def _least(ours: Fraction | None, theirs: Fraction | None) -> Fraction | None:
    return None if ours is None or theirs is None else min(ours, theirs)


def nothing_right(shares: ResultShares) -> ResultShares:
    """No share of any part that counts."""
    return ResultShares(
        Fraction(0),
        Fraction(0),
        _none_of(shares.order),
        _none_of(shares.names),
    )


def full_shares(comparison: Comparison) -> ResultShares:
    """Everything right, of the parts that count under the comparison's rules."""
    ordered = comparison.mode != "free"
    named = comparison.rules.column_names != "ignore"
    return ResultShares(
        order=Fraction(1) if ordered else None, names=Fraction(1) if named else None
    )


def shares_of(comparison: Comparison) -> ResultShares:
    """The right shares of a result that was compared."""
    full = full_shares(comparison)
    if comparison.verdict == "correct":
        return full
    names = None if full.names is None else _names(comparison)
    swapped = comparison.swapped
    if swapped is not None:
        # The rows are right under another order of the columns: only that is wrong.
        moved = sum(at != place for place, at in enumerate(swapped))
        columns = Fraction(len(swapped) - moved, len(swapped))
        rows, in_place = _rows(comparison.swapped_aligned, len(swapped), len(swapped))
        return ResultShares(columns, rows, None if full.order is None else in_place, names)
    columns = _columns(comparison)
    if comparison.pairing.agrees:
        return ResultShares(columns, Fraction(1), full.order, names)
    if not comparison.shared_columns:
        return ResultShares(columns, Fraction(0), _none_of(full.order), names)
    due_wide = len(comparison.expectation.result.columns)
    rows, in_place = _rows(comparison.aligned, len(comparison.shared_columns), due_wide)
    return ResultShares(columns, rows, None if full.order is None else in_place, names)


def _names(comparison: Comparison) -> Fraction:
    due = comparison.expectation.result.columns
    named = [at for at, column in enumerate(due) if column.named]
    missing = sum(comparison.pairing.given[at] is None for at in named)
    right = len(named) - missing - len(comparison.wrong_names)
    return Fraction(right, len(named)) if named else Fraction(1)


def _columns(comparison: Comparison) -> Fraction:
    due, given = len(comparison.expectation.result.columns), len(comparison.given.columns)
    whole = due if comparison.rules.extra_columns == "allow" else max(due, given)
    return Fraction(len(comparison.shared_columns), whole) if whole else Fraction(1)


def _none_of(share: Fraction | None) -> Fraction | None:
    return None if share is None else Fraction(0)


def _rows(aligned: Alignment, shared: int, width: int) -> tuple[Fraction, Fraction]:
    """The share of right cells, and the share of the due cells that stand in place.

    ``shared`` of the ``width`` due columns are there at all.
    """
    whole = max(len(aligned.rows.due), len(aligned.rows.given))
    if not whole:
        return Fraction(shared, width), Fraction(1)
    pairs = dict.fromkeys({**aligned.partner, **aligned.chosen}.items(), shared)
    for due, given, right in _half_right(aligned, shared):
        pairs[due, given] = right
    possible = whole * width
    share = Fraction(sum(pairs.values()), possible)
    if aligned.levels is None:
        return share, share
    due_cells = len(aligned.rows.due) * width
    in_place = _in_place(aligned, pairs, shared)
    return share, Fraction(in_place, due_cells) if due_cells else Fraction(0)


def _in_place(aligned: Alignment, pairs: dict[tuple[int, int], int], shared: int) -> int:
    """As many right cells as can be found by reading both sides once, from the first row on.

    Rows that tie are read in the order in which their partners are given.
    """
    due, given, levels = aligned.rows.due, aligned.rows.given, aligned.levels
    assert levels is not None
    if len(due) * len(given) > READ_PAIRS:
        in_order = sorted(pairs, key=lambda pair: pair[1])
        return _heaviest_rising(
            [levels[at] for at, _ in in_order], [pairs[pair] for pair in in_order]
        )
    import numpy as np

    partner = dict(pairs.keys())
    order = sorted(range(len(due)), key=lambda at: (levels[at], partner.get(at, -1), at))
    everything = range(len(given))
    agreeing: NDArray[np.int16] = np.zeros((len(due), len(given)), dtype=np.int16)
    for column in range(shared):
        agreeing += equal_cells(aligned.rows, column, order, everything)
    for at, due_at in enumerate(order):  # what a cut tie allows counts in full
        if due_at in aligned.chosen:
            agreeing[at, aligned.chosen[due_at]] = shared
    # The heaviest common subsequence (Needleman and Wunsch), a row of its table at a time.
    best = np.zeros(len(given) + 1, dtype=np.int64)
    for row in agreeing:
        reached = np.maximum(best[1:], best[:-1] + row)
        best = np.concatenate([[0], np.maximum.accumulate(reached)])
    return int(best[-1])


def _half_right(aligned: Alignment, width: int) -> Iterator[tuple[int, int, int]]:
    """Pairs of left-over rows that share some cells, with how many; together as many as can be."""
    due, given = aligned.due_left, aligned.given_left
    if not due or not given:
        return
    if max(len(due), len(given)) > ASSIGNED_ROWS:
        yield from _hashed(aligned, width)
        return
    import numpy as np

    agreeing: NDArray[np.int16] = np.zeros((len(due), len(given)), dtype=np.int16)
    for column in range(width):
        agreeing += equal_cells(aligned.rows, column, due, given)
    # Of pairings with as many right cells, one that keeps rows near their place.
    apart = abs(np.linspace(0, 1, len(due))[:, None] - np.linspace(0, 1, len(given))[None, :])
    weight = agreeing + (1 - apart) / (2 * (min(len(due), len(given)) + 1))
    for at, other in assigned(weight).items():
        if agreeing[at, other]:
            yield due[at], given[other], int(agreeing[at, other])


def _hashed(aligned: Alignment, width: int) -> Iterator[tuple[int, int, int]]:
    """The same for many rows, nearly: rows that agree but for one column, then but for two, ..."""
    due_left, given_left = list(aligned.due_left), list(aligned.given_left)
    due_keys, given_keys = aligned.rows.due_keys, aligned.rows.given_keys
    counts = [size for size in range(width - 1, 0, -1) if size >= width - 2 or size == 1]
    for size in counts:
        for kept in combinations(range(width), size) if width <= 12 or size != width - 2 else ():
            waiting: dict[Hashable, list[int]] = defaultdict(list)
            for at in reversed(given_left):
                waiting[tuple([given_keys[at][one] for one in kept])].append(at)  # type: ignore[index]
            taken: set[int] = set()
            still: list[int] = []
            for at in due_left:
                stack = waiting.get(tuple([due_keys[at][one] for one in kept]))  # type: ignore[index]
                if stack:
                    other = stack.pop()
                    taken.add(other)
                    yield at, other, size
                else:
                    still.append(at)
            due_left = still
            given_left = [at for at in given_left if at not in taken]


def _heaviest_rising(levels: Sequence[int], weights: Sequence[int]) -> int:
    """The largest sum of weights over a run of levels that never falls (a tree of prefix maxima)."""
    place = {level: at + 1 for at, level in enumerate(sorted(set(levels)))}
    best = [0] * (len(place) + 1)

    def heaviest_up_to(at: int) -> int:
        heaviest = 0
        while at:
            heaviest = max(heaviest, best[at])
            at &= at - 1
        return heaviest

    for level, weight in zip(levels, weights, strict=True):
        at = place[level]
        reached = weight + heaviest_up_to(at)
        while at < len(best):
            best[at] = max(best[at], reached)
            at += at & -at
    return heaviest_up_to(len(place))
