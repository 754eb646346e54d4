"""Marks by parts: whatever is right in more never earns less."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.comparison.shares import ResultShares, shares_of
from jentrow.core.exercises.markscheme import MarkScheme, TextParts, settle
from tests.core.comparison.build import compared, due, result

BY_PARTS = MarkScheme("by_parts")


@dataclass(frozen=True)
class Wrongs:
    """What is wrong with a result: places of the due one."""

    cells: frozenset[tuple[int, int]] = frozenset()
    dropped: frozenset[int] = frozenset()
    extra: int = 0
    columns: frozenset[int] = frozenset()
    swapped: frozenset[int] = field(default_factory=frozenset)

    def result_of(self, rows: list[tuple[Any, ...]], width: int) -> list[tuple[Any, ...]]:
        given = []
        for at, row in enumerate(rows):
            cells = [f"wrong {at} {c}" if (at, c) in self.cells else row[c] for c in range(width)]
            given.append((at, tuple(cells)))
        for at in sorted(self.swapped):
            if at + 1 < len(given):
                given[at], given[at + 1] = given[at + 1], given[at]
        kept = [row for at, row in given if at not in self.dropped]
        kept += [tuple(f"extra {n} {c}" for c in range(width)) for n in range(self.extra)]
        return [tuple(row[c] for c in range(width) if c not in self.columns) for row in kept]


@st.composite
def cases(draw: st.DrawFn) -> tuple[list[tuple[Any, ...]], int, Wrongs, Wrongs]:
    """Due rows, and two results: what is wrong with the first is part of what is with the second."""
    width = draw(st.integers(1, 4))
    cell = st.sampled_from([0, 1, 2, "a", "b", None])
    rows = draw(st.lists(st.tuples(*[cell] * width), min_size=1, max_size=6))
    places = [(at, c) for at in range(len(rows)) for c in range(width)]

    def part(whole: frozenset[Any]) -> frozenset[Any]:
        return frozenset(one for one in sorted(whole) if draw(st.booleans()))

    # Columns that are left out last, so that the rest keep their places.
    left_out = frozenset(range(draw(st.integers(1, width)), width))
    extra = draw(st.integers(0, 3))
    cells = draw(st.frozensets(st.sampled_from(places), max_size=6))
    swapped = draw(st.frozensets(st.integers(0, len(rows) - 1), max_size=2))
    # Leaving out a row that is wrong or out of place would make a result no worse.
    touched = {at for at, _ in cells} | swapped | {at + 1 for at in swapped}
    dropped = draw(st.frozensets(st.integers(0, len(rows) - 1), max_size=3)) - touched
    more = Wrongs(cells, dropped, extra, left_out, swapped)
    fewer = Wrongs(
        part(more.cells),
        part(more.dropped),
        draw(st.integers(0, extra)),
        left_out if draw(st.booleans()) else frozenset(),
        more.swapped if draw(st.booleans()) else frozenset(),
    )
    return rows, width, fewer, more


def earned(rows: list[tuple[Any, ...]], wrongs: Wrongs, width: int, *, ordered: bool) -> float:
    ranks = list(range(len(rows))) if ordered else None
    given_rows = wrongs.result_of(rows, width)
    names = " ".join(f"c{c}" for c in range(width) if c not in wrongs.columns)
    comparison = compared(
        due(rows, " ".join(f"c{c}" for c in range(width)), ranks, width=width),
        result(given_rows, names, width=width - len(wrongs.columns)),
    )
    return settle(100, BY_PARTS, comparison.verdict, shares_of(comparison), TextParts()).mark


@given(cases(), st.booleans())
def test_what_is_right_in_more_never_earns_less(
    case: tuple[list[tuple[Any, ...]], int, Wrongs, Wrongs], ordered: bool
) -> None:
    rows, width, fewer, more = case
    better, worse = (earned(rows, one, width, ordered=ordered) for one in (fewer, more))
    assert better >= worse, (rows, fewer, more)
    assert earned(rows, Wrongs(), width, ordered=ordered) == 100


HUTS = [("Ferner", 9, 2100), ("Kaltbach", 2, 1800), ("Steinkar", 6, 2540)]


@pytest.mark.parametrize(
    ("given_rows", "names", "shares"),
    [
        (HUTS, "name beds metres", ResultShares()),
        # The third column left out, and tried in vain: as many cells are right.
        ([row[:2] for row in HUTS], "name beds", ResultShares(Fraction(2, 3), Fraction(2, 3))),
        ([(*row[:2], "high") for row in HUTS], "name beds metres", ResultShares(Fraction(1), Fraction(2, 3))),
        (HUTS[:2], "name beds metres", ResultShares(Fraction(1), Fraction(2, 3))),
        ([*HUTS, ("x", "y", "z")], "name beds metres", ResultShares(Fraction(1), Fraction(3, 4))),
        ([row[::-1] for row in HUTS], "metres beds name", ResultShares(Fraction(1, 3), Fraction(1))),
        ([], "name beds metres", ResultShares(Fraction(1), Fraction(0))),
    ],
)  # fmt: skip
def test_rows_are_shared_out_over_all_due_columns(
    given_rows: Any, names: str, shares: ResultShares
) -> None:
    comparison = compared(due(HUTS, "name beds metres"), result(given_rows, names))
    assert shares_of(comparison) == shares


def test_a_missing_column_has_no_right_name() -> None:
    comparison = compared(
        due(HUTS, "name beds metres"), result([row[:2] for row in HUTS], "name seats"),
        column_names="exact",
    )  # fmt: skip
    assert shares_of(comparison).names == Fraction(1, 3)


def test_many_rows_share_their_cells_too() -> None:
    rows = [(at, at % 7, f"hut {at}") for at in range(3_000)]
    wrong = [(at, kind, "?") for at, kind, _ in rows]
    comparison = compared(due(rows), result(wrong))
    assert shares_of(comparison).rows == Fraction(2, 3)
    left_out = compared(due(rows), result([row[:2] for row in rows]))
    assert shares_of(left_out).rows == Fraction(2, 3)


def test_of_many_rows_each_finds_the_partner_that_it_shares_most_with() -> None:
    rows = [(at, f"hut {at}", f"pass {at}") for at in range(900)]
    wrong_in = [(2,), (0,), (0, 2)]
    wrong = [
        tuple("?" if column in wrong_in[row[0] % 3] else row[column] for column in range(3))
        for row in rows
    ]
    assert shares_of(compared(due(rows), result(wrong))).rows == Fraction(2 + 2 + 1, 9)


def test_of_two_datasets_each_part_has_its_smaller_share() -> None:
    one = ResultShares(Fraction(1), Fraction(1, 4), Fraction(3, 4), Fraction(1, 2))
    other = ResultShares(Fraction(1, 2), Fraction(1, 2), Fraction(1, 4), Fraction(1))
    least = ResultShares(Fraction(1, 2), Fraction(1, 4), Fraction(1, 4), Fraction(1, 2))
    assert one.least(other) == other.least(one) == least


@pytest.mark.parametrize("count", [900, 1_500])
def test_what_stands_in_place_of_many_rows(count: int) -> None:
    """Few rows are read pair by pair, many by their partners: the shares are the same."""
    rows = [(at, f"hut {at}") for at in range(count)]
    ranks = [at // 3 for at in range(count)]
    # Within a tie of three any order is right; every tenth tie stands at the very end.
    late = [row for row in rows if (row[0] // 3) % 10 == 0]
    given_rows = [row for row in rows if (row[0] // 3) % 10][::1] + late
    ordered = compared(due(rows, ranks=ranks), result(given_rows))
    assert shares_of(ordered).rows == 1
    assert shares_of(ordered).order == Fraction(count - len(late), count)
    tied = [row for start in range(0, count, 3) for row in rows[start : start + 3][::-1]]
    assert compared(due(rows, ranks=ranks), result(tied)).verdict == "correct"
    backwards = compared(due(rows, ranks=ranks), result(rows[::-1]))
    assert shares_of(backwards).order == Fraction(3, count)
