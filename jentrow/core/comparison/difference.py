"""The difference between what is due and what is given, row by row: the woven table.

Rows that agree are woven together; what is left over on both sides is paired by how many cells
agree, so that a wrong cell reads as a wrong cell and not as one row missing and another extra.
"""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, field
from operator import itemgetter
from typing import Final, Literal, NamedTuple, TypeAlias

from jentrow.core.comparison.alignment import (
    Alignment,
    assigned,
    equal_cells,
    equal_codes,
    within,
)
from jentrow.core.comparison.cells import CellComparison
from jentrow.core.comparison.order import OrderMode
from jentrow.core.comparison.rows import RowComparison
from jentrow.core.comparison.rules import ComparisonRules, NumberTolerance
from jentrow.core.results import Expectation, Row
from jentrow.core.values import Value

PAIRED_ROWS: Final = 400
"""Left-over rows of each side that are paired by agreeing cells; the rest stay as they are."""

LARGE_ROWS: Final = 20_000
KEPT_ROWS: Final = 1_000
"""Of results larger than ``LARGE_ROWS``, agreeing rows after the first so many are only counted."""

_LOOSE: Final = CellComparison(
    ComparisonRules(value_types="printed", text_case="ignore", text_space="collapse")
)
_NEAR: Final = NumberTolerance(0.999, 0.005)
"""Cells that are not equal but look it: they may still belong to one and the same row."""

RowKind: TypeAlias = Literal["agrees", "absent", "extra", "differs", "moved", "times", "tie"]
"""How a woven row stands to the two sides.

``agrees`` on both sides alike; ``absent`` due and not given; ``extra`` given and not due;
``differs`` on both sides with other cells; ``moved`` on both sides, out of order; ``times`` on
both sides, not equally often (one woven row for all copies); ``tie`` on both sides, in another order than the reference's, which
is right because the rows tie.
"""


class WovenRow(NamedTuple):
    """One row of the woven table; a tuple, for there is one of each row of each wrong answer.

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


def weave(expectation: Expectation, aligned: Alignment, mode: OrderMode) -> Difference:
    """Weaves the rows of both sides, once it is known which stand together."""
    return _Loom(expectation, aligned, mode).weave()


class _Loom:
    def __init__(self, expectation: Expectation, aligned: Alignment, mode: OrderMode) -> None:
        self.aligned = aligned
        self.rows = aligned.rows
        self.cells = aligned.rows.cells
        self.mode = mode
        self.due, self.given = aligned.rows.due, aligned.rows.given
        self.due_places, self.given_places = aligned.due_places, aligned.given_places
        ranks = expectation.ranks
        self.ranks = None if ranks is None else [ranks[at] for at in aligned.due_places]
        self.choices = expectation.choices

    def weave(self) -> Difference:
        partner, chosen = self.aligned.partner, self.aligned.chosen
        due_left, given_left = list(self.aligned.due_left), list(self.aligned.given_left)
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
            wrong = self._wrong_cells(at, other)
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

    def _wrong_cells(self, at: int, other: int) -> tuple[int, ...]:
        """The columns in which a due row and a given one differ."""
        rows, cells = self.rows, self.cells
        keys = zip(rows.due_keys[at], rows.given_keys[other], strict=True)  # type: ignore[call-overload]
        unequal = [column for column, (one, its) in enumerate(keys) if one != its]
        if rows.tolerant:
            unequal = [
                column
                for column in unequal
                if column not in rows.tolerant
                or not cells.equal(rows.due[at][column], rows.given[other][column])
            ]
        return tuple(unequal)

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
        levels = self.aligned.levels
        if levels is None:
            return set()
        # Read in given order, the tie groups of the rows must not fall.
        in_order = sorted(partner, key=partner.__getitem__)
        kept = _longest_rising([levels[at] for at in in_order])
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


def _pair_by_cells(
    rows: RowComparison, due_left: list[int], given_left: list[int]
) -> tuple[dict[int, int], bool]:
    """Pairs left-over rows so that as many cells as possible agree; rare values break a draw.

    Returns the pairs and whether there were more rows than are looked at. Rows are partners only
    where that says something: more than half of their cells agree, or half of them with a value that
    no other due row has, or all cells agree or look alike. Such a value with less beside it is
    enough only where then no row of either side is left over. Where less than half of the shorter
    side would have partners, none has.
    """
    if not due_left or not given_left:
        return {}, False
    if len(rows.due) == len(rows.given) == 1:
        return {0: 0}, False
    partial = max(len(due_left), len(given_left)) > PAIRED_ROWS
    due, given = due_left[:PAIRED_ROWS], given_left[:PAIRED_ROWS]
    pairs = one_cell_apart(rows, due, given)
    if pairs is None:
        pairs = paired_by_weight(rows, due, given, may_be_all=not partial)
    return pairs, partial


def one_cell_apart(
    rows: RowComparison, due: Sequence[int], given: Sequence[int]
) -> dict[int, int] | None:
    """Left-over rows with the one row of the other side from which a single cell parts them.

    None unless each row of the shorter side has exactly one such partner, another one each. Then no
    other pairing has as many cells that agree, as rows in which all agree are not left over; and
    nothing needs to be weighed.
    """
    width = len(rows.due[0])
    if width < 3 or rows.tolerant:
        return None
    turned = len(due) > len(given)
    shorter, longer = (given, due) if turned else (due, given)
    own, others = (rows.given_keys, rows.due_keys) if turned else (rows.due_keys, rows.given_keys)
    candidates: list[set[int | None]] = [set() for _ in shorter]
    for column in range(width):
        without = itemgetter(*(at for at in range(width) if at != column))
        places: dict[Hashable, int | None] = {}
        for at in longer:
            part = without(others[at])  # type: ignore[arg-type]
            places[part] = None if part in places else at
        for found, at in zip(candidates, shorter, strict=True):
            part = without(own[at])  # type: ignore[arg-type]
            if part in places:
                found.add(places[part])
    partners: dict[int, int] = {}
    for found, at in zip(candidates, shorter, strict=True):
        if len(found) != 1 or (partner := found.pop()) is None:
            return None
        partners[at] = partner
    if len(set(partners.values())) < len(partners):
        return None
    return {other: at for at, other in partners.items()} if turned else partners


def paired_by_weight(
    rows: RowComparison,
    rows_at: Sequence[int],
    columns_at: Sequence[int],
    *,
    may_be_all: bool,
) -> dict[int, int]:
    """Left-over rows of both sides, paired by the weight of what agrees in each pair.

    ``may_be_all`` says that no others are left over beside them.
    """
    import numpy as np

    width = len(rows.due[0])
    shape = (len(rows_at), len(columns_at))
    agreeing = np.zeros(shape, dtype=np.int16)
    alike = np.zeros(shape, dtype=np.int16)
    draw = np.zeros(shape)
    telling = np.zeros(shape, dtype=bool)
    for column in range(width):
        counts = Counter(key[column] for key in rows.due_keys)  # type: ignore[index]
        ours = [rows.due_keys[at][column] for at in rows_at]  # type: ignore[index]
        one = [rows.due[at][column] for at in rows_at]
        other = [rows.given[at][column] for at in columns_at]
        same = equal_cells(rows, column, rows_at, columns_at)
        near = equal_codes(list(map(_loose_key, one)), list(map(_loose_key, other)))
        near |= within(one, other, _NEAR)
        near &= ~same
        rarity = np.array([1 / counts[key] for key in ours])[:, None]
        agreeing += same
        alike += near
        draw += same * rarity + near
        if len(counts) > 1:
            telling |= same & (rarity >= 1)
    surely = (
        (2 * agreeing > width) | (agreeing + alike == width) | (telling & (2 * agreeing >= width))
    )
    weight = agreeing + draw / (2 * width * (min(shape) + 1))
    for may_pair in (surely | telling, surely):
        pairs = {
            rows_at[i]: columns_at[j]
            for i, j in assigned(np.where(may_pair, weight, 0)).items()
            if may_pair[i, j]
        }
        if may_be_all and len(pairs) == len(rows_at) == len(columns_at):
            break
    # A few partners among many rows left over are chance: other rows were chosen.
    by_chance = 2 * len(pairs) < min(len(rows_at), len(columns_at))
    return {} if by_chance else pairs


def _loose_key(value: Value) -> Hashable:
    """One key for values that look alike: the printed form, letter case and blanks aside."""
    return str(value) if type(value) is int else _LOOSE.key(value)
