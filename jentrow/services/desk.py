"""The open records with their engine and graders: what a running server holds in its hands."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import replace
from pathlib import Path
from typing import Final

from jentrow.core.engines.protocol import ENGINES, Engine
from jentrow.core.engines.remembering import RememberingEngine
from jentrow.core.exercises.content import content_of, digest_of
from jentrow.core.exercises.exercise import Exercise as CoreExercise
from jentrow.core.exercises.grading import Grader
from jentrow.records.database import Records
from jentrow.records.models import Exercise, Sample
from jentrow.services.contents import core_exercise
from jentrow.services.engines import engine_named
from jentrow.services.imports import Imports
from jentrow.services.keeping import put_in_order
from jentrow.services.queue import GradingQueue
from jentrow.services.shelf import Once, Shelf

KEPT_GRADERS: Final = 64


class Desk:
    """One data folder in use. Safe to share between threads."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.records = Records(folder)
        with self.records.session() as session:
            put_in_order(session, folder)
        self.shelf = Shelf(folder)
        self.imports = Imports(folder)
        self._engines: dict[str, RememberingEngine] = {}
        self._graders: OrderedDict[str, Once] = OrderedDict()
        self._making = threading.Lock()
        self.queue = GradingQueue(self)

    def engine(self, name: str, *, fresh: bool = False) -> Engine:
        """The engine with this name, started when first asked for.

        It remembers what it ran; with ``fresh`` every query runs.
        """
        engine = self._started(name)
        return engine.fresh if fresh else engine

    def _started(self, name: str) -> RememberingEngine:
        with self._making:
            if name not in self._engines:
                self._engines[name] = RememberingEngine(engine_named(name))
            return self._engines[name]

    def engine_versions(self) -> dict[str, str]:
        """The version of each engine."""
        return {name: self.engine(name).version for name in ENGINES}

    def grader(self, exercise: Exercise) -> Grader:
        """The grader of an exercise as it is kept.

        Raises :class:`ReferenceFails` where its reference answer cannot be used.
        """
        return self.grader_of(core_exercise(exercise), exercise.sample)

    def grader_of(self, exercise: CoreExercise, sample: Sample) -> Grader:
        """The grader of an exercise, kept or not, made once for each state of it and the data."""
        source = self.shelf.sample_source(sample)
        state = " ".join(dataset.key for dataset in source.datasets)
        # Trials are no part of how answers are graded.
        content = content_of(replace(exercise, trials=(), prompt="", tags=()))
        key = f"{exercise.id} {digest_of(content)} {state}"
        with self._making:
            once = self._graders.setdefault(key, Once())
            self._graders.move_to_end(key)
            while len(self._graders) > KEPT_GRADERS:
                self._graders.popitem(last=False)
        # Outside of the lock: a slow reference holds up nobody else's pages.
        known: Grader = once.get(lambda: Grader(self.engine(exercise.engine), exercise, source))
        return known.serving(exercise)

    def close(self) -> None:
        """Ends the grading, the imports and the engines, and closes the records."""
        self.queue.close()
        self.imports.close()
        for engine in self._engines.values():
            engine.close()
        self.records.close()
