"""Which given column answers which expected one.

``as_given`` pairs by place; with extra columns allowed the expected ones are looked for among the
given ones in their order. ``any`` pairs by name where both sides have the same distinct names,
otherwise by contents: some permutation under which the rows are the same. Where names count, a
pairing under which they are right goes before others.
The search itself is in :mod:`~jentrow.core.comparison.columnsearch`.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import repeat
from typing import Final

from jentrow.core.comparison.cells import CellComparison, ComparisonTooLong
from jentrow.core.comparison.columnsearch import ColumnSearch
from jentrow.core.comparison.order import OrderMode
from jentrow.core.comparison.rows import CountedBag
from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.results import Column, Expectation, ResultSet, Row
from jentrow.core.values import Value, family_of

SWAP_CELLS: Final = 200_000
"""Larger results are not searched for swapped columns, which would only serve a message."""

_WORDS: Final = re.compile(r"\w+")

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
        if rows_agree(by_name):
            return Pairing(by_name, True)
        if given_wide == wide:
            return Pairing(by_name, False)
    in_place_agrees = rows_agree(in_place)
    if in_place_agrees and not wrong_names(due, given, in_place, rules):
        return Pairing(in_place, True)
    if rules.column_order == "any" or given_wide > wide:
        rising = rules.column_order == "as_given"
        search = ColumnSearch(expectation, given, rules, mode, cells)
        if rules.column_names != "ignore":
            named = search.candidates(rising=rising, may_pair=_pairs_by_name(due, given, rules))
            for candidate in named:
                if rows_agree(candidate):
                    return Pairing(candidate, True)
        if not in_place_agrees:
            for candidate in search.candidates(rising=rising):
                if rows_agree(candidate):
                    return Pairing(candidate, True)
            return Pairing(by_name or likely_pairing(due, given, cells), False)
    return Pairing(in_place, in_place_agrees)


def wrong_names(
    due: ResultSet, given: ResultSet, pairing: Sequence[int | None], rules: ComparisonRules
) -> tuple[tuple[str, str], ...]:
    """Pairs of a due name and the given one that is not it, where names count."""
    if rules.column_names == "ignore":
        return ()
    return tuple(
        (column.name, given.columns[at].name)
        for column, at in zip(due.columns, pairing, strict=True)
        if at is not None and not _same_name(column, given.columns[at], rules)
    )


def _same_name(due: Column, given: Column, rules: ComparisonRules) -> bool:
    """Whether a given column has the name that is due; a name that the engine made is never due."""
    if not due.named or rules.column_names == "ignore":
        return True
    if rules.column_names == "exact":
        return due.name == given.name
    return due.name.casefold() == given.name.casefold()


def _pairs_by_name(
    due: ResultSet, given: ResultSet, rules: ComparisonRules
) -> tuple[tuple[bool, ...], ...]:
    return tuple(
        tuple(_same_name(column, other, rules) for other in given.columns) for column in due.columns
    )


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
    search = ColumnSearch(expectation, given, rules, mode, cells)
    try:
        return next(filter(rows_agree, search.candidates(rising=False)), None)
    except ComparisonTooLong:
        return None


def _columns_may_match(expectation: Expectation, given: ResultSet, cells: CellComparison) -> bool:
    """False where some expected column is equal to no given column as a bag: a quick no."""
    if expectation.choices:
        return True
    due = list(map(_Bag, expectation.columns_of_values, repeat(cells)))
    others = list(map(_Bag, given.columns_of_values(), repeat(cells)))
    return all(any(map(bag.equals, others)) for bag in due)


class _Bag:
    """The values of one column: keys of what must be equal, and numbers in their order.

    Two bags of numbers can be paired within tolerance exactly when they pair in their order.
    """

    def __init__(self, values: Sequence[Value], cells: CellComparison) -> None:
        self._cells = cells
        self._values = values
        self._types = set(map(type, values))

    @cached_property
    def _counted(self) -> CountedBag:
        return CountedBag(self._values)

    @cached_property
    def _keyed(self) -> tuple[Counter[Hashable], list[Value] | None]:
        """What must be equal; and the numbers in their order, None where they have none."""
        number = ("number",)
        keyed = [(self._cells.discrete_key(value), value) for value in self._values]
        keys = Counter(key for key, _ in keyed)
        if self._cells.rules.value_types != "family":
            return keys, None
        numbers = [value for key, value in keyed if key == number and value is not None]
        if any(value != value for value in numbers):
            return keys, None
        return keys, sorted(numbers)

    def equals(self, other: _Bag) -> bool:
        types = self._types | other._types
        if self._cells.takes_as_is(types) and not self._cells.is_tolerant(types):
            return self._counted == other._counted
        (keys, numbers), (other_keys, other_numbers) = self._keyed, other._keyed
        if keys.items() != other_keys.items():
            return False
        if numbers is None or other_numbers is None:
            return True
        if len(numbers) != len(other_numbers):  # NULL stands for 0 somewhere
            return True
        if numbers == other_numbers:
            return True
        return all(map(self._cells.equal, numbers, other_numbers))


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

    alike = np.array(_evidence(due, given, cells)).reshape(len(due.columns), len(given.columns))
    families = [[_families(values) for values in side.columns_of_values()] for side in (due, given)]
    for i, ours in enumerate(families[0]):
        for j, theirs in enumerate(families[1]):
            alike[i, j] += 0.3 * (ours == theirs) - 0.05 * abs(i - j)
    chosen = dict(zip(*(part.tolist() for part in linear_sum_assignment(-alike)), strict=True))
    return tuple(chosen.get(i) for i in range(len(due.columns)))


def pairing_is_sure(
    due: ResultSet, given: ResultSet, pairing: Pairing, cells: CellComparison
) -> bool:
    """Whether values or names speak for each pair, and for no column that is left over instead."""
    evidence = _evidence(due, given, cells)
    left = [at for at, other in enumerate(pairing.given) if other is None]
    spare = pairing.without_partner(len(given.columns))
    for at, other in enumerate(pairing.given):
        if other is None:
            continue
        own = evidence[at][other]
        rivals = [evidence[one][other] for one in left] + [evidence[at][one] for one in spare]
        if own <= max(rivals, default=0.0):
            return False
    return True


def _evidence(due: ResultSet, given: ResultSet, cells: CellComparison) -> list[list[float]]:
    """How much speaks for each pair of a due and a given column: common values, and the name.

    A given column without an alias is called by the text of its expression: where that mentions the
    due column, it was probably made of it.
    """
    sample = 2_000
    due_bags = [Counter(map(cells.key, values[:sample])) for values in due.columns_of_values()]
    given_bags = [Counter(map(cells.key, values[:sample])) for values in given.columns_of_values()]

    def speaks(i: int, j: int) -> float:
        bag, other = due_bags[i], given_bags[j]
        shared = (bag & other).total() / max(1, bag.total(), other.total())
        name, called = due.names[i].casefold(), given.names[j].casefold()
        named = 1.0 if name == called else 0.7 * (name in _WORDS.findall(called))
        return 2 * shared + named

    return [[speaks(i, j) for j in range(len(given_bags))] for i in range(len(due_bags))]


def _families(values: Sequence[Value]) -> frozenset[str]:
    return frozenset(family_of(value) for value in values[:2_000] if value is not None)
