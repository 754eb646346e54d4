"""Queries about exercises and their samples."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from jentrow.records.models import Course, Exercise, Grading, Submission


def the_course(session: Session) -> Course | None:
    """The course whose records these are."""
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
        .join(Grading, Grading.submission_id == Submission.id)
        .where(Exercise.course_id == course_id, code.is_not(None))
        .group_by(Submission.exercise_id, code)
        .order_by(code)
    )
    counts: dict[int, Counter[str]] = {}
    for exercise_id, found, count in rows:
        counts.setdefault(exercise_id, Counter())[found] = count
    return counts


def verdict_counts(session: Session, course_id: int) -> dict[int, dict[str, int]]:
    """For each exercise, how many submissions got which verdict; ``""`` for those not graded."""
    rows = session.execute(
        select(Submission.exercise_id, func.coalesce(Grading.verdict, ""), func.count())
        .join(Exercise, Exercise.id == Submission.exercise_id)
        .outerjoin(Grading, Grading.submission_id == Submission.id)
        .where(Exercise.course_id == course_id)
        .group_by(Submission.exercise_id, Grading.verdict)
    )
    counts: dict[int, dict[str, int]] = {}
    for exercise_id, verdict, count in rows:
        counts.setdefault(exercise_id, {})[verdict] = count
    return counts
