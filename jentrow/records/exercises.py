"""Queries about exercises and their samples."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from jentrow.records.database import COURSE
from jentrow.records.models import (
    Course,
    Exercise,
    ExerciseVersion,
    Grading,
    Sheet,
    SheetEntry,
    Submission,
)


def course_of_session(session: Session) -> Course | None:
    """The course on whose behalf the session is open; the first one where none was said."""
    if COURSE in session.info:
        return session.get(Course, session.info[COURSE])
    return session.scalars(select(Course).order_by(Course.id)).first()


def list_exercises(session: Session, course_id: int) -> Sequence[Exercise]:
    """All exercises of a course, in their order."""
    return session.scalars(
        select(Exercise).where(Exercise.course_id == course_id).order_by(Exercise.position)
    ).all()


def find_exercise(session: Session, course_id: int, slug: str) -> Exercise | None:
    """The exercise with this slug."""
    return session.scalars(
        select(Exercise).where(Exercise.course_id == course_id, Exercise.slug == slug)
    ).one_or_none()


def first_finding_counts(session: Session, course_id: int) -> dict[int, Counter[str]]:
    """For each exercise, how many submissions have which code as their first finding."""
    code = func.json_extract(Grading.findings, "$[0].code")
    rows = session.execute(
        select(Submission.exercise_id, code, func.count())
        .join(Exercise, Exercise.id == Submission.exercise_id)
        .join(Grading, Grading.id == Submission.grading_id)
        .where(Exercise.course_id == course_id, code.is_not(None))
        .group_by(Submission.exercise_id, code)
        .order_by(code)
    )
    counts: dict[int, Counter[str]] = {}
    for exercise_id, found, count in rows:
        counts.setdefault(exercise_id, Counter())[found] = count
    return counts


def verdict_counts(session: Session, course_id: int) -> dict[int, dict[str, int]]:
    """For each exercise, how many submissions got which verdict.

    ``undecided`` counts those that wait for the instructor, ``""`` those not graded.
    """
    rows = session.execute(
        select(Submission.exercise_id, func.coalesce(Grading.standing, ""), func.count())
        .join(Exercise, Exercise.id == Submission.exercise_id)
        .outerjoin(Grading, Grading.id == Submission.grading_id)
        .where(Exercise.course_id == course_id)
        .group_by(Submission.exercise_id, Grading.standing)
    )
    counts: dict[int, dict[str, int]] = {}
    for exercise_id, verdict, count in rows:
        counts.setdefault(exercise_id, {})[verdict] = count
    return counts


def last_version(session: Session, exercise_id: int) -> int:
    """The number of the last version of an exercise; 0 where it was never kept."""
    number = session.scalar(
        select(func.max(ExerciseVersion.number)).where(ExerciseVersion.exercise_id == exercise_id)
    )
    return number or 0


def versions_of(session: Session, exercise_id: int) -> Sequence[ExerciseVersion]:
    """The versions of an exercise, the last first."""
    return session.scalars(
        select(ExerciseVersion)
        .where(ExerciseVersion.exercise_id == exercise_id)
        .order_by(ExerciseVersion.number.desc())
    ).all()


def find_version(session: Session, exercise_id: int, number: int) -> ExerciseVersion | None:
    """The version of an exercise with this number."""
    return session.scalars(
        select(ExerciseVersion).where(
            ExerciseVersion.exercise_id == exercise_id, ExerciseVersion.number == number
        )
    ).one_or_none()


def sheet_titles(session: Session, course_id: int) -> dict[int, list[str]]:
    """For each exercise that is on a sheet, the titles of its sheets."""
    found = (
        select(SheetEntry.exercise_id, Sheet.title)
        .join(Sheet, Sheet.id == SheetEntry.sheet_id)
        .where(Sheet.course_id == course_id)
        .order_by(Sheet.position, Sheet.id)
    )
    titles: dict[int, list[str]] = {}
    for exercise_id, title in session.execute(found):
        titles.setdefault(exercise_id, []).append(title)
    return titles


def sheet_slugs(session: Session, course_id: int) -> dict[int, str]:
    """The slugs of a course's sheets by their numbers."""
    found = select(Sheet.id, Sheet.slug).where(Sheet.course_id == course_id)
    return {id: slug for id, slug in session.execute(found)}  # noqa: C416


def next_position(session: Session, course_id: int) -> int:
    """The place after the last exercise of a course."""
    last = session.scalar(
        select(func.max(Exercise.position)).where(Exercise.course_id == course_id)
    )
    return 0 if last is None else last + 1


def list_sheets(session: Session, course_id: int) -> Sequence[Sheet]:
    """All sheets of a course, in their order."""
    return session.scalars(
        select(Sheet).where(Sheet.course_id == course_id).order_by(Sheet.position, Sheet.id)
    ).all()


def on_sheets(session: Session) -> Sequence[Exercise]:
    """The exercises on sheets of courses that are not put away, each once."""
    return (
        session.scalars(
            select(Exercise)
            .join(SheetEntry, SheetEntry.exercise_id == Exercise.id)
            .join(Course, Course.id == Exercise.course_id)
            .where(Course.archived_at.is_(None))
            .order_by(Exercise.id)
        )
        .unique()
        .all()
    )


def find_sheet(session: Session, course_id: int, slug: str) -> Sheet | None:
    """The sheet with this slug."""
    return session.scalars(
        select(Sheet).where(Sheet.course_id == course_id, Sheet.slug == slug)
    ).one_or_none()


def sheets_with(session: Session, exercise_id: int) -> Sequence[tuple[Sheet, int]]:
    """The sheets that an exercise is on, with its place on each, counted from 1."""
    found = session.execute(
        select(Sheet, SheetEntry.position)
        .join(SheetEntry, SheetEntry.sheet_id == Sheet.id)
        .where(SheetEntry.exercise_id == exercise_id)
        .order_by(Sheet.position, Sheet.id)
    )
    return [(sheet, position + 1) for sheet, position in found]
