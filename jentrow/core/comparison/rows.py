"""Which rows of two sides are the same: bags, sets, and a matching where numbers have a tolerance.

Equal keys pair rows at once. What is left over may still have a partner within tolerance, and
finding it may mean that a pair made by keys has to part: with 1.0 and 1.0+t due, 1.0−t and 1.0
given, only 1.0 with 1.0−t and 1.0+t with 1.0 pairs all. So the leftovers are matched in the graph
of all rows that an alternating path can reach from them (Berge: a matching is largest exactly when
no augmenting path is left), as a flow (SciPy's maximum flow) in which rows that are the same are one.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import Counter, defaultdict
from collections.abc import Hashable, ItemsView, Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from math import isinf
from operator import itemgetter
from typing import Final

from jentrow.core.comparison.cells import CellComparison, ComparisonTooLong
from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.results import HeldTypes, Row, held_types

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


class CountedBag:
    """Values of which each counts as often as it is there, compared by Python's own equality."""

    def __init__(self, values: Sequence[Hashable]) -> None:
        """Raises :class:`TypeError` for a list or a structure, which cannot be hashed."""
        self._values = values
        # Counting takes several times as long, and most bags that differ do so as sets.
        self._different = set(values)

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, CountedBag):
            return NotImplemented
        if len(self._values) != len(other._values) or self._different != other._different:
            return False
        return len(self._different) == len(self._values) or self._counts == other._counts

    __hash__ = None  # type: ignore[assignment]

    @cached_property
    def _counts(self) -> ItemsView[Hashable, int]:
        # Counters compare in Python, key by key, for the sake of zero counts; these have none.
        return Counter(self._values).items()


def surely_same_bag(due: Sequence[Row], given: Sequence[Row], rules: ComparisonRules) -> bool:
    """Whether Python's own equality already makes the bags the same; false says nothing.

    Values that Python calls equal are equal under every rule but two: ``strict`` tells 5 from 5.0,
    ``printed`` tells true from 1.
    """
    if rules.value_types != "family":
        return False
    try:
        return CountedBag(due) == CountedBag(given)
    except TypeError:  # a list or a structure, which cannot be hashed
        return False


class RowComparison:
    """Rows of two sides made comparable: keys, and the columns in which tolerance has a say."""

    def __init__(
        self,
        cells: CellComparison,
        due: Sequence[Row],
        given: Sequence[Row],
        due_holds: HeldTypes | None = None,
    ) -> None:
        """``due_holds`` is what the due rows hold, or other rows too among which they are."""
        self.cells = cells
        self.due = due
        self.given = given
        due_types, due_nan = due_holds or held_types(due)
        given_types, given_nan = held_types(given)
        types = [one | other for one, other in zip(due_types, given_types, strict=False)]
        types = types or due_types or given_types
        self.tolerant = [at for at, held in enumerate(types) if cells.is_tolerant(held)]
        self._as_is = all(map(cells.takes_as_is, types)) and not (due_nan or given_nan)
        self.due_keys: Sequence[Hashable] = due if self._as_is else list(map(cells.row_key, due))
        self.given_keys: Sequence[Hashable] = (
            given if self._as_is else list(map(cells.row_key, given))
        )

    def same_bag(self, *, differ_as_is: bool = False) -> bool:
        """Whether both sides hold the same rows equally often. Raises :class:`ComparisonTooLong`.

        ``differ_as_is`` says that by Python's own equality they are known not to.
        """
        if len(self.due) != len(self.given):
            return False
        if differ_as_is and self._as_is and not self.tolerant:
            return False
        differing = _differing_keys(self.due_keys, self.given_keys)
        if not differing:
            return True
        if not self.tolerant or not self._exact_parts_agree():
            return False
        # Many rows are paired in their order first, which is quick; few are matched at once.
        paired_in_order = self._pairs_in_order() if differing > 2 * FEW_LEFT else None
        if paired_in_order is not None:
            return paired_in_order
        matching = self.match()
        if matching.is_perfect or matching.is_largest:
            return matching.is_perfect
        raise ComparisonTooLong

    def _exact_parts_agree(self) -> bool:
        """Whether the rows are the same bag without their tolerant columns: a quick no."""
        within = frozenset(self.tolerant)
        exact = [at for at in range(len(self.due[0])) if at not in within]
        if not exact:
            return True
        part = itemgetter(*exact)
        due = CountedBag(list(map(part, self.due_keys)))  # type: ignore[arg-type]
        return due == CountedBag(list(map(part, self.given_keys)))  # type: ignore[arg-type]

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
        if self.cells.rules.null_equals == "zero":  # NULL equals 0 and nothing near it
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
        due_lone = [at for at in due_lone if not neighbours.has_any(at)]
        if given_lone:
            turned = _Neighbours(RowComparison(self.cells, self.given, self.due), given_lone)
            given_lone = [at for at in given_lone if not turned.has_any(at)]
        return due_lone, given_lone

    def largest_match(self) -> Matching:
        """A matching that is surely the largest. Raises :class:`ComparisonTooLong`."""
        matching = self.match()
        if not matching.is_largest:
            raise ComparisonTooLong
        return matching

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
            is_largest = edge_limit > 0 and _improve(
                self, partner, due_left, given_left, edge_limit
            )
            due_left = [at for at in range(len(self.due)) if at not in partner]
            given_left = set(range(len(self.given))) - set(partner.values())
        return Matching(
            tuple(sorted(partner.items())), tuple(due_left), tuple(sorted(given_left)), is_largest
        )


class _Neighbours:
    """For a due row, the given rows that equal it: buckets by what must agree, then a window.

    Rows that are the same to the bit stand for one another: only the first of them is told.
    ``due`` are the rows whose neighbours will be asked for, and theirs in turn: all of them lie in
    the same buckets, so that other given rows need no look.
    """

    def __init__(self, rows: RowComparison, due: Sequence[int]) -> None:
        self._rows = rows
        self._tolerant = frozenset(rows.tolerant)
        self._axis = self._most_telling(due)
        self.alike: dict[Hashable, list[int]] = defaultdict(list)
        self._buckets: dict[Hashable, list[int]] = defaultdict(list)
        wanted = {self._bucket(rows.due[at]) for at in due}
        for at in self._likely(due):
            bucket = self._bucket(rows.given[at])
            if bucket in wanted:
                same = self.alike[self.given_class(at)]
                same.append(at)
                if len(same) == 1:
                    self._buckets[bucket].append(at)
        self._sorted: dict[Hashable, tuple[list[float], list[int]] | None] = {}
        self._known: dict[Hashable, list[int]] = {}

    def due_class(self, at: int) -> Hashable:
        """What due rows share that are the same, types included.

        A key alone does not say that: what is within tolerance depends on the types, too.
        """
        return (self._rows.due_keys[at], *map(type, self._rows.due[at]))

    def given_class(self, at: int) -> Hashable:
        """The same of a given row."""
        return (self._rows.given_keys[at], *map(type, self._rows.given[at]))

    def _most_telling(self, due: Sequence[int]) -> int:
        """The tolerant column with the most different numbers: it keeps the windows narrow."""
        axis = self._rows.cells.axis
        return max(
            self._rows.tolerant,
            key=lambda at: len({axis(self._rows.due[row][at]) for row in due[:FEW_LEFT]}),
        )

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
        """The given rows that equal a due one, the first of each that are the same."""
        asked = self.due_class(at)
        if asked not in self._known:
            row = self._rows.due[at]
            equal = self._rows.cells.rows_equal
            given = self._rows.given
            self._known[asked] = [other for other in self._near(row) if equal(row, given[other])]
        return self._known[asked]

    def has_any(self, at: int) -> bool:
        """Whether any given row equals a due one."""
        row, given = self._rows.due[at], self._rows.given
        return any(self._rows.cells.rows_equal(row, given[other]) for other in self._near(row))

    def _near(self, row: Row) -> Sequence[int]:
        bucket = self._bucket(row)
        members = self._buckets.get(bucket, [])
        if len(members) < 16:
            return members
        if bucket not in self._sorted:
            self._sorted[bucket] = self._sort(members)
        in_order = self._sorted[bucket]
        value = self._rows.cells.axis(row[self._axis])
        if in_order is None or value is None or isinf(value):
            return members
        reach = self._reach(value)
        first = bisect_left(in_order[0], value - reach)
        return in_order[1][first : bisect_right(in_order[0], value + reach)]

    def _sort(self, members: list[int]) -> tuple[list[float], list[int]] | None:
        pairs = []
        for at in members:
            value = self._rows.cells.axis(self._rows.given[at][self._axis])
            if value is None:
                return None
            pairs.append((value, at))
        pairs.sort()
        return [value for value, _ in pairs], [at for _, at in pairs]

    def _reach(self, value: float) -> float:
        """Generous: a wider window costs time, a narrower one would cost a verdict.

        Of two numbers within ``relative`` of the larger one, that one is at most
        ``|value| / (1 - relative)``.
        """
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
    neighbours = _Neighbours(rows, due_left)
    holder = {given: due for due, given in partner.items()}
    reached = _reached(rows, neighbours, holder, due_left, given_left, edge_limit)
    if not reached.may_improve:
        return reached.is_complete
    may_part = {at for ones in reached.due.values() for at in ones}
    given_members = {
        first: [
            given
            for given in neighbours.alike[neighbours.given_class(first)]
            if given in given_left or holder[given] in may_part
        ]
        for first in reached.given
    }
    improved = _largest(reached.due, given_members, reached.near_of)
    if len(improved) > sum(1 for due in may_part if due in partner):
        for due in may_part:
            partner.pop(due, None)
        partner.update(improved)
    return reached.is_complete


@dataclass(frozen=True, slots=True)
class _Reached:
    """What alternating paths reach from due rows without a partner.

    Rows that are the same are one node with as many places: ``due`` has the members of each,
    ``near_of`` the first of each kind of given rows that equal it, ``given`` all of those. A path
    improves something only where a given row without a partner was met.
    """

    due: dict[Hashable, list[int]]
    near_of: dict[Hashable, list[int]]
    given: set[int]
    may_improve: bool
    is_complete: bool


def _reached(
    rows: RowComparison,
    neighbours: _Neighbours,
    holder: dict[int, int],
    due_left: list[int],
    given_left: set[int],
    edge_limit: int,
) -> _Reached:
    members: dict[Hashable, list[int]] = defaultdict(list)
    for at in range(len(rows.due)):
        members[neighbours.due_class(at)].append(at)
    reached = list(dict.fromkeys(map(neighbours.due_class, due_left)))
    seen = set(reached)
    near_of: dict[Hashable, list[int]] = {}
    met: set[int] = set()
    edges = 0
    free_given_met = False
    for due in reached:
        near_of[due] = neighbours.of_due(members[due][0])
        edges += len(near_of[due])
        for first in near_of[due]:
            if first in met:
                continue
            met.add(first)
            for given in neighbours.alike[neighbours.given_class(first)]:
                if given in given_left:
                    free_given_met = True
                elif (other := neighbours.due_class(holder[given])) not in seen:
                    seen.add(other)
                    reached.append(other)
        if edges > edge_limit:
            break
    due_members = {one: members[one] for one in near_of}
    return _Reached(due_members, near_of, met, free_given_met, edges <= edge_limit)


def _largest(
    due: dict[Hashable, list[int]],
    given: dict[int, list[int]],
    near_of: dict[Hashable, list[int]],
) -> dict[int, int]:
    """A largest matching between groups of rows: a flow of as many as each group has."""
    import numpy as np
    from scipy.sparse import csr_array
    from scipy.sparse.csgraph import maximum_flow

    node = {first: 1 + len(due) + at for at, first in enumerate(given)}
    sink = 1 + len(due) + len(given)
    edges = [(0, 1 + at, len(ones)) for at, ones in enumerate(due.values())]
    edges += [
        (1 + at, node[first], min(len(due[one]), len(given[first])))
        for at, one in enumerate(due)
        for first in near_of[one]
        if given[first]
    ]
    edges += [(node[first], sink, len(ones)) for first, ones in given.items() if ones]
    starts, ends, room = (np.array(part, dtype=np.int32) for part in zip(*edges, strict=True))
    graph = csr_array((room, (starts, ends)), shape=(sink + 1, sink + 1))
    flow = maximum_flow(graph, 0, sink).flow
    waiting = {first: iter(ones) for first, ones in given.items()}
    names = {at: first for first, at in node.items()}
    pairs: dict[int, int] = {}
    for at, ones in enumerate(due.values()):
        row = flow[[1 + at], :].tocoo()
        free = iter(ones)
        for end, many in zip(row.col.tolist(), row.data.tolist(), strict=True):
            if end in names and many > 0:
                for _ in range(int(many)):
                    pairs[next(free)] = next(waiting[names[end]])
    return pairs


def _in_buckets(comparison: RowComparison, rows: Sequence[Row]) -> dict[Hashable, list[Row]] | None:
    """Rows by what must agree, each bucket sorted by its tolerant cells; None if not numbers."""
    cells, tolerant = comparison.cells, comparison.tolerant
    within = frozenset(tolerant)
    buckets: dict[Hashable, list[tuple[tuple[float, ...], Row]]] = defaultdict(list)
    for row in rows:
        numbers = [cells.axis(row[at]) for at in tolerant]
        # Of lists and structures the order says nothing; all else that is no number has its bucket.
        if any(isinstance(row[at], list | tuple | dict) for at in tolerant):
            return None
        where = tuple(0.0 if number is None else number for number in numbers)
        buckets[cells.bucket(row, within)].append((where, row))
    for held in buckets.values():
        held.sort(key=lambda item: item[0])
    return {bucket: [row for _, row in held] for bucket, held in buckets.items()}


def _differing_keys(due: Sequence[Hashable], given: Sequence[Hashable]) -> int:
    """How many keys one side holds more often than the other."""
    ours, theirs = Counter(due).items(), Counter(given).items()
    return 0 if ours == theirs else len({key for key, _ in ours ^ theirs})


def _lone(keys: Sequence[Hashable], others: Sequence[Hashable]) -> list[int]:
    known = set(others)
    return [at for at, key in enumerate(keys) if key not in known]
