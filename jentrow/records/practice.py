"""Queries for a learner's own pages: attempts, drafts, extensions."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from jentrow.records.models import AnswerDraft, Extension, Grading, Submission


def attempts_on(
    session: Session, learner_id: int, sheet_ids: Iterable[int]
) -> dict[tuple[int, int], list[Submission]]:
    """A learner's submissions by (sheet, exercise), as they came in."""
    found = session.scalars(
        select(Submission)
        .where(Submission.learner_id == learner_id, Submission.sheet_id.in_(list(sheet_ids)))
        .order_by(Submission.submitted_at, Submission.id)
    )
    attempts: dict[tuple[int, int], list[Submission]] = {}
    for one in found:
        attempts.setdefault((one.sheet_id or 0, one.exercise_id), []).append(one)
    return attempts


def handed_in_as(session: Session, learner_id: int, key: str) -> Submission | None:
    """The submission that a learner's page handed in under a key."""
    return session.scalars(
        select(Submission).where(Submission.learner_id == learner_id, Submission.key == key)
    ).one_or_none()


def extensions_for(session: Session, learner_id: int) -> dict[int, Extension]:
    """A learner's extensions by sheet."""
    found = session.scalars(select(Extension).where(Extension.learner_id == learner_id))
    return {one.sheet_id: one for one in found}


def drafts_of(session: Session, learner_id: int) -> Sequence[AnswerDraft]:
    """What a learner has typed and not handed in."""
    return session.scalars(select(AnswerDraft).where(AnswerDraft.learner_id == learner_id)).all()


def count_graded(session: Session, learner_id: int) -> tuple[int, str]:
    """How many of a learner's submissions have been graded, and when the last one was."""
    count, last = session.execute(
        select(func.count(Grading.submission_id), func.max(Grading.graded_at))
        .join(Submission, Submission.id == Grading.submission_id)
        .where(Submission.learner_id == learner_id)
    ).one()
    return count, "" if last is None else last.isoformat()
