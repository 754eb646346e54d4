"""Grading: measure → run → judge → explain → mark, over all datasets of an exercise.

The measure is taken once, here. Running and all that looks at rows happens where the data is, in the
engine's worker processes (:mod:`jentrow.core.exercises.grading.judge`); what comes back is small.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Iterator, Sequence
from copy import copy
from dataclasses import replace
from pathlib import Path
from threading import Lock
from typing import Final, TypeVar
from weakref import finalize

from cachetools import LRUCache

from jentrow.core.engines.protocol import (
    Engine,
    Judging,
    LoadedDataset,
    LookedFor,
    QueryFailure,
    QueryOutcome,
)
from jentrow.core.errors import EngineInterrupted
from jentrow.core.exercises.distinguishing.analysis import Analysis
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.grading.judge import Judge
from jentrow.core.exercises.grading.measure import Measure, measured
from jentrow.core.exercises.grading.outcomes import Looked, Outcome, Reading
from jentrow.core.results import Expectation, Row
from jentrow.core.samples.sources import SampleSource
from jentrow.core.sql.freedom.moments import hangs_on_the_moment
from jentrow.core.sql.wordings import wording_unread

_Read = TypeVar("_Read")

LOST: Final = (
    "the process that judged the answer was ended twice before it was done; nothing is known of "
    "the answer. Grade it again."
)

LOOKED_TOO_LONG: Final = "Looking on made-up rows was stopped: it took too long."


REMEMBERED_TEXTS: Final = 2_000
"""Of how many texts the outcomes are remembered: many learners hand in the very same one."""


MEASURE_SECONDS: Final = 60.0
"""How long it holds what is due where that hangs on the clock, or on chance."""


class _Kept:
    """A measure with the file that worker processes read it from, for as long as it is in use.

    It remembers what texts came to. Safe to share between threads.
    """

    def __init__(self, measure: Measure, path: Path) -> None:
        self.measure = measure
        self.path = path
        self._lately: LRUCache[str, Outcome] = LRUCache(REMEMBERED_TEXTS)
        self._lock = Lock()
        finalize(self, path.unlink, missing_ok=True)

    def remembered(self, texts: Iterable[str], *, explained: bool) -> dict[str, Outcome]:
        """What some of the texts came to before."""
        with self._lock:
            known = {sql: self._lately.get(sql) for sql in texts}
        return {
            sql: outcome
            for sql, outcome in known.items()
            if outcome is not None
            and (outcome.explained or not explained)
            # Found out here, and not of every text that never comes again.
            and not hangs_on_the_moment(sql, self.measure.dialect)
        }

    def remember(self, sql: str, outcome: Outcome) -> None:
        """Remembers, unless another time the same text may come to something else."""
        if outcome.verdict != "stopped":
            with self._lock:
                self._lately[sql] = outcome


class Grader:
    """Grades answers to one exercise: its measure is taken when it is made."""

    def __init__(self, engine: Engine, exercise: Exercise, sample: SampleSource) -> None:
        """Raises :class:`ReferenceFails` or :class:`InvalidSample` where there is no measure."""
        measure = measured(engine, exercise, sample)
        self.exercise = exercise
        self.dialect = measure.dialect
        self._engine = engine
        self._kept = _Kept(measure, engine.keep_measure(measure))
        self._how = Judging()
        self._made = time.monotonic()
        # For what never ran to its end: there is no row to be looked at.
        self._judge = Judge(measure)

    @property
    def measure(self) -> Measure:
        """What answers are measured by."""
        return self._kept.measure

    @property
    def is_outdated(self) -> bool:
        """Whether what is due was measured too long ago: a reference answer may ask what day it is."""
        measure = self.measure
        return measure.hangs_on_the_moment and time.monotonic() > self._made + MEASURE_SECONDS

    @property
    def dataset_names(self) -> tuple[str, ...]:
        """The datasets, the open one first."""
        return self.measure.dataset_names

    @property
    def datasets(self) -> tuple[LoadedDataset, ...]:
        """The same as the engine has them."""
        return self.measure.datasets

    @property
    def expectations(self) -> tuple[tuple[Expectation, ...], ...]:
        """For the reference answer and each alternative, what is due on each dataset."""
        return self.measure.expectations

    def serving(self, exercise: Exercise) -> Grader:
        """The same measure for an exercise that differs in its prompt, tags or trials only."""
        other = copy(self)
        other.exercise = exercise
        return other

    def elsewhere(self, engine: Engine, how: Judging | None = None) -> Grader:
        """The same measure where answers run on another engine of the same kind.

        What ``how.seconds`` stops has not come to its verdict yet, unless the exercise allows no
        longer: see :meth:`is_settled`.
        """
        other = copy(self)
        other._engine = engine
        other._how = how or self._how
        return other

    def unexplained(self) -> Grader:
        """The same measure for verdicts alone: what explains them is found by :meth:`readings`."""
        other = copy(self)
        other._how = replace(self._how, explained=False)
        return other

    def run(self, sql: str) -> QueryOutcome:
        """Runs a query on the open dataset, under the exercise's limits."""
        return self._engine.run(self.datasets[0], sql, self.exercise.rules.limits)

    def is_settled(self, outcome: Outcome) -> bool:
        """Whether what was said in a hurry would be said without hurry too."""
        return not self._how.is_hurried or not any(
            one.failure is not None and one.failure.code == "limit.time" for one in outcome.datasets
        )

    def grade(self, sql: str) -> Outcome:
        """Grades one answer. Raises :class:`EngineInterrupted`."""
        ((_, outcome),) = self.grade_many([sql])
        return outcome

    def grade_many(self, answers: Sequence[str]) -> Iterator[tuple[int, Outcome]]:
        """Grades many answers; yields (index, outcome) as they come. Equal texts run once.

        Raises :class:`EngineInterrupted` where one is lost.
        """
        for places, outcome in self.judged(answers):
            if outcome is None:
                raise EngineInterrupted(LOST)
            for at in places:
                yield at, outcome

    def judged(self, answers: Sequence[str]) -> Iterator[tuple[list[int], Outcome | None]]:
        """The same with all places of a text together, and None for one that was lost.

        That is a text over which the process ended that judged it.
        """
        places: dict[str, list[int]] = {}
        for at, sql in enumerate(answers):
            places.setdefault(sql, []).append(at)
        known = self._kept.remembered(places, explained=self._how.explained)
        for sql, outcome in known.items():
            yield places[sql], outcome
        texts = [sql for sql in places if sql not in known]
        for at, found in self._judged(texts, self._how) if texts else ():
            assert found is None or isinstance(found, Outcome)
            if found is not None:
                self._kept.remember(texts[at], found)
            yield places[texts[at]], found

    def look(
        self, sql: str, dataset: int = 0, *, rows: int = 400, for_learner: bool = False
    ) -> Looked:
        """Grades one answer and weaves its rows on a dataset. Raises :class:`EngineInterrupted`."""
        how = replace(self._how, look=dataset, rows=rows, for_learner=for_learner)
        ((_, looked),) = self._judged([sql], how)
        if looked is None:
            raise EngineInterrupted(LOST)
        return looked if isinstance(looked, Looked) else Looked(looked, None)

    def analysed(
        self,
        texts: Sequence[str],
        look_for: LookedFor,
        *,
        made: Sequence[tuple[str, tuple[Row, ...]]] = (),
        for_learner: bool = False,
    ) -> Iterator[tuple[int, Analysis]]:
        """Grades answers, and looks for more on made-up rows; yields (index, analysis) as they come.

        Raises :class:`EngineInterrupted` where one is lost.
        """
        how = replace(
            self._how, seconds=None, look_for=look_for, made=tuple(made), for_learner=for_learner
        )
        kept = self._kept
        for at, found in self._engine.judge(kept.measure, kept.path, texts, how):
            if found is None:
                raise EngineInterrupted(LOST)
            if isinstance(found, QueryFailure):
                lost = self._judge.outcome(texts[at], [found] * len(self.datasets))
                yield at, Analysis(lost, without=LOOKED_TOO_LONG)
            else:
                yield at, found

    def analyse(
        self,
        sql: str,
        look_for: LookedFor,
        *,
        made: Sequence[tuple[str, tuple[Row, ...]]] = (),
        for_learner: bool = False,
    ) -> Analysis:
        """The same for one answer."""
        ((_, found),) = self.analysed([sql], look_for, made=made, for_learner=for_learner)
        return found

    def wordings(self, texts: Sequence[str]) -> list[str]:
        """The wordings of texts: equal for such as say the same thing in the same way.

        Raises :class:`EngineInterrupted` where one is lost, and :class:`EngineUnavailable`.
        """
        how = replace(self._how, look_for="wording")
        return self._read(texts, how, wording_unread)

    def readings(self, texts: Sequence[str]) -> list[Reading]:
        """The wordings of texts, and what they come to when they are explained.

        Raises :class:`EngineInterrupted` where one is lost, and :class:`EngineUnavailable`.
        """
        how = replace(self._how, look_for="reading", explained=True)
        return self._read(texts, how, lambda sql: Reading(wording_unread(sql)))

    def _read(
        self, texts: Sequence[str], how: Judging, unread: Callable[[str], _Read]
    ) -> list[_Read]:
        """What is read of texts; what takes too long to be read is its own wording."""
        kept = self._kept
        found: dict[int, _Read] = {}
        for at, said in self._engine.judge(kept.measure, kept.path, texts, how):
            if said is None:
                raise EngineInterrupted(LOST)
            found[at] = unread(texts[at]) if isinstance(said, QueryFailure) else said
        return [found[at] for at in range(len(texts))]

    def _judged(
        self, texts: Sequence[str], how: Judging
    ) -> Iterator[tuple[int, Outcome | Looked | None]]:
        kept = self._kept
        for at, found in self._engine.judge(kept.measure, kept.path, texts, how):
            if isinstance(found, QueryFailure):
                yield at, self._judge.outcome(texts[at], [found] * len(self.datasets))
            else:
                yield at, found
