"""The graders of the exercises that were graded last, made once for each state of their data."""

from __future__ import annotations

import threading
from contextlib import suppress
from dataclasses import dataclass, replace
from hashlib import sha256
from typing import Final

from cachetools import LRUCache

from jentrow.core.errors import JentrowError
from jentrow.core.exercises.exercise import Exercise as CoreExercise
from jentrow.core.exercises.files.content import content_of, digest_of
from jentrow.core.exercises.grader import Grader
from jentrow.records.contents import core_exercise
from jentrow.records.database import Records
from jentrow.records.exercises import on_sheets
from jentrow.records.models import Exercise, Sample
from jentrow.services.runtime.engines import Engines
from jentrow.services.runtime.open_datasets import Once, OpenDatasets
from jentrow.services.runtime.settings import Settings

KEPT_GRADERS: Final = 64


@dataclass(frozen=True, slots=True)
class MadeWith:
    """What a grading is made with: ``measure`` is a digest of all that could change it.

    ``datasets`` has, by name, the record and the version of each dataset.
    """

    engine: str
    datasets: tuple[tuple[str, str], ...]
    measure: str


class Graders:
    """Makes graders and keeps them. Safe to share between threads."""

    def __init__(self, engines: Engines, datasets: OpenDatasets, settings: Settings) -> None:
        self._engines = engines
        self._datasets = datasets
        self._settings = settings
        self._kept: LRUCache[str, Once] = LRUCache(KEPT_GRADERS)
        self._lock = threading.Lock()
        self._closing = threading.Event()
        self._warming: threading.Thread | None = None

    def of(self, exercise: Exercise) -> Grader:
        """The grader of an exercise as it is kept.

        Raises :class:`ReferenceFails` where its reference answer cannot be used.
        """
        return self.of_content(core_exercise(exercise), exercise.sample)

    def with_measure(self, exercise: Exercise) -> tuple[Grader, MadeWith]:
        """The grader of an exercise as it is kept, and what its gradings are made with."""
        # Looked at first: rows that are edited meanwhile make the gradings out of date, never
        # gradings that are out of date look as if they were not.
        made_with = self.made_with(exercise)
        return self.of(exercise), made_with

    def made_with(self, exercise: Exercise) -> MadeWith:
        """What answers to an exercise would be graded with now."""
        core = self._within_bounds(core_exercise(exercise))
        engine = f"{core.engine} {self._engines.version(core.engine)}"
        datasets = tuple(self._datasets.versions(exercise.sample))
        state = f"{_graded_by(core)} {engine} {datasets}"
        return MadeWith(engine, datasets, sha256(state.encode()).hexdigest()[:32])

    def of_content(self, exercise: CoreExercise, sample: Sample) -> Grader:
        """The grader of an exercise, kept or not, made once for each state of it and the data."""
        exercise = self._within_bounds(exercise)
        source = self._datasets.sample_source(sample)
        state = " ".join(dataset.key for dataset in source.datasets)
        key = f"{exercise.id} {_graded_by(exercise)} {state}"
        with self._lock:
            once = self._kept.setdefault(key, Once())
        # Outside of the lock: a slow reference holds up nobody else's pages.
        engine = self._engines.get(exercise.engine)
        known: Grader = once.get(lambda: Grader(engine, exercise, source))
        if known.is_outdated:
            # What is due hangs on the clock, or on chance: it is measured again.
            with self._lock:
                if self._kept.get(key) is once:
                    self._kept[key] = Once()
                once = self._kept.setdefault(key, Once())
            known = once.get(lambda: Grader(engine, exercise, source))
        return known.serving(exercise)

    def _within_bounds(self, exercise: CoreExercise) -> CoreExercise:
        rules = exercise.rules
        return replace(exercise, rules=replace(rules, limits=self._settings.capped(rules.limits)))

    def start_warming(self, records: Records) -> None:
        """Makes ready, in the background, what answers to the sheets are graded with."""
        self._warming = threading.Thread(
            target=self._warm, args=(records,), name="warming", daemon=True
        )
        self._warming.start()

    def _warm(self, records: Records) -> None:
        with records.session() as session:
            exercises = on_sheets(session)
        for exercise in exercises:
            if self._closing.is_set():
                return
            with suppress(JentrowError):  # its instructor is told on the bench
                self.of(exercise)
        self._engines.warm({one.engine for one in exercises})

    def closing(self) -> None:
        """Begins nothing more."""
        self._closing.set()

    def close(self) -> None:
        """Waits for what is being made ready."""
        self.closing()
        if self._warming is not None:
            self._warming.join()


def _graded_by(exercise: CoreExercise) -> str:
    """A digest of what of an exercise decides how answers are graded: trials are no part of it."""
    return digest_of(content_of(replace(exercise, trials=(), prompt="", tags=(), title="-")))
