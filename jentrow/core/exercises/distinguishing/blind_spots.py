"""Blind spots: plausible wrong queries that an exercise's datasets cannot tell from its reference.

An edit of the reference counts as wrong only where made-up rows show that it is: what none of them
tells apart most likely says the same, and a false alarm is what makes people stop reading.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import chain, islice
from typing import Final

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import QueryFailure, Run
from jentrow.core.exercises.distinguishing.bench import Bench, Budget, MadeDataset
from jentrow.core.exercises.distinguishing.told_edits import ToldEdit, placed
from jentrow.core.samples.generated.made_rows import MadeRows
from jentrow.core.sql.edits.catalogue import edits_of
from jentrow.core.sql.edits.edit import Edit
from jentrow.core.sql.parsing import parsed

SECONDS: Final = 4.0
"""Time on the processor that looking through one exercise may take."""

SHARE_SECONDS: Final = 0.5
"""Time on the processor for asking the larger datasets about what a smaller one sees already."""

WITHIN: Final = Limits(seconds=0.2, rows=100_000)
"""What an edit may use on a dataset of the exercise; one that needs more is told apart by that."""

_MADE: Final = 120
_OF_EDITS: Final = 120
LEAST_LIKELY: Final = 0.3
"""Mistakes that are rarer are not looked for."""

LEAST_UNUSUAL: Final = 0.5
"""How likely a mistake has to be that only rows show which the open data never has."""


@dataclass(frozen=True, slots=True, kw_only=True)
class BlindSpot(ToldEdit):
    """A wrong query that passes. ``usual`` tells that rows like the open data would show it."""

    likelihood: float
    usual: bool


@dataclass(frozen=True, slots=True)
class SeenOn:
    """How many edits a dataset tells apart, of those that it was asked about."""

    dataset: str
    seen: int
    asked: int


@dataclass(frozen=True)
class Sight:
    """What an exercise's datasets see of the mistakes that learners could make.

    ``edits`` counts the edits of the reference that made-up rows tell from it; ``told_apart`` how
    many of them each dataset tells apart; ``alike`` those that nothing told apart. ``complete`` is
    false where time ran out.
    """

    edits: int
    alike: int
    told_apart: tuple[SeenOn, ...]
    blind_spots: tuple[BlindSpot, ...]
    complete: bool = True

    @property
    def seen(self) -> int:
        """How many of the edits some dataset tells apart."""
        return self.edits - len(self.blind_spots)


@dataclass(frozen=True, slots=True)
class _Wrong:
    """An edit that made-up rows tell from the reference: on some that look usual, or on others."""

    edit: Edit
    usual: bool


def sight_of(bench: Bench, ran: Run) -> Sight:
    """Looks through an exercise. ``ran`` runs a query on one of the exercise's own datasets."""
    budget = bench.budget(SECONDS)
    draft = bench.draft(bench.measure.answers[0].sql)
    names = bench.measure.dataset_names
    if draft is None:
        return Sight(0, 0, tuple(SeenOn(name, 0, 0) for name in names), ())
    edits = [edit for edit in edits_of(draft) if edit.likelihood >= LEAST_LIKELY]
    wrong, alike = told_by_made_rows(bench, edits, budget)
    looks = [_Look(bench, place, ran) for place in range(len(names))]
    by_size = sorted(looks, key=lambda one: one.rows)
    passing = list(range(len(wrong)))
    for look in by_size:  # what one dataset tells apart need not be asked of the next
        passing = [at for at in passing if not look.sees(at, wrong[at].edit, budget)]
    complete = not budget.is_spent
    shares = bench.budget(SHARE_SECONDS)
    for look in by_size:
        for at, one in enumerate(wrong):
            look.sees(at, one.edit, shares)
    passed = [
        one
        for one in (wrong[at] for at in passing)
        if (one.usual or one.edit.likelihood >= LEAST_UNUSUAL)
        and parsed(one.edit.edited, draft.dialect) is not None
    ]
    passed.sort(key=lambda one: (not one.usual, -one.edit.likelihood, one.edit.start))
    return Sight(
        len(wrong),
        alike,
        tuple(
            SeenOn(name, sum(look.known.values()), len(look.known))
            for name, look in zip(names, looks, strict=True)
        ),
        tuple(blind_spot_of(one.edit, usual=one.usual) for one in passed),
        complete,
    )


class _Look:
    """What one dataset of an exercise tells apart, as far as it has been asked."""

    def __init__(self, bench: Bench, place: int, ran: Run) -> None:
        self._bench, self._ran = bench, ran
        self._dataset = bench.measure.datasets[place]
        self._within = replace(WITHIN, minds_case=bench.measure.limits.minds_case)
        self._due = [expected[place] for expected in bench.measure.expectations]
        self.rows = sum(rows for _, rows in self._dataset.table_rows)
        self.known: dict[int, bool] = {}

    def sees(self, at: int, edit: Edit, budget: Budget) -> bool:
        """Whether it tells an edit from the reference; false, too, where there is no time to ask."""
        if at not in self.known:
            if budget.is_spent:
                return False
            found = self._ran(self._dataset, edit.edited, self._within)
            given = None if isinstance(found, QueryFailure) else found
            self.known[at] = not self._bench.is_right(given, self._due)
        return self.known[at]


def told_by_made_rows(
    bench: Bench, edits: Sequence[Edit], budget: Budget
) -> tuple[list[_Wrong], int]:
    """The edits that some made-up rows tell from the reference, and how many none does.

    Edits that do not run count as neither.
    """
    waiting = list(edits)
    wrong: dict[int, _Wrong] = {}
    failed: set[int] = set()
    edited = [one for one in (bench.draft(edit.edited) for edit in _of_each_kind(edits)) if one]
    for dataset in chain(
        bench.first_made(bench.count(_MADE)),
        islice(bench.making(edited, seed=3), bench.count(_OF_EDITS)),
    ):
        if budget.is_spent or not waiting:
            break
        waiting = _still_alike(bench, dataset, waiting, wrong, failed)
    alike = len(edits) - len(failed | {*wrong})
    return [wrong[id(edit)] for edit in edits if id(edit) in wrong], alike


def _of_each_kind(edits: Sequence[Edit]) -> list[Edit]:
    """The likeliest edit of each kind: their words are mentioned in further datasets."""
    first: dict[str, Edit] = {}
    for edit in edits:
        first.setdefault(edit.kind.name, edit)
    return list(first.values())


def _still_alike(
    bench: Bench,
    dataset: MadeDataset,
    edits: Sequence[Edit],
    wrong: dict[int, _Wrong],
    failed: set[int],
) -> list[Edit]:
    """Those of some edits that a dataset does not surely tell from the reference."""
    bench.scratch.fill(dataset.rows)
    usual = bench.is_usual(dataset.rows)
    suspects: list[Edit] = []
    alike: list[Edit] = []
    for edit in edits:
        if not usual and id(edit) in wrong:
            # What only unusual rows show may be shown by usual ones that are still to come.
            alike.append(edit)
            continue
        given = bench.run(edit.edited)
        if given is None:
            failed.add(id(edit))
        elif bench.is_right(given, dataset.due):
            alike.append(edit)
        else:
            suspects.append(edit)
    if not suspects:
        return alike
    sure = _sure_of(bench, dataset.rows, suspects)
    for edit in suspects:
        if id(edit) in sure:
            wrong[id(edit)] = _Wrong(edit, usual)
        if id(edit) not in sure or not usual:
            alike.append(edit)
    return alike


def _sure_of(bench: Bench, rows: MadeRows, edits: Sequence[Edit]) -> set[int]:
    """Those of some edits that differ whatever sequence rows come in that nobody sorts."""
    due = bench.due(rows)
    if due is None or not bench.scratch.fill(rows, backwards=True):
        return set()
    if not bench.is_right(bench.run(bench.measure.answers[0].sql), due[:1]):
        return set()
    return {id(edit) for edit in edits if not bench.is_right(bench.run(edit.edited), due)}


def blind_spot_of(edit: Edit, *, usual: bool) -> BlindSpot:
    """An edit that passes, in words."""
    said = f"Line {edit.place.line}: an answer that would {edit.in_words} gets the same result on every dataset."
    if not usual:
        said += " Only rows of a kind that the open data never has would show it."
    return BlindSpot(**placed(edit), likelihood=edit.likelihood, usual=usual, message=said)
