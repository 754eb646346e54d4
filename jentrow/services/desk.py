"""The open records with their engine and graders: what a running server holds in its hands."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Final

from sqlalchemy.orm import Session

from jentrow.core.engines.protocol import Engine
from jentrow.core.engines.remembering import RememberingEngine
from jentrow.core.exercises.content import content_of, digest_of
from jentrow.core.exercises.exercise import Exercise as CoreExercise
from jentrow.core.exercises.grading import Grader
from jentrow.records.database import Records
from jentrow.records.exercises import list_exercises, the_course
from jentrow.records.models import Exercise, Grading, Sample, Submission
from jentrow.records.submissions import submissions_to
from jentrow.services.contents import core_exercise
from jentrow.services.engines import ENGINES, engine_named
from jentrow.services.errors import NotFound
from jentrow.services.imports import Imports
from jentrow.services.keeping import put_in_order
from jentrow.services.marking import Progress
from jentrow.services.shelf import Shelf

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
        self._graders: OrderedDict[str, Grader] = OrderedDict()
        self._making = threading.Lock()
        self._exercise_locks: dict[str, threading.RLock] = {}

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

    def _lock(self, key: str) -> threading.RLock:
        """One lock a key: a slow reference holds up nobody else's pages."""
        with self._making:
            if len(self._exercise_locks) > 10 * KEPT_GRADERS:
                self._exercise_locks.clear()
            return self._exercise_locks.setdefault(key, threading.RLock())

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
        with self._lock(key):
            known = self._graders.get(key)
            if known is None:
                known = Grader(self.engine(exercise.engine), exercise, source)
            with self._making:
                self._graders[key] = known
                self._graders.move_to_end(key)
                while len(self._graders) > KEPT_GRADERS:
                    self._graders.popitem(last=False)
            return known.serving(exercise)

    def grade_all(self, progress: Progress) -> int:
        """Grades every submission that has no verdict yet; returns how many there were."""
        with self.records.session() as session:
            course = the_course(session)
            if course is None:
                raise NotFound("There is no course yet: import a pack first.")
            waiting = [
                (exercise, [one for one in submissions_to(session, exercise.id) if not one.grading])
                for exercise in list_exercises(session, course.id)
            ]
            total = sum(len(submissions) for _, submissions in waiting)
            done = 0
            for exercise, submissions in waiting:
                for _ in self._grade(session, exercise, submissions):
                    done += 1
                    progress(done, total)
            return total

    def regrade(self, session: Session, exercise: Exercise) -> int:
        """Grades every submission to an exercise anew; returns how many there are."""
        submissions = list(submissions_to(session, exercise.id))
        return len(self._grade(session, exercise, submissions))

    def _grade(
        self, session: Session, exercise: Exercise, submissions: list[Submission]
    ) -> list[Grading]:
        grader = self.grader(exercise)
        version = f"{exercise.engine} {self.engine(exercise.engine).version}"
        gradings = []
        for at, outcome in grader.grade_many([one.sql for one in submissions]):
            grading = submissions[at].grading or Grading(submission_id=submissions[at].id)
            grading.verdict = outcome.verdict
            grading.mark = outcome.mark
            grading.answer = outcome.answer
            grading.findings = [finding.to_json() for finding in outcome.findings]
            grading.ledger = [line.to_json() for line in outcome.ledger]
            grading.engine = version
            grading.graded_at = datetime.now(UTC)
            session.add(grading)
            gradings.append(grading)
        return gradings

    def close(self) -> None:
        """Ends the imports and the engines, and closes the records."""
        self.imports.close()
        for engine in self._engines.values():
            engine.close()
        self.records.close()
