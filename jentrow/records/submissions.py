"""Queries about submissions and what they came to."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session, joinedload

from jentrow.records.models import Learner, Submission


def submissions_to(session: Session, exercise_id: int) -> Sequence[Submission]:
    """All submissions to an exercise, as they came in."""
    return session.scalars(
        select(Submission)
        .where(Submission.exercise_id == exercise_id)
        .order_by(Submission.submitted_at, Submission.id)
    ).all()


def find_submission(session: Session, submission_id: int) -> Submission | None:
    """One submission with its exercise."""
    return session.scalars(
        select(Submission)
        .where(Submission.id == submission_id)
        .options(joinedload(Submission.exercise))
    ).one_or_none()


def learner_named(session: Session, course_id: int, name: str) -> Learner:
    """The learner of this name, made where there is none yet."""
    learner = session.scalars(
        select(Learner).where(Learner.course_id == course_id, Learner.name == name)
    ).one_or_none()
    if learner is None:
        learner = Learner(course_id=course_id, name=name)
        session.add(learner)
        session.flush()
    return learner


def count_submissions(session: Session) -> int:
    """How many submissions there are."""
    return session.scalar(select(func.count()).select_from(Submission)) or 0
