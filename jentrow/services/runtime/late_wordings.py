"""The wordings of graded texts: told after their verdicts, as nobody waits for them.

Reading a text for its wording takes longer than most queries do.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Final

from jentrow.core.errors import EngineInterrupted, EngineUnavailable, JentrowError
from jentrow.core.processes.workers import PoolClosed
from jentrow.core.sql.wordings import wording_unread
from jentrow.records.database import Records
from jentrow.records.decisions import join_groups
from jentrow.records.models import Exercise
from jentrow.records.wordings import Unworded, tell_wordings, unworded
from jentrow.services.runtime.graders import Graders

AT_ONCE: Final = 2_000
TEXTS_AT_ONCE: Final = 200
"""Gradings, and different texts of them, whose wordings are told together."""


class LateWordings:
    """Tells the wordings of gradings that have none yet. ``tell_course`` has its pages look again."""

    def __init__(
        self, records: Records, graders: Graders, tell_course: Callable[[int], None]
    ) -> None:
        self._records, self._graders, self._tell_course = records, graders, tell_course

    def tell_all(self, is_enough: Callable[[], bool]) -> None:
        """Tells one batch after the other, until all are told or ``is_enough`` says so."""
        out_of_reach: set[int] = set()
        while not is_enough():
            with self._records.session() as session:
                waiting = unworded(session, AT_ONCE, out_of_reach)
                exercise = session.get(Exercise, waiting[0].exercise_id) if waiting else None
            if exercise is None:
                return
            try:
                self._tell(exercise, waiting)
            except (EngineUnavailable, EngineInterrupted, PoolClosed):
                out_of_reach.add(exercise.id)

    def _tell(self, exercise: Exercise, waiting: Sequence[Unworded]) -> None:
        texts = list(dict.fromkeys(one.sql for one in waiting))[:TEXTS_AT_ONCE]
        try:
            said = self._graders.of(exercise).wordings(texts)
        except (EngineUnavailable, EngineInterrupted):
            raise
        except JentrowError:  # the exercise is broken: there is nobody to read its answers by
            said = [wording_unread(sql) for sql in texts]
        by_text = dict(zip(texts, said, strict=True))
        told = [one for one in waiting if one.sql in by_text]
        with self._records.writing() as session:
            tell_wordings(session, {one.grading_id: by_text[one.sql] for one in told})
            # What was decided for answers of one wording holds for these from now on.
            join_groups(session, exercise.id, [one.submission_id for one in told])
        self._tell_course(exercise.course_id)
