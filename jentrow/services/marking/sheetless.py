"""Answers that are on no sheet: they count in no marks until somebody says where they belong."""

from __future__ import annotations

from jentrow.records.sheetless import put_on_sheet
from jentrow.services.errors import NotTaken
from jentrow.services.exercises.overview import exercise_named
from jentrow.services.exercises.sheets import sheet_named
from jentrow.services.scope import CourseScope


def put_answers_on_sheet(scope: CourseScope, exercise: str, sheet: str) -> int:
    """Puts the answers to an exercise that are on no sheet on one that has it; gives how many.

    Raises :class:`NotFound`, and :class:`NotTaken` where the exercise is not on that sheet.
    """
    with scope.records.writing() as session:
        record = exercise_named(session, exercise)
        place = sheet_named(session, sheet)
        if all(entry.exercise_id != record.id for entry in place.entries):
            raise NotTaken(
                f"{record.title} is not on {place.title}: put it there first, or choose another sheet."
            )
        count = put_on_sheet(session, [record.id], place.id)
    scope.runtime.queue.tell_course(scope.course_id, learners=True)
    return count
