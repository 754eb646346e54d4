"""Exercises and sheets added to a course."""

from __future__ import annotations

from sqlalchemy.orm import Session

from jentrow.core.exercises.exercise import Exercise as CoreExercise
from jentrow.core.exercises.sheets import Sheet as CoreSheet
from jentrow.records.contents import (
    new_version,
    put_content,
    put_sheet,
    record_content,
    sheet_origin,
)
from jentrow.records.exercises import list_sheets, next_position
from jentrow.records.models import Exercise, Sample, Sheet


def add_exercise(
    session: Session,
    course_id: int,
    exercise: CoreExercise,
    sample: Sample,
    why: str,
    origin: str = "",
) -> Exercise:
    """Adds an exercise behind the others, with its first version.

    ``origin`` is the digest of what a pack held; ``why`` says where the exercise comes from.
    """
    record = Exercise(
        course_id=course_id,
        sample_id=sample.id,
        slug=exercise.id,
        position=next_position(session, course_id),
        title="",
        prompt="",
        engine="",
        points=0,
        reference="",
        rules={},
        origin=origin,
    )
    record.sample = sample
    session.add(record)
    put_content(session, record, exercise)
    session.flush()
    session.add(new_version(session, record, 1, record_content(record), why))
    return record


def add_sheet(
    session: Session, course_id: int, sheet: CoreSheet, exercises: dict[str, Exercise]
) -> Sheet:
    """Adds a sheet behind the others."""
    record = Sheet(
        course_id=course_id,
        slug=sheet.id,
        position=len(list_sheets(session, course_id)),
        title="",
        late={},
        origin=sheet_origin(sheet),
    )
    session.add(record)
    put_sheet(session, record, sheet, exercises)
    session.flush()
    return record
