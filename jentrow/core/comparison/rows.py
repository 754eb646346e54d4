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
from collections.abc import Hashable, Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from operator import itemgetter, ne
from typing import Final

from jentrow.core.comparison.cells import CellComparison
from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.results import Row
from jentrow.core.values import Value

EDGE_LIMIT: Final = 4_000_000
"""Pairs within tolerance that are looked at before the search for a better matching ends."""

FEW_LEFT: Final = 1_000
"""Rows without an equal partner up to which only they and their neighbours are looked at."""


@dataclass(frozen=True, slots=True)
class Matching:
    """Pairs of equal rows, as indexes into the two sides, and the rows without a partner.

    ``is_largest`` is false where the search for a larger one was cut short.
    """

    pairs: tuple[tuple[int, int], ...]
    due_left: tuple[int, ...]
    given_left: tuple[int, ...]
    is_largest: bool = True

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
        (due_types, due_nan), (given_types, given_nan) = _types(due), _types(given)
        types = [one | other for one, other in zip(due_types, given_types, strict=False)]
        types = types or due_types or given_types
        self.tolerant = [at for at, held in enumerate(types) if cells.is_tolerant(held)]
        as_is = all(map(cells.takes_as_is, types)) and not (due_nan or given_nan)
        self.due_keys: Sequence[Hashable] = due if as_is else list(map(cells.row_key, due))
        self.given_keys: Sequence[Hashable] = given if as_is else list(map(cells.row_key, given))

    def same_bag(self) -> bool:
        """Whether both sides hold the same rows equally often."""
        if len(self.due) != len(self.given):
            return False
        differing = _differing_keys(self.due_keys, self.given_keys)
        if not differing:
            return True
        if not self.tolerant or not self._exact_parts_agree():
            return False
        if differing > 2 * FEW_LEFT:
            paired_in_order = self._pairs_in_order()
            return self.match().is_perfect if paired_in_order is None else paired_in_order
        matching = self.match()
        if matching.is_perfect or matching.is_largest:
            return matching.is_perfect
        return bool(self._pairs_in_order())

    def _exact_parts_agree(self) -> bool:
        """Whether the rows are the same bag without their tolerant columns: a quick no."""
        within = frozenset(self.tolerant)
        exact = [at for at in range(len(self.due[0])) if at not in within]
        if not exact:
            return True
        part = itemgetter(*exact)
        return Counter(map(part, self.due_keys)) == Counter(map(part, self.given_keys))  # type: ignore[arg-type]

    def _pairs_in_order(self) -> bool | None:
        """Whether pairing rows in the order of their numbers pairs all; None where that is open.

        Rows that must agree in all else are sorted by their tolerant cells. If each then equals
        its partner, that is a perfect matching. If not, and there is one tolerant column with one
        and the same tolerance for all its cells, there is none: two pairs that cross could as well
        be uncrossed.
        """
        sides = [_in_buckets(self, rows) for rows in (self.due, self.given)]
        if sides[0] is None or sides[1] is None:
            return None
        if sides[0].keys() != sides[1].keys():
            return False
        equal = self.cells.rows_equal
        for bucket, due in sides[0].items():
            given = sides[1][bucket]
            if len(due) != len(given):
                return False
            if not all(map(equal, due, given)):
                return False if self._one_tolerance() else None
        return True

    def _one_tolerance(self) -> bool:
        """Whether one tolerance holds for all pairs of numbers, in a single column."""
        if len(self.tolerant) != 1 or self.cells.rules.value_types != "family":
            return False
        tolerance = self.cells.rules.number_tolerance
        if tolerance is not None:
            return tolerance.relative < 1
        at = self.tolerant[0]
        return any(
            {type(row[at]) for row in side} <= {float, type(None)}
            for side in (self.due, self.given)
        )

    def same_set(self) -> bool:
        """Whether every row of either side occurs on the other, however often."""
        return not any(self.without_equal())

    def without_equal(self) -> tuple[list[int], list[int]]:
        """The rows of each side that no row of the other equals."""
        due_lone = _lone(self.due_keys, self.given_keys)
        given_lone = _lone(self.given_keys, self.due_keys)
        if not self.tolerant:
            return due_lone, given_lone
        neighbours = _Neighbours(self, due_lone)
        met = {at for lone in due_lone for at in neighbours.of_due(lone)}
        due_lone = [at for at in due_lone if not neighbours.of_due(at)]
        if given_lone:
            turned = _Neighbours(RowComparison(self.cells, self.given, self.due), given_lone)
            given_lone = [at for at in given_lone if at not in met and not turned.of_due(at)]
        return due_lone, given_lone

    def covers(self, given: Sequence[int], due: Sequence[int]) -> bool:
        """Whether each of these given rows can have a due row of its own among those named."""
        part = RowComparison(
            self.cells, [self.due[at] for at in due], [self.given[at] for at in given]
        )
        return not part.match().given_left

    def match(self, edge_limit: int = EDGE_LIMIT) -> Matching:
        """A largest matching of equal rows; rows with equal keys pair in the order they come.

        Beyond ``edge_limit`` pairs within tolerance the matching may not be the largest.
        """
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
        is_largest = True
        if due_left and given_left and self.tolerant:
            is_largest = _improve(self, partner, due_left, given_left, edge_limit)
            due_left = [at for at in range(len(self.due)) if at not in partner]
            given_left = set(range(len(self.given))) - set(partner.values())
        return Matching(
            tuple(sorted(partner.items())), tuple(due_left), tuple(sorted(given_left)), is_largest
        )


class _Neighbours:
    """For a due row, the given rows that equal it: buckets by what must agree, then a window.

    ``due`` are the rows whose neighbours will be asked for, and theirs in turn: all of them lie in
    the same buckets, so that other given rows need no look.
    """

    def __init__(self, rows: RowComparison, due: Sequence[int]) -> None:
        self._rows = rows
        self._tolerant = frozenset(rows.tolerant)
        self._axis = rows.tolerant[0]
        self._buckets: dict[Hashable, list[int]] = defaultdict(list)
        wanted = {self._bucket(rows.due[at]) for at in due}
        for at in self._likely(due):
            bucket = self._bucket(rows.given[at])
            if bucket in wanted:
                self._buckets[bucket].append(at)
        self._sorted: dict[Hashable, tuple[list[float], list[int]] | None] = {}
        self._known: dict[int, list[int]] = {}

    def _bucket(self, row: Row) -> tuple[Hashable, ...]:
        return self._rows.cells.bucket(row, self._tolerant)

    def _likely(self, due: Sequence[int]) -> Iterable[int]:
        """Given rows that agree with one of the due rows in the column that tells most apart."""
        given_keys = self._rows.given_keys
        exact = (
            [at for at in range(len(self._rows.given[0])) if at not in self._tolerant]
            if self._rows.given
            else []
        )
        if not exact or len(due) > FEW_LEFT:
            return range(len(given_keys))
        held = {at: {self._rows.due_keys[row][at] for row in due} for at in exact}  # type: ignore[index]
        column = max(exact, key=lambda at: len(held[at]))
        wanted = held[column]
        return [at for at, key in enumerate(given_keys) if key[column] in wanted]  # type: ignore[index]

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
    rows: RowComparison,
    partner: dict[int, int],
    due_left: list[int],
    given_left: set[int],
    edge_limit: int,
) -> bool:
    """Replaces ``partner`` by a largest matching, where an alternating path allows a larger one.

    Returns whether the search went to its end.
    """
    import numpy as np
    from scipy.sparse import csr_array
    from scipy.sparse.csgraph import maximum_bipartite_matching

    neighbours = _Neighbours(rows, due_left)
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
        if edges > edge_limit:
            break
    complete = edges <= edge_limit
    if not free_given_met:
        return complete
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
    return complete


def _in_buckets(comparison: RowComparison, rows: Sequence[Row]) -> dict[Hashable, list[Row]] | None:
    """Rows by what must agree, each bucket sorted by its tolerant cells; None if not numbers."""
    cells, tolerant = comparison.cells, comparison.tolerant
    if cells.rules.value_types == "printed":
        return None
    within = frozenset(tolerant)
    buckets: dict[Hashable, list[tuple[tuple[float, ...], Row]]] = defaultdict(list)
    for row in rows:
        numbers = [_as_float(row[at]) for at in tolerant]
        bucket = cells.bucket(row, within)
        for at, number in zip(tolerant, numbers, strict=True):
            # NULL that equals 0, NaN, lists: their order says nothing.
            if number is None and (row[at] is not None or cells.rules.null_equals == "zero"):
                return None
        buckets[bucket].append((tuple(number or 0.0 for number in numbers), row))
    for held in buckets.values():
        held.sort(key=lambda item: item[0])
    return {bucket: [row for _, row in held] for bucket, held in buckets.items()}


def _differing_keys(due: Sequence[Hashable], given: Sequence[Hashable]) -> int:
    """How many keys one side holds more often than the other."""
    ours, theirs = Counter(due), Counter(given)
    if ours == theirs:
        return 0
    return len({key for key, _ in ours.items() ^ theirs.items()})


def _types(rows: Sequence[Row]) -> tuple[list[set[type]], bool]:
    """The types in each column, and whether there is a NaN anywhere."""
    types: list[set[type]] = []
    holds_nan = False
    for values in zip(*rows, strict=True):
        types.append(set(map(type, values)))
        if types[-1] & {float, Decimal}:
            holds_nan = holds_nan or any(map(ne, values, values))
    return types, holds_nan


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
