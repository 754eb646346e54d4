"""Two edits that together turn a wrong query into a right one: for those who ask for it.

All pairs would be tens of thousands. A first edit is gone on with only where it brings the query
nearer: where it is right on some of the rows on which the query itself is wrong.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import islice
from typing import Final

from jentrow.core.exercises.distinguishing.bench import Bench, MadeDataset
from jentrow.core.exercises.distinguishing.near_misses import NearMiss, near_miss_of, near_misses
from jentrow.core.exercises.distinguishing.smallest_example import distinguishing_datasets
from jentrow.core.sql.edits.catalogue import edits_of
from jentrow.core.sql.edits.edit import Edit

SECONDS: Final = 4.0
_TELLING: Final = 16
_GONE_ON_WITH: Final = 24


def two_edits(bench: Bench, sql: str, is_right: Callable[[str], bool]) -> tuple[NearMiss, ...]:
    """The first edit, and the second one of the text that it leaves; nothing where none are found.

    ``is_right`` tells whether a text is right on every dataset of the exercise.
    """
    draft = bench.draft(sql, bench.answers)
    if draft is None:
        return ()
    budget = bench.budget(SECONDS)
    telling = list(islice(distinguishing_datasets(bench, sql, draft), _TELLING))
    if not telling:
        return ()
    for first in _nearer(bench, telling, edits_of(draft)):
        if budget.is_spent:
            break
        found = near_misses(bench, first.edited, is_right, 1)
        if found:
            return (near_miss_of(first), found[0])
    return ()


def _nearer(bench: Bench, telling: list[MadeDataset], edits: list[Edit]) -> list[Edit]:
    """The edits that are right on the most datasets, the likeliest first among equals."""
    right: dict[int, int] = {}
    runs: dict[int, bool] = {}
    for dataset in telling:
        bench.scratch.fill(dataset.rows)
        for at, edit in enumerate(edits):
            if runs.get(at) is False:
                continue
            given = bench.run(edit.edited)
            runs[at] = given is not None
            if bench.is_right(given, dataset.due):
                right[at] = right.get(at, 0) + 1
    order = sorted(right, key=lambda at: (-right[at], at))
    # Where nothing is right anywhere yet, the likeliest are as good as any.
    rest = [at for at in range(len(edits)) if at not in right and runs.get(at)]
    return [edits[at] for at in (*order, *rest)[:_GONE_ON_WITH]]
