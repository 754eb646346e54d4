"""Near misses: the single edits that turn a wrong query into a right one.

Such an edit is the exact explanation of a mistake, if it is right in general and not by coincidence
on the data at hand. So it is tried on rows made to tell: first on those on which the query itself
is wrong, then on a hundred more, and last on the exercise's own datasets.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import chain, islice
from typing import Any, Final

from jentrow.core.exercises.distinguishing.bench import Bench, Budget, MadeDataset
from jentrow.core.exercises.distinguishing.smallest_example import distinguishing_datasets
from jentrow.core.exercises.distinguishing.told_edits import ToldEdit, placed
from jentrow.core.sql.edits.catalogue import edits_of
from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Edit
from jentrow.core.sql.parsing import parsed

SECONDS: Final = 1.0
"""Time on the processor that looking for the near misses of one query may take."""

SHOWN: Final = 3
_TELLING: Final = 4
_MUCH_LESS: Final = 0.3
"""An edit that is so much less likely than the best one explains nothing better."""

_MADE: Final = 150
_OWN: Final = 40
"""Datasets that an edit has to be right on: the exercise's, and such as are made of the query's words."""

_CERTAIN: Final = 30
"""Further ones for what is to be shown, made of its own words too."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NearMiss(ToldEdit):
    """An edit that makes a wrong query right.

    ``in_words`` says what is to be done, without a stop; ``borrows`` that it takes something from
    the reference answer.
    """

    borrows: bool
    in_words: str

    def to_json(self) -> dict[str, Any]:
        """An entry of ``near_misses`` as ``jentrow compare --json`` prints it."""
        return ToldEdit.to_json(self) | {"borrows": self.borrows}


def near_miss_of(edit: Edit) -> NearMiss:
    """An edit that was found to be right, in words."""
    return NearMiss(
        **placed(edit),
        borrows=edit.borrows,
        in_words=edit.in_words,
        message=f"In line {edit.place.line}, {edit.in_words}: with this one change the query is right. "
        f"{edit.kind.mistake}",
    )


def near_misses(
    bench: Bench, sql: str, is_right: Callable[[str], bool], most: int = SHOWN
) -> tuple[NearMiss, ...]:
    """The near misses of a wrong query, the likeliest first; none where no single edit mends it.

    ``is_right`` tells whether a text is right on every dataset of the exercise.
    """
    draft = bench.draft(sql, bench.answers)
    if draft is None:
        return ()
    budget = bench.budget(SECONDS)
    telling = list(islice(distinguishing_datasets(bench, sql, draft), _TELLING))
    alive = edits_of(draft)
    for dataset in chain(telling, _more(bench, draft)):
        alive = _right_on(bench, dataset, alive, budget)
        if not alive:
            return ()
    found: list[NearMiss] = []
    explained: set[tuple[int, int]] = set()
    best: Edit | None = None
    for edit in alive:
        if budget.is_spent or len(found) == most:
            break
        if (edit.start, edit.end) in explained or not _says_more(edit, best):
            continue
        if _is_readable(edit, draft) and is_right(edit.edited) and _is_certain(bench, edit, draft):
            found.append(near_miss_of(edit))
            explained.add((edit.start, edit.end))
            best = best or edit
    return tuple(found)


def _says_more(edit: Edit, best: Edit | None) -> bool:
    """Whether a further way to mend a query is worth showing beside the best one."""
    if best is None:
        return True
    return edit.borrows <= best.borrows and edit.likelihood > best.likelihood - _MUCH_LESS


def _more(bench: Bench, draft: Draft) -> Iterator[MadeDataset]:
    yield from bench.first_made(bench.count(_MADE))
    yield from islice(bench.making((draft,), seed=1), bench.count(_OWN))


def _right_on(
    bench: Bench, dataset: MadeDataset, edits: Sequence[Edit], budget: Budget
) -> list[Edit]:
    """Those of some edits that are right on a dataset; all that there was no time for are not."""
    bench.scratch.fill(dataset.rows)
    right: list[Edit] = []
    for at, edit in enumerate(edits):
        if at % 16 == 0 and budget.is_spent:
            break
        if bench.is_right(bench.run(edit.edited), dataset.due):
            right.append(edit)
    return right


def _is_readable(edit: Edit, draft: Draft) -> bool:
    """Whether the patched text is a query that differs from the old one."""
    tree = parsed(edit.edited, draft.dialect)
    return tree is not None and tree != draft.tree


def _is_certain(bench: Bench, edit: Edit, draft: Draft) -> bool:
    """Whether an edit is right on many datasets that are made of its own words too."""
    edited = bench.draft(edit.edited)
    drafts = (draft,) if edited is None else (draft, edited)
    for dataset in islice(bench.making(drafts, seed=2), _CERTAIN):
        bench.scratch.fill(dataset.rows)
        if not bench.is_right(bench.run(edit.edited), dataset.due):
            return False
    return True
