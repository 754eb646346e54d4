"""The difference between what is due and what is given, row by row: the woven table.

Rows that agree are woven together; what is left over on both sides is paired by how many cells
agree, so that a wrong cell reads as a wrong cell and not as one row missing and another extra.
"""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter, defaultdict
from collections.abc import Hashable, Iterator, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from typing import TYPE_CHECKING, Final, Literal, TypeAlias

from jentrow.core.comparison.cells import CellComparison
from jentrow.core.comparison.order import OrderMode, first_occurrences
from jentrow.core.comparison.rows import RowComparison
from jentrow.core.comparison.rules import ComparisonRules, NumberTolerance
from jentrow.core.results import Expectation, Row
from jentrow.core.values import Value

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

PAIRED_ROWS: Final = 400
"""Left-over rows of each side that are paired by agreeing cells; the rest stay as they are."""

SHOWN_EDGES: Final = 200_000
"""Pairs within tolerance that are looked at when a difference is shown."""

LARGE_ROWS: Final = 20_000
KEPT_ROWS: Final = 1_000
"""Of results larger than ``LARGE_ROWS``, agreeing rows after the first so many are only counted."""

_LOOSE: Final = CellComparison(
    ComparisonRules(value_types="printed", text_case="ignore", text_space="collapse")
)
_NEAR: Final = NumberTolerance(0.5, 0.005)
"""Cells that are not equal but look it: they may still belong to one and the same row."""

_USUAL: Final = NumberTolerance(1e-12, 1e-9)

RowKind: TypeAlias = Literal["agrees", "absent", "extra", "differs", "moved", "times", "tie"]
"""How a woven row stands to the two sides.

``agrees`` on both sides alike; ``absent`` due and not given; ``extra`` given and not due;
``differs`` on both sides with other cells; ``moved`` on both sides, out of order; ``times`` on
both sides, not equally often (one woven row for all copies); ``tie`` on both sides, in another order than the reference's, which
is right because the rows tie.
"""


@dataclass(frozen=True, slots=True)
class WovenRow:
    """One row of the woven table.

    ``due`` and ``given`` are the row's cells on each side (None: not on that side), the given ones
    in the order of the expected columns. ``due_at`` and ``given_at`` are places, counted from 0.
    ``wrong`` are the columns whose cells differ. ``times`` says how often the row is due and given
    where that differs. ``tie`` numbers the tie group, None where no other row ties.
    """

    kind: RowKind
    due: Row | None
    given: Row | None
    due_at: int | None = None
    given_at: int | None = None
    wrong: tuple[int, ...] = ()
    times: tuple[int, int] | None = None
    tie: int | None = None


@dataclass(frozen=True, slots=True)
class Difference:
    """The woven rows in the order in which they read.

    ``partial`` is true where more rows were left over than are paired by their cells. ``agreeing``
    counts rows that simply agree and are left out of ``rows``, in large results only.
    """

    rows: tuple[WovenRow, ...]
    partial: bool = False
    agreeing: int = 0
    counts: Counter[RowKind] = field(default_factory=Counter)


def weave(
    expectation: Expectation,
    given: Sequence[Row],
    mode: OrderMode,
    cells: CellComparison,
    *,
    repeats_count: bool = True,
) -> Difference:
    """Weaves the expected rows and the given ones, whose columns stand in the expected order."""
    due = expectation.result.rows
    due_places: Sequence[int] = range(len(due))
    given_places: Sequence[int] = range(len(given))
    if not repeats_count:
        due_places = first_occurrences(due, cells)
        given_places = first_occurrences(given, cells)
    loom = _Loom(expectation, due_places, given, given_places, mode, cells)
    return loom.weave()


class _Loom:
    def __init__(
        self,
        expectation: Expectation,
        due_places: Sequence[int],
        given: Sequence[Row],
        given_places: Sequence[int],
        mode: OrderMode,
        cells: CellComparison,
    ) -> None:
        self.cells = cells
        self.mode = mode
        self.due_places = due_places
        self.given_places = given_places
        self.due = [expectation.result.rows[at] for at in due_places]
        self.given = [given[at] for at in given_places]
        self.rows = RowComparison(cells, self.due, self.given)
        ranks = expectation.ranks
        self.ranks = None if ranks is None else [ranks[at] for at in due_places]
        self.choices = expectation.choices

    def weave(self) -> Difference:
        matching = self.rows.match(edge_limit=SHOWN_EDGES)
        partner = dict(matching.pairs)
        due_left, given_left = list(matching.due_left), list(matching.given_left)
        chosen = self._spend_choices(due_left, given_left)
        repeated, given_left = self._copies(given_left, self.rows.given_keys, self._due_by_key())
        collapsed, due_left = self._copies(due_left, self.rows.due_keys, self._given_by_key())
        paired, partial = _pair_by_cells(self.rows, due_left, given_left)
        moved = self._moved({**partner, **paired, **chosen})
        woven: list[tuple[float, int, WovenRow]] = []
        ties = self._tie_groups()
        absent = set(due_left) - paired.keys()
        times = self._times(repeated, collapsed)
        counted = {self.rows.due_keys[at] for at in times}
        last_place = -1.0
        place_of_given: dict[int, float] = {}
        left_out = 0
        plain = set(partner) - moved - times.keys() - ties.keys() if self._is_large() else set()
        for at in range(len(self.due)):
            if at in plain and self.rows.due_keys[at] not in counted:
                place_of_given[self.given_places[partner[at]]] = float(at)
                left_out += at >= KEPT_ROWS
                if at >= KEPT_ROWS:
                    continue
            if self.rows.due_keys[at] in counted and at not in times:
                continue
            row = self._due_row(at, partner, paired, chosen, absent, times, moved, ties)
            last_place = float(at)
            woven.append((last_place, 0, row))
            if row.given_at is not None:
                place_of_given[row.given_at] = last_place
        extra = set(given_left) - set(paired.values())
        before = -0.5
        for at in range(len(self.given)):
            place = self.given_places[at]
            if place in place_of_given:
                before = place_of_given[place]
            elif at in extra:
                row = WovenRow("extra", None, self.given[at], None, place)
                woven.append((before, 1 + at, row))
        woven.sort(key=lambda item: item[:2])
        rows = tuple(row for _, _, row in woven)
        counts = Counter(row.kind for row in rows)
        if left_out:
            counts["agrees"] += left_out
        return Difference(rows, partial, left_out, counts)

    def _is_large(self) -> bool:
        return len(self.due) > LARGE_ROWS

    def _due_row(
        self,
        at: int,
        partner: dict[int, int],
        paired: dict[int, int],
        chosen: dict[int, int],
        absent: set[int],
        times: dict[int, tuple[int, int]],
        moved: set[int],
        ties: dict[int, int],
    ) -> WovenRow:
        due, place, tie = self.due[at], self.due_places[at], ties.get(at)
        if at in absent:
            return WovenRow("absent", due, None, place, None, tie=tie)
        other = partner.get(at, paired.get(at, chosen.get(at)))
        if other is None:  # one of several copies, of which fewer were given
            return WovenRow("times", due, None, place, None, times=times[at], tie=tie)
        given, given_place = self.given[other], self.given_places[other]
        if at in paired:
            wrong = _wrong_cells(due, given, self.cells)
            return WovenRow("differs", due, given, place, given_place, wrong, tie=tie)
        if at in chosen:
            return WovenRow("tie", given, given, place, given_place, tie=tie)
        if at in times:
            return WovenRow("times", due, given, place, given_place, times=times[at], tie=tie)
        kind: RowKind = "agrees"
        if at in moved:
            kind = "moved"
        elif tie is not None and self.mode == "ties_free" and other != at:
            kind = "tie"
        return WovenRow(kind, due, given, place, given_place, tie=tie)

    def _spend_choices(self, due_left: list[int], given_left: list[int]) -> dict[int, int]:
        """Given rows that a cut tie allows in place of those that the reference happened to keep.

        Takes them out of the two lists; returns which given row stands for which due row.
        """
        if not self.choices or not due_left or not given_left:
            return {}
        ranks = self.ranks or [0] * len(self.due)
        open_places: dict[int, list[int]] = defaultdict(list)
        for at in due_left:
            open_places[ranks[at]].append(at)
        pool = RowComparison(
            self.cells,
            [choice.row for choice in self.choices],
            [self.given[at] for at in given_left],
        )
        chosen: dict[int, int] = {}
        for spare, other in pool.match().pairs:
            places = open_places.get(self.choices[spare].rank)
            if places:
                chosen[places.pop(0)] = given_left[other]
        due_left[:] = [at for at in due_left if at not in chosen]
        taken = set(chosen.values())
        given_left[:] = [at for at in given_left if at not in taken]
        return chosen

    def _due_by_key(self) -> set[Hashable]:
        return set(self.rows.due_keys)

    def _given_by_key(self) -> set[Hashable]:
        return set(self.rows.given_keys)

    def _copies(
        self, left: list[int], keys: Sequence[Hashable], others: set[Hashable]
    ) -> tuple[set[int], list[int]]:
        """Splits left-over rows into those that the other side has too, and those it has not."""
        copies = {at for at in left if keys[at] in others}
        return copies, [at for at in left if at not in copies]

    def _times(self, repeated: set[int], collapsed: set[int]) -> dict[int, tuple[int, int]]:
        """For the first due copy of each row that is not given as often as due: (due, given)."""
        keys = {self.rows.given_keys[at] for at in repeated}
        keys |= {self.rows.due_keys[at] for at in collapsed}
        if not keys:
            return {}
        due_counts = Counter(key for key in self.rows.due_keys if key in keys)
        given_counts = Counter(key for key in self.rows.given_keys if key in keys)
        times: dict[int, tuple[int, int]] = {}
        met: set[Hashable] = set()
        for at, key in enumerate(self.rows.due_keys):
            if key in keys and key not in met:
                met.add(key)
                times[at] = (due_counts[key], given_counts[key])
        return times

    def _tie_groups(self) -> dict[int, int]:
        if self.ranks is None or self.mode != "ties_free":
            return {}
        sizes = Counter(self.ranks)
        cut = {choice.rank for choice in self.choices}
        return {at: rank for at, rank in enumerate(self.ranks) if sizes[rank] > 1 or rank in cut}

    def _moved(self, partner: dict[int, int]) -> set[int]:
        """The due rows that would have to move: all outside a longest rising run of places."""
        if self.mode == "free":
            return set()
        ranks = self.ranks if self.mode == "ties_free" and self.ranks is not None else None
        # Read in given order, the tie groups of the rows must not fall.
        in_order = sorted(partner, key=partner.__getitem__)
        level = [ranks[at] if ranks else at for at in in_order]
        kept = _longest_rising(level)
        return {at for place, at in enumerate(in_order) if place not in kept}


def _longest_rising(levels: Sequence[int]) -> set[int]:
    """Indexes of a longest run that never falls (patience sorting)."""
    tops: list[tuple[int, int]] = []
    piles: list[int] = []
    previous: list[int | None] = []
    for at, level in enumerate(levels):
        pile = bisect_left(tops, (level, at))
        previous.append(piles[pile - 1] if pile else None)
        if pile == len(tops):
            tops.append((level, at))
            piles.append(at)
        else:
            tops[pile] = (level, at)
            piles[pile] = at
    kept: set[int] = set()
    walk = piles[-1] if piles else None
    while walk is not None:
        kept.add(walk)
        walk = previous[walk]
    return kept


def _wrong_cells(due: Row, given: Row, cells: CellComparison) -> tuple[int, ...]:
    return tuple(
        at
        for at, (one, other) in enumerate(zip(due, given, strict=True))
        if not cells.equal(one, other)
    )


def _pair_by_cells(
    rows: RowComparison, due_left: list[int], given_left: list[int]
) -> tuple[dict[int, int], bool]:
    """Pairs left-over rows so that as many cells as possible agree; rare values weigh more.

    Returns the pairs and whether there were more rows than are looked at. Two rows pair when at
    least half of their cells agree or nearly do, or a value that tells rows apart agrees.
    """
    if not due_left or not given_left:
        return {}, False
    if len(rows.due) == len(rows.given) == 1:
        return {0: 0}, False
    partial = max(len(due_left), len(given_left)) > PAIRED_ROWS
    rows_at, columns_at = due_left[:PAIRED_ROWS], given_left[:PAIRED_ROWS]
    width = len(rows.due[0])
    import numpy as np

    shape = (len(rows_at), len(columns_at))
    agreeing = np.zeros(shape, dtype=np.int16)
    weight = np.zeros(shape)
    telling = np.zeros(shape, dtype=bool)
    for column in range(width):
        counts = Counter(key[column] for key in rows.due_keys)  # type: ignore[index]
        ours = [rows.due_keys[at][column] for at in rows_at]  # type: ignore[index]
        theirs = [rows.given_keys[at][column] for at in columns_at]  # type: ignore[index]
        one = [rows.due[at][column] for at in rows_at]
        other = [rows.given[at][column] for at in columns_at]
        same = _equal_codes(ours, theirs)
        if column in rows.tolerant:
            same |= _within(one, other, rows.cells.rules.number_tolerance or _USUAL)
        near = _equal_codes(list(map(_loose_key, one)), list(map(_loose_key, other)))
        near |= _within(one, other, _NEAR)
        near &= ~same
        rarity = np.array([1 / counts[key] for key in ours])[:, None]
        agreeing += same
        agreeing += near
        weight += same * (1 + rarity) + near * 0.5
        if len(counts) > 1:
            telling |= same & (rarity >= 1)
    may_pair = (2 * agreeing >= width) & (agreeing > 0) | telling
    weight[~may_pair] = 0
    return {rows_at[i]: columns_at[j] for i, j in _assigned(weight) if may_pair[i, j]}, partial


def _assigned(weight: NDArray[np.float64]) -> Iterator[tuple[int, int]]:
    """Pairs of a row and a column with the largest sum of weights.

    Where each row's best column is no other row's best, nothing has to be weighed up; otherwise
    the Hungarian method settles it.
    """
    best = weight.argmax(axis=1).tolist()
    if len(set(best)) == len(best):
        return enumerate(best)
    from scipy.optimize import linear_sum_assignment

    chosen = linear_sum_assignment(-weight)
    return zip(*(part.tolist() for part in chosen), strict=True)


def _equal_codes(one: Sequence[Hashable], other: Sequence[Hashable]) -> NDArray[np.bool_]:
    """Which keys of two columns are equal."""
    import numpy as np

    codes: dict[Hashable, int] = {}
    first = np.array([codes.setdefault(key, len(codes)) for key in one])
    second = np.array([codes.setdefault(key, len(codes)) for key in other])
    same: NDArray[np.bool_] = first[:, None] == second
    return same


def _within(
    one: Sequence[Value], other: Sequence[Value], bounds: NumberTolerance
) -> NDArray[np.bool_]:
    """Which numbers of two columns lie within bounds. In floats: good enough for pairing."""
    import numpy as np

    ours = np.array(list(map(_as_number, one)))[:, None]
    theirs = np.array(list(map(_as_number, other)))
    with np.errstate(invalid="ignore"):
        gap = abs(ours - theirs)
        largest = np.maximum(abs(ours), abs(theirs))
        near: NDArray[np.bool_] = (gap <= bounds.absolute) | (gap <= bounds.relative * largest)
    return near


def _loose_key(value: Value) -> Hashable:
    """One key for values that look alike: the printed form, letter case and blanks aside."""
    return str(value) if type(value) is int else _LOOSE.key(value)


def _as_number(value: Value) -> float:
    if isinstance(value, int | float | Decimal):
        try:
            return float(value)
        except OverflowError:
            return float("nan")
    return float("nan")
