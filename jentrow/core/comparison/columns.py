"""Which given column answers which expected one.

``as_given`` pairs by place. ``any`` pairs by name where both sides have the same distinct names,
otherwise by contents: some permutation under which the rows are the same. That search stays short:
columns and rows are first told apart by colour refinement (two columns can only be partners if
they hold the same values in rows that look alike), and what is left is tried column by column, a
prefix being dropped as soon as the part rows that it makes do not occur equally often.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import islice, pairwise, repeat
from typing import TYPE_CHECKING, Any, Final

from jentrow.core.comparison.cells import CellComparison
from jentrow.core.comparison.order import OrderMode
from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.results import Expectation, ResultSet, Row
from jentrow.core.values import Value, family_of

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Codes = NDArray[np.int64]

PREFIX_BUDGET: Final = 6_000
"""Prefixes that the search by contents looks at before it gives up."""

LEAF_BUDGET: Final = 60
"""Whole permutations that are compared row by row before the search gives up."""

SWAP_CELLS: Final = 200_000
"""Larger results are not searched for swapped columns, which would only serve a message."""

RowsAgree = Callable[[Sequence[int]], bool]
"""Whether the rows agree when expected column i is answered by given column ``pairing[i]``."""


@dataclass(frozen=True, slots=True)
class Pairing:
    """For each expected column the given one (``None``: it has no partner); and whether it fits.

    ``agrees`` says that under this pairing the rows are the same.
    """

    given: tuple[int | None, ...]
    agrees: bool

    def without_partner(self, width: int) -> tuple[int, ...]:
        """The given columns, of ``width`` in all, that answer no expected one."""
        return tuple(at for at in range(width) if at not in self.given)


def project(rows: Sequence[Row], pairing: Sequence[int]) -> Sequence[Row]:
    """The rows with their columns in the order of the pairing."""
    if list(pairing) == list(range(len(rows[0]) if rows else len(pairing))):
        return rows
    return [tuple([row[at] for at in pairing]) for row in rows]


def pair_columns(
    expectation: Expectation,
    given: ResultSet,
    rules: ComparisonRules,
    mode: OrderMode,
    cells: CellComparison,
    rows_agree: RowsAgree,
) -> Pairing:
    """Finds the pairing that the rules allow; where none makes the rows agree, the likeliest."""
    due = expectation.result
    wide, given_wide = len(due.columns), len(given.columns)
    if given_wide < wide or (given_wide > wide and rules.extra_columns == "refuse"):
        return Pairing(likely_pairing(due, given, cells), False)
    in_place = tuple(range(wide))
    by_name = _by_name(due, given, rules)
    if by_name is not None:
        return Pairing(by_name, rows_agree(by_name))
    if rows_agree(in_place):
        return Pairing(in_place, True)
    if rules.column_order == "any" or given_wide > wide:
        search = _Search(expectation, given, rules, mode, cells)
        for candidate in search.candidates(rising=rules.column_order == "as_given"):
            if rows_agree(candidate):
                return Pairing(candidate, True)
        return Pairing(likely_pairing(due, given, cells), False)
    return Pairing(in_place, False)


def permutation_that_agrees(
    expectation: Expectation,
    given: ResultSet,
    rules: ComparisonRules,
    mode: OrderMode,
    cells: CellComparison,
    rows_agree: RowsAgree,
) -> tuple[int, ...] | None:
    """Another order of the columns under which the rows agree, to say that columns were swapped.

    None where there is none, or where the result is too large to look for one.
    """
    if len(expectation.result.columns) != len(given.columns):
        return None
    if len(given.rows) * len(given.columns) > SWAP_CELLS:
        return None
    if rules.duplicates == "count" and not (
        len(expectation.result.rows) == len(given.rows)
        and _columns_may_match(expectation, given, cells)
    ):
        return None
    search = _Search(expectation, given, rules, mode, cells)
    return next(filter(rows_agree, search.candidates(rising=False)), None)


def _columns_may_match(expectation: Expectation, given: ResultSet, cells: CellComparison) -> bool:
    """False where some expected column is equal to no given column as a bag: a quick no."""
    if expectation.choices:
        return True
    due = list(map(_Bag, expectation.result.columns_of_values(), repeat(cells)))
    others = list(map(_Bag, given.columns_of_values(), repeat(cells)))
    return all(any(map(bag.equals, others)) for bag in due)


class _Bag:
    """The values of one column: keys of what must be equal, and numbers in their order.

    Two bags of numbers can be paired within tolerance exactly when they pair in their order.
    """

    def __init__(self, values: list[Value], cells: CellComparison) -> None:
        self._cells = cells
        number = ("number",)
        keyed = [(cells.discrete_key(value), value) for value in values]
        self._numbers: list[Value] = []
        self._sorted = cells.rules.value_types != "printed"
        if self._sorted:
            self._numbers = [value for key, value in keyed if key == number and value is not None]
            self._sorted = all(value == value for value in self._numbers)
            if self._sorted:
                self._numbers.sort()
        self._keys = Counter(key for key, _ in keyed)

    def equals(self, other: _Bag) -> bool:
        if self._keys != other._keys:
            return False
        if not (self._sorted and other._sorted):
            return True
        if len(self._numbers) != len(other._numbers):  # NULL stands for 0 somewhere
            return True
        if self._numbers == other._numbers:
            return True
        return all(map(self._cells.equal, self._numbers, other._numbers))


def _by_name(due: ResultSet, given: ResultSet, rules: ComparisonRules) -> tuple[int, ...] | None:
    if rules.column_order != "any":
        return None
    due_names = [name.casefold() for name in due.names]
    given_names = [name.casefold() for name in given.names]
    if len(set(due_names)) < len(due_names) or len(set(given_names)) < len(given_names):
        return None
    if set(due_names) == set(given_names) or (
        rules.extra_columns == "allow" and set(due_names) <= set(given_names)
    ):
        return tuple(given_names.index(name) for name in due_names)
    return None


def likely_pairing(
    due: ResultSet, given: ResultSet, cells: CellComparison
) -> tuple[int | None, ...]:
    """Pairs columns that look most alike, by their values, names and places, at most one each.

    An assignment over the shares of common values (SciPy's Hungarian method), for showing a
    difference; no verdict rests on it.
    """
    import numpy as np
    from scipy.optimize import linear_sum_assignment

    sample = 2_000
    due_bags = [Counter(map(cells.key, values[:sample])) for values in due.columns_of_values()]
    given_bags = [Counter(map(cells.key, values[:sample])) for values in given.columns_of_values()]
    alike = np.zeros((len(due_bags), len(given_bags)))
    for i, bag in enumerate(due_bags):
        for j, other in enumerate(given_bags):
            shared = (bag & other).total() / max(1, bag.total(), other.total())
            same_name = due.names[i].casefold() == given.names[j].casefold()
            families = _families(bag), _families(other)
            alike[i, j] = (
                2 * shared + same_name + 0.3 * (families[0] == families[1]) - 0.05 * abs(i - j)
            )
    chosen = dict(zip(*(part.tolist() for part in linear_sum_assignment(-alike)), strict=True))
    return tuple(chosen.get(i) for i in range(len(due_bags)))


def _families(bag: Any) -> frozenset[str]:
    return frozenset(type(key).__name__ for key in bag if key is not None)


class _Search:
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

    def candidates(self, *, rising: bool) -> Any:
        """Yields pairings; ``rising`` keeps the given columns in their order."""
        if self._hopeless:
            return
        allowed = self._allowed(rising)
        found = self._extend((), self._due_place, self._given_place, allowed, rising)
        yield from islice(found, LEAF_BUDGET)

    def _allowed(self, rising: bool) -> list[list[int]]:
        if self._given_wide == self._wide and not (self._chosen or self._as_sets or rising):
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
        allowed: list[list[int]],
        rising: bool,
    ) -> Any:
        at = len(prefix)
        if at == self._wide:
            yield prefix
            return
        tried: set[bytes] = set()
        for other in allowed[at]:
            if other in prefix or (rising and prefix and other < prefix[-1]):
                continue
            contents = self._given[:, other].tobytes()
            if contents in tried:  # a column with the very same cells leads nowhere else
                continue
            tried.add(contents)
            self._prefixes -= 1
            if self._prefixes < 0:
                return
            joint = self._joint(due, given, at, other)
            if joint is not None:
                yield from self._extend((*prefix, other), *joint, allowed, rising)

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
        if self._as_sets:
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
            sides.append(np.array(flat, np.int64).reshape(len(rows), width))
        merged = self._merged(code_of, numbers)
        return merged[sides[0]], merged[sides[1]]

    def _merged(self, code_of: dict[Any, int], numbers: dict[Any, Value]) -> Codes:
        import numpy as np

        merged = np.arange(max(1, len(code_of)), dtype=np.int64)
        in_order = sorted(
            (item for item in numbers.items() if item[1] == item[1]), key=lambda item: item[1]
        )
        equal = self._cells.equal
        inexact = any(not isinstance(value, int) for _, value in in_order)
        for (low_key, low), (high_key, high) in pairwise(in_order):
            # Where a float may stand between two integers, they are looked at as floats as well.
            if equal(low, high) or (inexact and equal(_as_float(low), _as_float(high))):
                merged[code_of[high_key]] = merged[code_of[low_key]]
        return merged


def _as_float(value: Value) -> Value:
    try:
        return float(value)
    except OverflowError:
        return value
