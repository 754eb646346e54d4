"""Held-back datasets made to measure: a few small ones that tell every edit apart that can be."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice
from typing import Final

from jentrow.core.exercises.distinguishing.bench import Bench, Budget, MadeDataset
from jentrow.core.exercises.distinguishing.blind_spots import LEAST_LIKELY, told_by_made_rows
from jentrow.core.exercises.distinguishing.shrinking import shrunk
from jentrow.core.samples.generated.made_rows import MadeRows
from jentrow.core.sql.edits.catalogue import edits_of
from jentrow.core.sql.edits.edit import Edit

SECONDS: Final = 6.0
MOST: Final = 6
_TRIED: Final = 240
_SEED: Final = 11


@dataclass(frozen=True)
class MadeToMeasure:
    """Datasets that together tell apart ``told`` of ``edits``; the same ones each time."""

    datasets: tuple[MadeRows, ...]
    told: int
    edits: int


def made_to_measure(bench: Bench) -> MadeToMeasure:
    """A few small datasets that look like the open data and see every mistake that can be seen.

    Each next one is the dataset that sees the most that those before it do not, the smaller one
    among equals.
    """
    budget = bench.budget(SECONDS)
    draft = bench.draft(bench.measure.answers[0].sql)
    if draft is None:
        return MadeToMeasure((), 0, 0)
    likely = [edit for edit in edits_of(draft) if edit.likelihood >= LEAST_LIKELY]
    found, _ = told_by_made_rows(bench, likely, budget)
    edits = [one.edit for one in found]
    seen: list[tuple[MadeDataset, frozenset[int]]] = []
    for usual in (True, False):
        for dataset in islice(bench.making((), usual=usual, seed=_SEED), bench.count(_TRIED // 2)):
            if budget.is_spent:
                break
            seen.append((dataset, _told_by(bench, dataset, edits)))
    chosen: list[MadeRows] = []
    told: set[int] = set()
    while seen and len(chosen) < MOST:
        best, new = max(seen, key=lambda one: (len(one[1] - told), -one[0].size))
        if not new - told:
            break
        chosen.append(_fewer_rows(bench, best, edits, new - told, budget))
        told |= new
    return MadeToMeasure(tuple(chosen), len(told), len(edits))


def _fewer_rows(
    bench: Bench,
    dataset: MadeDataset,
    edits: Sequence[Edit],
    needed: frozenset[int],
    budget: Budget,
) -> MadeRows:
    """A dataset without the rows that it does not need to tell some edits apart."""
    tables = list(bench.all_tables(dataset.rows).values())
    wanted = [edits[at] for at in sorted(needed)]

    def still_tells(rows: MadeRows) -> bool:
        due = None if budget.is_spent else bench.due(rows)
        if due is None:
            return False
        told = _told_by(bench, MadeDataset(rows, due), wanted)
        return len(told) == len(wanted)

    return shrunk(dataset.rows, tables, still_tells, bench.open_data.held)


def _told_by(bench: Bench, dataset: MadeDataset, edits: Sequence[Edit]) -> frozenset[int]:
    """The edits, by their places in the list, that a dataset surely tells from the reference."""
    bench.scratch.fill(dataset.rows)
    suspects = [
        at
        for at, edit in enumerate(edits)
        if not bench.is_right(bench.run(edit.edited), dataset.due)
    ]
    if not suspects:
        return frozenset()
    bench.scratch.fill(dataset.rows, backwards=True)
    if not bench.is_right(bench.run(bench.measure.answers[0].sql), dataset.due[:1]):
        return frozenset()
    return frozenset(
        at for at in suspects if not bench.is_right(bench.run(edits[at].edited), dataset.due)
    )
