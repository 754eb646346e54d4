"""What reading graded texts tells, after their verdicts: their wordings, and what explains them.

Reading a text takes longer than most queries do. Nobody waits for the wording of an answer; nor,
while a file of answers is graded, for why each of them differs: they want to know how they stand.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Final

from jentrow.core.errors import EngineInterrupted, EngineUnavailable, JentrowError
from jentrow.core.exercises.grading.outcomes import Reading
from jentrow.core.exercises.outcome_groups import group_of
from jentrow.core.processes.workers import PoolClosed
from jentrow.core.sql.wordings import wording_unread
from jentrow.records.database import Records
from jentrow.records.decisions import join_groups
from jentrow.records.models import Exercise
from jentrow.records.readings import Unread, tell_findings, tell_wordings, unread
from jentrow.services.runtime.graders import Graders
from jentrow.services.runtime.kept_outcomes import found_values

AT_ONCE: Final = 2_000
TEXTS_AT_ONCE: Final = 200
"""Gradings, and different texts of them, that are read together."""


class LateReadings:
    """Reads the texts of gradings that nobody has read. ``tell_course`` has its pages look again."""

    def __init__(
        self, records: Records, graders: Graders, tell_course: Callable[[int], None]
    ) -> None:
        self._records, self._graders, self._tell_course = records, graders, tell_course

    def read_all(self, is_enough: Callable[[], bool]) -> None:
        """Reads one batch after the other, until all are read or ``is_enough`` says so."""
        out_of_reach: set[int] = set()
        while not is_enough():
            with self._records.session() as session:
                waiting = unread(session, AT_ONCE, out_of_reach)
                exercise = session.get(Exercise, waiting[0].exercise_id) if waiting else None
            if exercise is None:
                return
            try:
                self._read(exercise, waiting)
            except (EngineUnavailable, EngineInterrupted, PoolClosed):
                out_of_reach.add(exercise.id)

    def _read(self, exercise: Exercise, waiting: Sequence[Unread]) -> None:
        texts = list(dict.fromkeys(one.sql for one in waiting))[:TEXTS_AT_ONCE]
        try:
            measure, readings = self._readings(exercise, texts, waiting)
        except (EngineUnavailable, EngineInterrupted):
            raise
        except JentrowError:  # the exercise is broken: there is nobody to read its answers by
            measure, readings = "", {sql: Reading(wording_unread(sql)) for sql in texts}
        told = [one for one in waiting if one.sql in readings]
        explained = {
            one.grading_id: found_values(outcome)
            for one in told
            if not one.explained
            and one.measure == measure
            and (outcome := readings[one.sql].outcome) is not None
            # What hangs on chance, or on a limit, may have come to something else this time.
            and group_of(outcome) == one.outcome
        }
        with self._records.writing(on_disk=False) as session:
            tell_findings(session, explained)
            tell_wordings(session, {one.grading_id: readings[one.sql].wording for one in told})
            # What was decided for answers of one wording holds for these from now on.
            join_groups(session, exercise.id, [one.submission_id for one in told])
        self._tell_course(exercise.course_id)

    def _readings(
        self, exercise: Exercise, texts: Sequence[str], waiting: Sequence[Unread]
    ) -> tuple[str, dict[str, Reading]]:
        """What is told of texts, and the measure that those to be explained were held against."""
        grader, made_with = self._graders.with_measure(exercise)
        unexplained = {one.sql for one in waiting if not one.explained}
        known = [sql for sql in texts if sql not in unexplained]
        others = [sql for sql in texts if sql in unexplained]
        wordings = map(Reading, grader.wordings(known)) if known else ()
        explained = grader.readings(others) if others else ()
        return made_with.measure, {
            **dict(zip(known, wordings, strict=True)),
            **dict(zip(others, explained, strict=True)),
        }
