"""Answers that are on no sheet: they count in no marks until somebody says where they belong."""

from __future__ import annotations

from jentrow.records.exercises import find_exercise, find_sheet
from jentrow.records.sheetless import put_on_sheet
from jentrow.services.errors import NotFound, NotTaken
from jentrow.services.scope import CourseScope, course_in_scope


def put_answers_on_sheet(scope: CourseScope, exercise: str, sheet: str) -> int:
    """Puts the answers to an exercise that are on no sheet on one that has it; gives how many.

    Raises :class:`NotFound`, and :class:`NotTaken` where the exercise is not on that sheet.
    """
    with scope.records.writing() as session:
        course = course_in_scope(session)
        record = find_exercise(session, course.id, exercise)
        place = find_sheet(session, course.id, sheet)
        if record is None or place is None:
            raise NotFound(
                f"There is no exercise {exercise!r}." if record is None
                else f"There is no sheet {sheet!r}."
            )  # fmt: skip
        if all(entry.exercise_id != record.id for entry in place.entries):
            raise NotTaken(
                f"{record.title} is not on {place.title}: put it there first, or choose another sheet."
            )
        count = put_on_sheet(session, [record.id], place.id)
    scope.runtime.queue.tell_course(scope.course_id, learners=True)
    return count
