"""Submissions added to a course from outside, to be graded."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy.orm import Session

from jentrow.core.exercises.submissions import Submission as CoreSubmission
from jentrow.records.exercises import list_exercises, list_sheets
from jentrow.records.models import Course, Exercise, Sheet, Submission
from jentrow.records.submissions import learners_called
from jentrow.records.tasks import TAKEN_IN, add_tasks


def import_submissions(
    session: Session, course: Course, submissions: Sequence[CoreSubmission], now: datetime
) -> list[Submission]:
    """Takes submissions in, their learners too; one without a time counts as handed in now.

    ``now`` is told by the clock that deadlines are told by.
    """
    learners = learners_called(session, course.id, [one.learner for one in submissions])
    by_slug = {exercise.slug: exercise for exercise in list_exercises(session, course.id)}
    sheets = list_sheets(session, course.id)
    taken = [
        Submission(
            exercise_id=by_slug[one.exercise].id,
            learner_id=learners[one.learner].id,
            sheet_id=_sheet_of(by_slug[one.exercise], sheets),
            sql=one.sql,
            submitted_at=one.submitted_at or now,
        )
        for one in submissions
    ]
    session.add_all(taken)
    session.flush()
    add_tasks(session, taken, TAKEN_IN)
    return taken


def _sheet_of(exercise: Exercise, sheets: Sequence[Sheet]) -> int | None:
    """The sheet that an answer from outside belongs to: the one that has its exercise, if one has."""
    having = [
        sheet.id
        for sheet in sheets
        if any(entry.exercise_id == exercise.id for entry in sheet.entries)
    ]
    return having[0] if len(having) == 1 else None
