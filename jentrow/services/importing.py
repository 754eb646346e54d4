"""Taking a pack and submissions into the records."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy.orm import Session

from jentrow.core.exercises.exercise import Exercise as CoreExercise
from jentrow.core.exercises.packs import Pack
from jentrow.core.exercises.sheets import Sheet as CoreSheet
from jentrow.core.exercises.submissions import Submission as CoreSubmission
from jentrow.records.exercises import list_exercises, list_sheets, next_position
from jentrow.records.models import Course, Exercise, Sample, Sheet, Submission
from jentrow.records.submissions import learners_called
from jentrow.records.tasks import TAKEN_IN, add_tasks
from jentrow.services.contents import (
    new_version,
    origin_of,
    put_content,
    put_sheet,
    record_content,
    sheet_origin,
)
from jentrow.services.courses import add_course
from jentrow.services.keeping import datasets_of, keep_sample, undone_on_error


def import_pack(session: Session, folder: Path, pack: Pack) -> Course:
    """Makes a course of a pack; its samples' datasets are made below the data folder."""
    course = add_course(session, pack.title)
    samples: dict[str, Sample] = {}
    with undone_on_error() as made:
        for name, source in pack.samples.items():
            samples[name] = keep_sample(
                session, folder, course.id, name, datasets_of(source, folder), made
            )
        exercises: dict[str, Exercise] = {}
        for exercise in pack.exercises:
            exercises[exercise.id] = add_exercise(
                session,
                course.id,
                exercise,
                samples[exercise.sample],
                f"from the pack {pack.title}",
                origin_of(exercise),
            )
        for sheet in pack.sheets:
            add_sheet(session, course.id, sheet, exercises)
        session.flush()
    return course


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


def import_submissions(
    session: Session, course: Course, submissions: Sequence[CoreSubmission]
) -> list[Submission]:
    """Takes submissions in, their learners too; one without a time counts as handed in now."""
    learners = learners_called(session, course.id, [one.learner for one in submissions])
    by_slug = {exercise.slug: exercise for exercise in list_exercises(session, course.id)}
    sheets = list_sheets(session, course.id)
    taken = [
        Submission(
            exercise_id=by_slug[one.exercise].id,
            learner_id=learners[one.learner].id,
            sheet_id=_sheet_of(by_slug[one.exercise], sheets),
            sql=one.sql,
            submitted_at=one.submitted_at or datetime.now(UTC),
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
