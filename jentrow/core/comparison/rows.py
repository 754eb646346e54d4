"""Which rows of two sides are the same: bags, sets, and a matching where numbers have a tolerance.

Equal keys pair rows at once. What is left over may still have a partner within tolerance, and
finding it may mean that a pair made by keys has to part: with 1.0 and 1.0+t due, 1.0−t and 1.0
given, only 1.0 with 1.0−t and 1.0+t with 1.0 pairs all. So the leftovers are matched in the graph
of all rows that an alternating path can reach from them (Berge: a matching is largest exactly when
no augmenting path is left), by SciPy's maximum bipartite matching.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import Counter, defaultdict
from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Final

from jentrow.core.comparison.cells import CellComparison
from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.results import Row
from jentrow.core.values import Value

EDGE_LIMIT: Final = 4_000_000
"""Pairs within tolerance that are looked at before the search for a better matching ends."""


@dataclass(frozen=True, slots=True)
class Matching:
    """Pairs of equal rows, as indexes into the two sides, and the rows without a partner."""

    pairs: tuple[tuple[int, int], ...]
    due_left: tuple[int, ...]
    given_left: tuple[int, ...]

    @property
    def is_perfect(self) -> bool:
        """Whether every row of both sides has a partner."""
        return not self.due_left and not self.given_left


def surely_same_bag(due: Sequence[Row], given: Sequence[Row], rules: ComparisonRules) -> bool:
    """Whether Python's own equality already makes the bags the same; false says nothing.

    Values that Python calls equal are equal under every rule but two: ``strict`` tells 5 from 5.0,
    ``printed`` tells true from 1.
    """
    if rules.value_types != "family":
        return False
    try:
        return Counter(due) == Counter(given)
    except TypeError:  # a list or a structure, which cannot be hashed
        return False


class RowComparison:
    """Rows of two sides made comparable: keys, and the columns in which tolerance has a say."""

    def __init__(self, cells: CellComparison, due: Sequence[Row], given: Sequence[Row]) -> None:
        self.cells = cells
        self.due = due
        self.given = given
        types = [one | other for one, other in zip(*map(_types, (due, given)), strict=False)]
        if not types:
            types = _types(due) or _types(given)
        self.tolerant = [at for at, held in enumerate(types) if cells.is_tolerant(held)]
        as_is = all(map(cells.takes_as_is, types)) and not (_holds_nan(due) or _holds_nan(given))
        self.due_keys: Sequence[Hashable] = due if as_is else list(map(cells.row_key, due))
        self.given_keys: Sequence[Hashable] = given if as_is else list(map(cells.row_key, given))

    def same_bag(self) -> bool:
        """Whether both sides hold the same rows equally often."""
        if len(self.due) != len(self.given):
            return False
        if Counter(self.due_keys) == Counter(self.given_keys):
            return True
        return bool(self.tolerant) and self.match().is_perfect

    def same_set(self) -> bool:
        """Whether every row of either side occurs on the other, however often."""
        return not any(self.without_equal())

    def without_equal(self) -> tuple[list[int], list[int]]:
        """The rows of each side that no row of the other equals."""
        due_lone = _lone(self.due_keys, self.given_keys)
        given_lone = _lone(self.given_keys, self.due_keys)
        if not self.tolerant:
            return due_lone, given_lone
        neighbours = _Neighbours(self)
        met = {at for lone in due_lone for at in neighbours.of_due(lone)}
        due_lone = [at for at in due_lone if not neighbours.of_due(at)]
        if given_lone:
            turned = _Neighbours(RowComparison(self.cells, self.given, self.due))
            given_lone = [at for at in given_lone if at not in met and not turned.of_due(at)]
        return due_lone, given_lone

    def covers(self, given: Sequence[int], due: Sequence[int]) -> bool:
        """Whether each of these given rows can have a due row of its own among those named."""
        part = RowComparison(
            self.cells, [self.due[at] for at in due], [self.given[at] for at in given]
        )
        return not part.match().given_left

    def match(self) -> Matching:
        """A largest matching of equal rows; rows with equal keys pair in the order they come."""
        waiting: dict[Hashable, list[int]] = defaultdict(list)
        for at in range(len(self.given) - 1, -1, -1):
            waiting[self.given_keys[at]].append(at)
        partner: dict[int, int] = {}
        due_left: list[int] = []
        for at, key in enumerate(self.due_keys):
            if stack := waiting.get(key):
                partner[at] = stack.pop()
            else:
                due_left.append(at)
        given_left = {at for stack in waiting.values() for at in stack}
        if due_left and given_left and self.tolerant:
            _improve(self, partner, due_left, given_left)
            due_left = [at for at in range(len(self.due)) if at not in partner]
            given_left = set(range(len(self.given))) - set(partner.values())
        return Matching(tuple(sorted(partner.items())), tuple(due_left), tuple(sorted(given_left)))


class _Neighbours:
    """For a due row, the given rows that equal it: buckets by what must agree, then a window."""

    def __init__(self, rows: RowComparison) -> None:
        self._rows = rows
        self._tolerant = frozenset(rows.tolerant)
        self._axis = rows.tolerant[0]
        self._buckets: dict[Hashable, list[int]] = defaultdict(list)
        for at, row in enumerate(rows.given):
            self._buckets[self._bucket(row)].append(at)
        self._sorted: dict[Hashable, tuple[list[float], list[int]] | None] = {}
        self._known: dict[int, list[int]] = {}

    def _bucket(self, row: Row) -> tuple[Hashable, ...]:
        cells = self._rows.cells
        return tuple(
            cells.discrete_key(value) if at in self._tolerant else cells.key(value)
            for at, value in enumerate(row)
        )

    def of_due(self, at: int) -> list[int]:
        if at not in self._known:
            row = self._rows.due[at]
            equal = self._rows.cells.rows_equal
            given = self._rows.given
            self._known[at] = [other for other in self._near(row) if equal(row, given[other])]
        return self._known[at]

    def _near(self, row: Row) -> Sequence[int]:
        bucket = self._bucket(row)
        members = self._buckets.get(bucket, [])
        if len(members) < 16:
            return members
        if bucket not in self._sorted:
            self._sorted[bucket] = self._sort(members)
        in_order = self._sorted[bucket]
        value = _as_float(row[self._axis])
        if in_order is None or value is None:
            return members
        reach = self._reach(value)
        first = bisect_left(in_order[0], value - reach)
        return in_order[1][first : bisect_right(in_order[0], value + reach)]

    def _sort(self, members: list[int]) -> tuple[list[float], list[int]] | None:
        pairs = []
        for at in members:
            value = _as_float(self._rows.given[at][self._axis])
            if value is None:
                return None
            pairs.append((value, at))
        pairs.sort()
        return [value for value, _ in pairs], [at for _, at in pairs]

    def _reach(self, value: float) -> float:
        """Generous: a wider window costs time, a narrower one would cost a verdict."""
        tolerance = self._rows.cells.rules.number_tolerance
        relative = tolerance.relative if tolerance else 1e-9
        absolute = tolerance.absolute if tolerance else 1e-12
        if relative >= 0.5:
            return float("inf")
        return max(absolute, relative * abs(value) / (1 - relative)) * 1.001 + abs(value) * 1e-15


def _improve(
    rows: RowComparison, partner: dict[int, int], due_left: list[int], given_left: set[int]
) -> None:
    """Replaces ``partner`` by a largest matching, where an alternating path allows a larger one."""
    import numpy as np
    from scipy.sparse import csr_array
    from scipy.sparse.csgraph import maximum_bipartite_matching

    neighbours = _Neighbours(rows)
    holder = {given: due for due, given in partner.items()}
    reached = list(due_left)
    seen = set(due_left)
    edges = looked_at = 0
    free_given_met = False
    for due in reached:
        near = neighbours.of_due(due)
        edges += len(near)
        looked_at += 1
        for given in near:
            if given in given_left:
                free_given_met = True
            elif (other := holder[given]) not in seen:
                seen.add(other)
                reached.append(other)
        if edges > EDGE_LIMIT:
            break
    if not free_given_met:
        return
    reached = reached[:looked_at]
    may_part = set(reached)
    ends: list[int] = []
    pointers = [0]
    for due in reached:
        near = neighbours.of_due(due)
        ends += [at for at in near if at in given_left or holder[at] in may_part]
        pointers.append(len(ends))
    columns = {given: at for at, given in enumerate(dict.fromkeys(ends))}
    names = list(columns)
    graph = csr_array(
        (
            np.ones(len(ends), dtype=np.int8),
            np.array([columns[given] for given in ends], dtype=np.int32),
            np.array(pointers, dtype=np.int32),
        ),
        shape=(len(reached), len(columns)),
    )
    found = maximum_bipartite_matching(graph, perm_type="column")
    improved = {due: names[at] for due, at in zip(reached, found.tolist(), strict=True) if at >= 0}
    if len(improved) > sum(1 for due in reached if due in partner):
        for due in reached:
            partner.pop(due, None)
        partner.update(improved)


def _types(rows: Sequence[Row]) -> list[set[type]]:
    return [set(map(type, values)) for values in zip(*rows, strict=True)]


def _holds_nan(rows: Sequence[Row]) -> bool:
    return any(
        float in set(map(type, values)) and any(value != value for value in values)
        for values in zip(*rows, strict=True)
    )


def _lone(keys: Sequence[Hashable], others: Sequence[Hashable]) -> list[int]:
    known = set(others)
    return [at for at, key in enumerate(keys) if key not in known]


def _as_float(value: Value) -> float | None:
    if not isinstance(value, int | float | Decimal):
        return None
    try:
        number = float(value)
    except OverflowError:
        return None
    return number if number == number else None
