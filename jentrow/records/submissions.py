"""Queries about submissions and what they came to."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, joinedload

from jentrow.records.models import Grading, Learner, Submission


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


def learners_named(session: Session, course_id: int, names: Iterable[str]) -> dict[str, Learner]:
    """The learners of these names, made where there are none yet."""
    found = {
        learner.name: learner
        for learner in session.scalars(select(Learner).where(Learner.course_id == course_id))
    }
    for name in names:
        if name not in found:
            found[name] = Learner(course_id=course_id, name=name)
            session.add(found[name])
    session.flush()
    return found


def keep_gradings(session: Session, gradings: Sequence[dict[str, Any]]) -> None:
    """Keeps what submissions came to, in place of what they came to before."""
    if not gradings:
        return
    adding = insert(Grading)
    changed = {name: adding.excluded[name] for name in gradings[0] if name != "submission_id"}
    session.execute(
        adding.on_conflict_do_update(index_elements=["submission_id"], set_=changed),
        list(gradings),
    )
