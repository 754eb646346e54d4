"""The answers of a course explained in the background: what is known then stands on the desk."""

from __future__ import annotations

from contextlib import suppress
from typing import Final

from jentrow.core.errors import EngineUnavailable, JentrowError
from jentrow.core.processes.workers import PoolClosed
from jentrow.records.exercises import list_exercises
from jentrow.records.explanations import explanations_of, texts_of
from jentrow.records.marks import answers_to
from jentrow.records.models import Exercise
from jentrow.services.exercises.overview import exercise_named
from jentrow.services.marking.explanations import explained, text_digest
from jentrow.services.runtime.background_jobs import JobState, Progress
from jentrow.services.scope import CourseScope

_LOOK_AGAIN_SECONDS: Final = 0.2


def start_analysis(scope: CourseScope, slug: str = "") -> None:
    """Begins to explain the answers to an exercise, or to all of them where none is named."""
    with scope.records.session() as session:
        if slug:
            exercises = [exercise_named(session, slug)]
        else:
            exercises = list(list_exercises(session, scope.course_id))
    numbers = [one.id for one in exercises]
    scope.runtime.analyses.start(
        scope.course_id, lambda progress: _explain_all(scope, numbers, progress)
    )


def stop_analysis(scope: CourseScope) -> None:
    """Ends it after the answer that it is at; what was found stays."""
    scope.runtime.analyses.stop(scope.course_id)


def analysis_state(scope: CourseScope) -> JobState:
    """How far it is."""
    return scope.runtime.analyses.state_of(scope.course_id)


def _explain_all(scope: CourseScope, exercise_ids: list[int], progress: Progress) -> None:
    waiting = [
        (number, text, standing)
        for number in exercise_ids
        for text, standing in _unexplained(scope, number)
    ]
    for done, (number, text, standing) in enumerate(waiting):
        progress.tell(done, len(waiting))
        # Answers that wait for their verdict go first.
        while scope.runtime.queue.ready and not progress.is_stopped:
            progress.wait(_LOOK_AGAIN_SECONDS)
        if progress.is_stopped:
            return
        with scope.records.session() as session:
            exercise = session.get(Exercise, number)
        if exercise is None:
            continue
        try:
            explained(scope, exercise, text, standing)
        except (EngineUnavailable, PoolClosed):
            return
        except JentrowError:
            continue  # the exercise's own page says what is wrong with it
    progress.tell(len(waiting), len(waiting))


def _unexplained(scope: CourseScope, exercise_id: int) -> list[tuple[str, str]]:
    """The texts of an exercise of which nothing is known yet, each once, with their standing."""
    with scope.records.session() as session:
        exercise = session.get(Exercise, exercise_id)
        if exercise is None:
            return []
        measure = ""
        with suppress(JentrowError):
            measure = scope.runtime.graders.made_with(exercise).measure
        known = explanations_of(session, exercise_id, measure)
        written = texts_of(session, exercise_id)
        texts: dict[str, str] = {}
        for row in answers_to(session, exercise_id):
            if row.verdict in ("correct", "incorrect") and not row.undecided:
                sql = written[row.id]
                if text_digest(sql) not in known:
                    texts.setdefault(sql, row.verdict)
    return list(texts.items())
