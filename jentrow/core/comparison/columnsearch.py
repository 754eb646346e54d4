"""The search for a pairing of columns by what they hold, kept short.

Columns and rows are first told apart by colour refinement (two columns can only be partners if they
hold the same values in rows that look alike), and what is left is tried column by column, a prefix
being dropped as soon as the part rows that it makes do not occur equally often.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING, Any, Final

from jentrow.core.comparison.cells import CellComparison, ComparisonTooLong
from jentrow.core.comparison.order import OrderMode
from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.results import Expectation, ResultSet, Row
from jentrow.core.values import Value, family_of

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Codes = NDArray[np.int64]

PREFIX_BUDGET: Final = 20_000
"""Prefixes that the search by contents looks at before it is stopped."""

LEAF_BUDGET: Final = 60
"""Whole permutations that are compared row by row before the search is stopped."""


@dataclass(frozen=True, slots=True)
class _Way:
    """How a search goes: which given columns each expected one may have, and in which turn.

    ``answers`` tells given columns apart that other expected columns may have.
    """

    allowed: list[list[int]]
    turns: list[int]
    answers: list[bytes]
    rising: bool


class ColumnSearch:
    """Permutations (or selections) of the given columns under which the rows may agree."""

    def __init__(
        self,
        expectation: Expectation,
        given: ResultSet,
        rules: ComparisonRules,
        mode: OrderMode,
        cells: CellComparison,
    ) -> None:
        due_rows = [*expectation.result.rows, *(choice.row for choice in expectation.choices)]
        self._wide = len(expectation.result.columns)
        self._given_wide = len(given.columns)
        self._chosen = bool(expectation.choices)
        self._as_sets = rules.duplicates == "ignore"
        self._hopeless = not self._as_sets and len(expectation.result.rows) != len(given.rows)
        if self._hopeless:
            return
        coder = _Coder(cells)
        self._due, self._given = coder.codes(due_rows, given.rows, self._wide, self._given_wide)
        self._due_place, self._given_place = self._places(expectation, len(given.rows), mode)
        # Rows of the same width as sets: without their repeats they are bags of different rows,
        # which no order of the columns makes equal to one another.
        self._as_bags = not self._as_sets
        if self._as_sets and not self._chosen and self._wide == self._given_wide:
            self._due, self._given = _different(self._due), _different(self._given)
            self._due_place = self._due_place[: len(self._due)]
            self._given_place = self._given_place[: len(self._given)]
            self._as_bags = True
            self._hopeless = len(self._due) != len(self._given)
        self._prefixes = PREFIX_BUDGET

    def _places(
        self, expectation: Expectation, given_count: int, mode: OrderMode
    ) -> tuple[Codes, Codes]:
        """Where order counts, the tie group that a row's place belongs to, else the same for all."""
        import numpy as np

        count = len(expectation.result.rows)
        spare = [choice.rank for choice in expectation.choices]
        if mode == "free" or self._as_sets or count != given_count:
            return np.zeros(count + len(spare), np.int64), np.zeros(given_count, np.int64)
        if mode == "as_listed" or expectation.ranks is None:
            ranks = list(range(count))
        else:
            ranks = list(expectation.ranks)
        return np.array([*ranks, *spare], np.int64), np.array(ranks, np.int64)

    def candidates(
        self, *, rising: bool, may_pair: tuple[tuple[bool, ...], ...] | None = None
    ) -> Iterator[tuple[int, ...]]:
        """Yields pairings; ``rising`` keeps the given columns in their order.

        ``may_pair`` says which given column may answer which expected one. Raises
        :class:`ComparisonTooLong` when it has looked at too many.
        """
        if self._hopeless:
            return
        allowed = self._allowed(rising)
        if may_pair is not None:
            allowed = [[j for j in columns if may_pair[i][j]] for i, columns in enumerate(allowed)]
        if not all(allowed):
            return
        # Columns that few can answer go first, so that a wrong way ends early.
        turns = (
            range(self._wide)
            if rising
            else sorted(range(self._wide), key=lambda i: len(allowed[i]))
        )
        # Columns with the very same cells that may answer the same columns lead to the same.
        answers = [
            bytes(row[j] for row in may_pair) if may_pair is not None else b""
            for j in range(self._given_wide)
        ]
        way = _Way(allowed, list(turns), answers, rising)
        found = self._extend((), self._due_place, self._given_place, way)
        for leaf, pairing in enumerate(found):
            if leaf >= LEAF_BUDGET:
                raise ComparisonTooLong
            yield tuple(pairing[turn] for turn in range(self._wide))

    def _allowed(self, rising: bool) -> list[list[int]]:
        if self._given_wide == self._wide and self._as_bags and not (self._chosen or rising):
            colours = self._refined_colours()
            if colours is None:
                return [[] for _ in range(self._wide)]
            due, given = colours
            return [[j for j, other in enumerate(given) if other == colour] for colour in due]
        return [
            [
                j
                for j in range(self._given_wide)
                if self._joint(self._due_place, self._given_place, i, j) is not None
            ]
            for i in range(self._wide)
        ]

    def _extend(
        self,
        prefix: tuple[int, ...],
        due: Codes,
        given: Codes,
        way: _Way,
    ) -> Iterator[dict[int, int]]:
        """Yields given columns by expected ones; ``prefix`` answers the first of the turns."""
        if len(prefix) == self._wide:
            yield dict(zip(way.turns, prefix, strict=True))
            return
        at = way.turns[len(prefix)]
        tried: set[bytes] = set()
        for other in way.allowed[at]:
            if other in prefix or (way.rising and prefix and other < prefix[-1]):
                continue
            contents = way.answers[other] + self._given[:, other].tobytes()
            if contents in tried:
                continue
            tried.add(contents)
            self._prefixes -= 1
            if self._prefixes < 0:
                raise ComparisonTooLong
            joint = self._joint(due, given, at, other)
            if joint is not None:
                yield from self._extend((*prefix, other), *joint, way)

    def _joint(
        self, due: Codes, given: Codes, column: int, other: int
    ) -> tuple[Codes, Codes] | None:
        """The prefixes with one more column, numbered anew; None where they cannot agree."""
        import numpy as np

        width = int(max(self._due.max(initial=0), self._given.max(initial=0))) + 1
        both = np.concatenate(
            [due * width + self._due[:, column], given * width + self._given[:, other]]
        )
        kinds, numbered = np.unique(both, return_inverse=True)
        due_codes, given_codes = numbered[: len(due)], numbered[len(due) :]
        due_counts = np.bincount(due_codes, minlength=len(kinds))
        given_counts = np.bincount(given_codes, minlength=len(kinds))
        if not self._as_bags:
            fits = not ((given_counts > 0) & (due_counts == 0)).any()
            if not self._chosen:
                fits = fits and not ((due_counts > 0) & (given_counts == 0)).any()
        else:
            fits = not (given_counts > due_counts).any()
        return (due_codes, given_codes) if fits else None

    def _refined_colours(self) -> tuple[list[int], list[int]] | None:
        """Colours of the expected and given columns; None where the sides cannot be equal.

        Colour refinement (Weisfeiler and Leman): a row's colour is the bag of its cells with their
        columns' colours, a column's the bag of its cells with their rows' colours, until stable.
        """
        import numpy as np

        cells = np.concatenate([self._due, self._given])
        width = int(cells.max(initial=0)) + 1
        row_colours = np.concatenate([self._due_place, self._given_place])
        half = len(self._due)
        column_colours = np.zeros((2, self._wide), np.int64)
        known = 1
        while True:
            spread = np.concatenate(
                [
                    self._due + width * column_colours[0],
                    self._given + width * column_colours[1],
                ]
            )
            spread.sort(axis=1)
            rows = np.column_stack([row_colours, spread])
            row_colours = np.unique(rows, axis=0, return_inverse=True)[1].reshape(-1)
            if not np.array_equal(np.sort(row_colours[:half]), np.sort(row_colours[half:])):
                return None
            stacked = np.concatenate(
                [
                    (self._due + width * row_colours[:half, None]).T,
                    (self._given + width * row_colours[half:, None]).T,
                ]
            )
            stacked.sort(axis=1)
            keyed = np.column_stack([column_colours.reshape(-1), stacked])
            colours = np.unique(keyed, axis=0, return_inverse=True)[1].reshape(2, self._wide)
            if not np.array_equal(np.sort(colours[0]), np.sort(colours[1])):
                return None
            column_colours = colours
            count = len(np.unique(colours)) + len(np.unique(row_colours))
            if count == known:
                return colours[0].tolist(), colours[1].tolist()
            known = count


def _different(rows: Codes) -> Codes:
    import numpy as np

    return np.unique(rows, axis=0) if rows.size else rows


class _Coder:
    """Numbers cells so that equal cells have equal numbers.

    Numbers within tolerance of a neighbour share a code, so codes may call cells equal that are
    not (never the reverse): whoever uses them looks at the cells themselves in the end.
    """

    def __init__(self, cells: CellComparison) -> None:
        self._cells = cells

    def codes(
        self, due: Sequence[Row], given: Sequence[Row], wide: int, given_wide: int
    ) -> tuple[Codes, Codes]:
        import numpy as np

        code_of: dict[Any, int] = {}
        numbers: dict[Any, Value] = {}
        inexact = False
        key = self._cells.key
        sides: list[Codes] = []
        for rows, width in ((due, wide), (given, given_wide)):
            flat = []
            for row in rows:
                for value in row:
                    cell = key(value)
                    flat.append(code_of.setdefault(cell, len(code_of)))
                    if value is not None and family_of(value) == "number":
                        numbers.setdefault(cell, value)
                        inexact = inexact or not isinstance(value, int)
            sides.append(np.array(flat, np.int64).reshape(len(rows), width))
        merged = self._merged(code_of, numbers, inexact=inexact)
        return merged[sides[0]], merged[sides[1]]

    def _merged(
        self, code_of: dict[Any, int], numbers: dict[Any, Value], *, inexact: bool
    ) -> Codes:
        import numpy as np

        merged = np.arange(max(1, len(code_of)), dtype=np.int64)
        in_order = sorted(
            (item for item in numbers.items() if item[1] == item[1]), key=lambda item: item[1]
        )
        equal = self._cells.equal
        for (low_key, low), (high_key, high) in pairwise(in_order):
            # Where a float may stand between two integers, they are looked at as floats as well.
            if equal(low, high) or (inexact and equal(_as_float(low), _as_float(high))):
                merged[code_of[high_key]] = merged[code_of[low_key]]
        null = self._cells.key(None)
        if null in code_of:  # whatever NULL equals
            for cell, value in numbers.items():
                if equal(None, value):
                    merged[merged == merged[code_of[cell]]] = merged[code_of[null]]
        return merged


def _as_float(value: Value) -> Value:
    try:
        return float(value)
    except OverflowError:
        return value
