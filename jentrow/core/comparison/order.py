"""Whether rows come in an order that the reference allows, ties being free.

The expected rows fall into *segments*: runs of rows that tie on the reference's sort keys. Any
order inside a segment is right. A LIMIT that cuts through a tie leaves a choice: the segment then
has more rows to choose from than places.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import groupby
from typing import Literal, TypeAlias

from jentrow.core.comparison.cells import CellComparison
from jentrow.core.comparison.rows import RowComparison, surely_same_bag
from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.errors import ReferenceFails
from jentrow.core.results import Expectation, Row

OrderMode: TypeAlias = Literal["free", "ties_free", "as_listed"]


@dataclass(frozen=True, slots=True)
class Segment:
    """Consecutive places of a result, and the rows that may stand there (at least as many)."""

    places: int
    rows: tuple[Row, ...]
    rank: int


def order_mode(rules: ComparisonRules, reference: Expectation, answer: Expectation) -> OrderMode:
    """How far the order of rows counts when ``answer`` (reference or alternative) is the measure.

    Raises :class:`ReferenceFails` where order counts but an answer does not order its rows.
    """
    match rules.row_order:
        case "ignore":
            return "free"
        case "auto":
            mode: OrderMode = "ties_free" if reference.ordered else "free"
        case "required":
            mode = "ties_free"
            if not reference.ordered:
                raise ReferenceFails(
                    "row_order is required, but the reference answer has no ORDER BY: add one, or "
                    "choose row_order ignore."
                )
        case "as_listed":
            mode = "as_listed"
    if mode != "free" and answer is not reference and not answer.ordered:
        raise ReferenceFails(
            "the order of rows counts in this exercise, but this accepted alternative has no "
            "ORDER BY: add one."
        )
    return mode


def segments_of(expectation: Expectation, mode: OrderMode) -> list[Segment]:
    """The segments in their order: one for everything where order is free."""
    rows = expectation.result.rows
    if mode == "free":
        chosen = tuple(choice.row for choice in expectation.choices)
        if not chosen:
            return [Segment(len(rows), tuple(rows), 0)]
        # A cut tie leaves a choice even where order is free: the rest of the rows is due as it is.
        return _by_rank(expectation)
    if mode == "as_listed" or expectation.ranks is None:
        return [Segment(1, (row,), at) for at, row in enumerate(rows)]
    return _by_rank(expectation)


def _by_rank(expectation: Expectation) -> list[Segment]:
    rows = expectation.result.rows
    ranks = expectation.ranks or (0,) * len(rows)
    spare: dict[int, list[Row]] = {}
    for choice in expectation.choices:
        spare.setdefault(choice.rank, []).append(choice.row)
    segments = []
    for rank, run in groupby(range(len(rows)), key=ranks.__getitem__):
        kept = [rows[at] for at in run]
        segments.append(Segment(len(kept), (*kept, *spare.get(rank, ())), rank))
    return segments


def rows_agree(
    expectation: Expectation,
    given: Sequence[Row],
    mode: OrderMode,
    rules: ComparisonRules,
    cells: CellComparison,
) -> bool:
    """Whether the given rows are what is due; the columns of both sides stand in the same order."""
    if rules.duplicates == "ignore":
        return _sets_agree(expectation, given, mode, cells)
    rows = expectation.result.rows
    if len(rows) != len(given):
        return False
    if mode == "free" and not expectation.choices:
        if surely_same_bag(rows, given, rules):
            return True
        compared = RowComparison(cells, rows, given, expectation.held_types)
        return compared.same_bag(differ_as_is=True)
    if mode == "free":
        return _choice_agrees(expectation, given, cells)
    if mode == "as_listed":
        return all(map(cells.rows_equal, rows, given))
    start = 0
    for segment in segments_of(expectation, mode):
        part = given[start : start + segment.places]
        if not _fills(segment, part, cells):
            return False
        start += segment.places
    return True


def _fills(segment: Segment, given: Sequence[Row], cells: CellComparison) -> bool:
    """Whether the rows can stand in the segment's places."""
    if len(segment.rows) == 1:
        return len(given) == 1 and cells.rows_equal(segment.rows[0], given[0])
    rows = RowComparison(cells, segment.rows, given)
    if len(segment.rows) == segment.places:
        return rows.same_bag()
    return len(given) == segment.places and not rows.largest_match().given_left


def _choice_agrees(expectation: Expectation, given: Sequence[Row], cells: CellComparison) -> bool:
    """Order is free, but the LIMIT cut a tie: whole ties are due, of cut ties a choice.

    Every given row needs a partner among all rows, and the rows of whole ties one among the given.
    Where both hold there is one matching that does both (Mendelsohn and Dulmage), and since the
    counts agree it takes just as many from the cut ties as were due.
    """
    cut = {choice.rank for choice in expectation.choices}
    ranks = expectation.ranks or (0,) * len(expectation.result.rows)
    whole = [
        row for row, rank in zip(expectation.result.rows, ranks, strict=True) if rank not in cut
    ]
    pool = [*expectation.result.rows, *(choice.row for choice in expectation.choices)]
    if RowComparison(cells, pool, given).largest_match().given_left:
        return False
    if RowComparison(cells, whole, given).largest_match().due_left:
        return False
    return len(cut) == 1 or _flow_agrees(_by_rank(expectation), given, cells)


def _flow_agrees(segments: list[Segment], given: Sequence[Row], cells: CellComparison) -> bool:
    """Two cut ties (an OFFSET cuts one, a LIMIT another), each with its own number of places.

    A question of flow: source → ties (their places) → rows → given rows → sink.
    """
    import numpy as np
    from scipy.sparse import csr_array
    from scipy.sparse.csgraph import maximum_flow

    pool = [row for segment in segments for row in segment.rows]
    owner = [at for at, segment in enumerate(segments) for _ in segment.rows]
    first_row = 1 + len(segments)
    first_given = first_row + len(pool)
    sink = first_given + len(given)
    edges: list[tuple[int, int, int]] = [
        (0, 1 + at, segment.places) for at, segment in enumerate(segments)
    ]
    edges += [(1 + tie, first_row + at, 1) for at, tie in enumerate(owner)]
    edges += [
        (first_row + at, first_given + other, 1)
        for at, row in enumerate(pool)
        for other, candidate in enumerate(given)
        if cells.rows_equal(row, candidate)
    ]
    edges += [(first_given + at, sink, 1) for at in range(len(given))]
    starts, ends, room = (np.array(part, dtype=np.int32) for part in zip(*edges, strict=True))
    graph = csr_array((room, (starts, ends)), shape=(sink + 1, sink + 1))
    return int(maximum_flow(graph, 0, sink).flow_value) == len(given)


def _sets_agree(
    expectation: Expectation, given: Sequence[Row], mode: OrderMode, cells: CellComparison
) -> bool:
    rows = expectation.result.rows
    if not expectation.choices:
        if mode == "free":
            return RowComparison(cells, rows, given).same_set()
        firsts = first_occurrences(rows, cells)
        given_firsts = [given[at] for at in first_occurrences(given, cells)]
        ranks = expectation.ranks
        reduced = Expectation(
            type(expectation.result)(expectation.result.columns, [rows[at] for at in firsts]),
            expectation.ordered,
            None if ranks is None else tuple(ranks[at] for at in firsts),
        )
        return rows_agree(
            reduced, given_firsts, mode, replace(cells.rules, duplicates="count"), cells
        )
    return _chosen_sets_agree(segments_of(expectation, mode), given, mode, cells)


def _chosen_sets_agree(
    segments: list[Segment], given: Sequence[Row], mode: OrderMode, cells: CellComparison
) -> bool:
    """Whether some choice among cut ties is the same set of rows, repeats not counting."""
    firsts = [given[at] for at in first_occurrences(given, cells)]
    start = 0
    met: list[Row] = []
    for segment in segments:
        rest = firsts[start:]
        known = [row for row in segment.rows if any(cells.rows_equal(row, old) for old in met)]
        if len(segment.rows) == segment.places:
            new = [segment.rows[i] for i in first_occurrences(segment.rows, cells)]
            new = [row for row in new if not any(cells.rows_equal(row, old) for old in known)]
            part = (
                rest[: len(new)] if mode != "free" else [r for r in rest if _among(r, new, cells)]
            )
            if not RowComparison(cells, new, part).same_set():
                return False
            taken = part
        else:
            taken = []
            for row in rest:
                if not _among(row, segment.rows, cells):
                    if mode != "free":
                        break
                    continue
                taken.append(row)
            copies = sum(1 for row in segment.rows if _among(row, taken, cells)) + len(known)
            if copies < segment.places or len(taken) > segment.places:
                return False
            if not taken and not known and segment.places:
                return False
        met.extend(taken)
        if mode == "free":
            firsts = [row for row in firsts if not _among(row, taken, cells)]
        else:
            start += len(taken)
    return start == len(firsts) if mode != "free" else not firsts


def _among(row: Row, rows: Sequence[Row], cells: CellComparison) -> bool:
    return any(cells.rows_equal(row, other) for other in rows)


def first_occurrences(rows: Sequence[Row], cells: CellComparison) -> list[int]:
    """The places of rows that equal no earlier row."""
    compared = RowComparison(cells, rows, rows)
    seen: set[object] = set()
    firsts: list[int] = []
    for at, key in enumerate(compared.due_keys):
        if key not in seen:
            seen.add(key)
            firsts.append(at)
    if not compared.tolerant or len(firsts) < 2:
        return firsts
    kept: list[int] = []
    keys: dict[object, list[int]] = {}
    tolerant = frozenset(compared.tolerant)
    for at in firsts:
        bucket = cells.bucket(rows[at], tolerant)
        alike = keys.setdefault(bucket, [])
        if not any(cells.rows_equal(rows[at], rows[other]) for other in alike):
            alike.append(at)
            kept.append(at)
    return kept
