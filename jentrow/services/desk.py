"""The open records with their engine and graders: what a running server holds in its hands."""

from __future__ import annotations

import threading
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy.orm import Session

from jentrow.core.engines.protocol import Engine
from jentrow.core.exercises.exercise import Exercise as CoreExercise
from jentrow.core.exercises.exercise import NamedQuery, Trial
from jentrow.core.exercises.grading import Grader
from jentrow.core.exercises.rulefile import read_rules
from jentrow.core.exercises.trials import TrialResult, run_trials
from jentrow.records.database import Records
from jentrow.records.exercises import list_exercises, the_course
from jentrow.records.models import Exercise, Grading, Submission
from jentrow.records.submissions import submissions_to
from jentrow.services.engines import ENGINES, engine_named
from jentrow.services.errors import NotFound
from jentrow.services.imports import Imports
from jentrow.services.keeping import put_in_order
from jentrow.services.marking import Progress
from jentrow.services.shelf import Shelf


class Desk:
    """One data folder in use. Safe to share between threads."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.records = Records(folder)
        with self.records.session() as session:
            put_in_order(session, folder)
        self.shelf = Shelf(folder)
        self.imports = Imports(folder)
        self._engines: dict[str, Engine] = {}
        self._graders: dict[int, tuple[str, Grader]] = {}
        self._trials: dict[int, tuple[str, list[TrialResult]]] = {}
        self._making = threading.Lock()
        self._exercise_locks: dict[int, threading.RLock] = {}

    def engine(self, name: str) -> Engine:
        """The engine with this name, started when first asked for."""
        with self._making:
            if name not in self._engines:
                self._engines[name] = engine_named(name)
            return self._engines[name]

    def engine_versions(self) -> dict[str, str]:
        """The version of each engine."""
        return {name: self.engine(name).version for name in ENGINES}

    def _lock(self, exercise: Exercise) -> threading.RLock:
        """One lock an exercise: a slow reference or trial holds up nobody else's pages."""
        with self._making:
            return self._exercise_locks.setdefault(exercise.id, threading.RLock())

    def grader(self, exercise: Exercise) -> Grader:
        """The grader of an exercise, its references run once for each state of the data."""
        return self._grader(exercise)[1]

    def _grader(self, exercise: Exercise) -> tuple[str, Grader]:
        with self._lock(exercise):
            source = self.shelf.sample_source(exercise.sample)
            state = " ".join(dataset.key for dataset in source.datasets)
            known = self._graders.get(exercise.id)
            if known is None or known[0] != state:
                grader = Grader(self.engine(exercise.engine), core_exercise(exercise), source)
                known = self._graders[exercise.id] = (state, grader)
            return known

    def trials(self, exercise: Exercise) -> list[TrialResult]:
        """An exercise's trials with what they got, run once for each state of the data."""
        state, grader = self._grader(exercise)
        known = self._trials.get(exercise.id)
        if known is None or known[0] != state:
            # Without the lock: the exercise's other pages need not wait for a slow trial.
            known = self._trials[exercise.id] = (state, run_trials(grader))
        return known[1]

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

    def _grade(
        self, session: Session, exercise: Exercise, submissions: list[Submission]
    ) -> list[Grading]:
        grader = self.grader(exercise)
        version = f"{exercise.engine} {self.engine(exercise.engine).version}"
        gradings = []
        for at, outcome in grader.grade_many([one.sql for one in submissions]):
            grading = Grading(
                submission_id=submissions[at].id,
                verdict=outcome.verdict,
                mark=outcome.mark,
                answer=outcome.answer,
                findings=[finding.to_json() for finding in outcome.findings],
                engine=version,
                graded_at=datetime.now(UTC),
            )
            session.add(grading)
            gradings.append(grading)
        return gradings

    def close(self) -> None:
        """Ends the imports and the engines, and closes the records."""
        self.imports.close()
        for engine in self._engines.values():
            engine.close()
        self.records.close()


def core_exercise(exercise: Exercise) -> CoreExercise:
    """The exercise of the records as the core knows it."""
    return CoreExercise(
        id=exercise.slug,
        title=exercise.title,
        prompt=exercise.prompt,
        sample=exercise.sample.name,
        reference=exercise.reference,
        engine=exercise.engine,
        points=exercise.points,
        rules=read_rules(exercise.rules, exercise.slug),
        alternatives=tuple(NamedQuery(one.name, one.sql) for one in exercise.alternatives),
        trials=tuple(
            Trial(one.name, one.sql, one.expected)  # type: ignore[arg-type]
            for one in exercise.trials
        ),
    )
