"""Queries about what submissions stand at: their grading, and the mark that was decided."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import Any, NamedTuple

from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session, aliased

from jentrow.records.models import (
    Adjustment,
    DecidedMark,
    Decision,
    Exercise,
    Grading,
    Learner,
    Phrase,
    Question,
    Regrade,
    Submission,
)


class AnswerRow(NamedTuple):
    """A submission with what it stands at; what belongs to a grading is None without one.

    ``decided_mark`` is None where nothing was decided; ``then_verdict`` and ``then_mark`` are what
    grading said when it was.
    """

    id: int
    learner_id: int
    exercise_id: int
    sheet_id: int | None
    submitted_at: datetime
    grading_id: int | None
    verdict: str | None
    undecided: str | None
    mark: float | None
    outcome: str | None
    wording: str | None
    codes: str | None
    measure: str | None
    graded_version: int | None
    decided_mark: float | None
    decision_id: int | None
    joined: bool | None
    then_grading_id: int | None
    then_verdict: str | None
    then_mark: float | None


_THEN = aliased(Grading)


def _answers() -> Select[*tuple[Any, ...]]:
    return (
        select(
            Submission.id,
            Submission.learner_id,
            Submission.exercise_id,
            Submission.sheet_id,
            Submission.submitted_at,
            Submission.grading_id,
            Grading.verdict,
            Grading.undecided,
            Grading.mark,
            Grading.outcome,
            Grading.wording,
            Grading.codes,
            Grading.measure,
            Grading.exercise_version,
            DecidedMark.mark,
            DecidedMark.decision_id,
            DecidedMark.joined,
            DecidedMark.grading_id,
            _THEN.verdict,
            _THEN.mark,
        )
        .outerjoin(Grading, Grading.id == Submission.grading_id)
        .outerjoin(DecidedMark, DecidedMark.id == Submission.decided_id)
        .outerjoin(_THEN, _THEN.id == DecidedMark.grading_id)
        .order_by(Submission.submitted_at, Submission.id)
    )


def answers_to(session: Session, exercise_id: int) -> list[AnswerRow]:
    """All submissions to an exercise, as they came in."""
    rows = session.execute(_answers().where(Submission.exercise_id == exercise_id))
    return [AnswerRow._make(row) for row in rows]


def answers_in(session: Session, course_id: int) -> list[AnswerRow]:
    """All submissions of a course, as they came in."""
    rows = session.execute(
        _answers()
        .join(Exercise, Exercise.id == Submission.exercise_id)
        .where(Exercise.course_id == course_id)
    )
    return [AnswerRow._make(row) for row in rows]


def answers_of(session: Session, learner_id: int, sheet_id: int) -> list[AnswerRow]:
    """A learner's submissions to the exercises of a sheet, as they came in."""
    rows = session.execute(
        _answers().where(Submission.learner_id == learner_id, Submission.sheet_id == sheet_id)
    )
    return [AnswerRow._make(row) for row in rows]


def texts_of(session: Session, submission_ids: Iterable[int]) -> dict[int, str]:
    """The texts of some submissions."""
    asked = list(submission_ids)
    rows = session.execute(select(Submission.id, Submission.sql).where(Submission.id.in_(asked)))
    return {id: sql for id, sql in rows}  # noqa: C416


def first_findings(session: Session, submission_ids: Iterable[int]) -> dict[int, str]:
    """What was found first in some submissions, in words."""
    rows = session.execute(
        select(Submission.id, Grading.findings)
        .join(Grading, Grading.id == Submission.grading_id)
        .where(Submission.id.in_(list(submission_ids)))
    )
    return {id: str(findings[0]["message"]) for id, findings in rows if findings}


def standing_adjustments(session: Session, course_id: int) -> Sequence[Adjustment]:
    """The extra marks and excuses of a course that were not taken back."""
    return session.scalars(
        select(Adjustment)
        .join(Learner, Learner.id == Adjustment.learner_id)
        .where(Learner.course_id == course_id, Adjustment.undone_at.is_(None))
        .order_by(Adjustment.id)
    ).all()


def open_questions(session: Session, course_id: int) -> Sequence[Question]:
    """The questions of a course that nobody has answered, the oldest first."""
    return session.scalars(
        select(Question)
        .join(Exercise, Exercise.id == Question.exercise_id)
        .where(Exercise.course_id == course_id, Question.answered_at.is_(None))
        .order_by(Question.id)
    ).all()


def questions_about(session: Session, submission_ids: Iterable[int]) -> Sequence[Question]:
    """The questions about some submissions, the oldest first."""
    return session.scalars(
        select(Question)
        .where(Question.submission_id.in_(list(submission_ids)))
        .order_by(Question.id)
    ).all()


def phrases_of(session: Session, course_id: int) -> Sequence[Phrase]:
    """The comments that are kept in a course, in the order of the alphabet."""
    return session.scalars(
        select(Phrase).where(Phrase.course_id == course_id).order_by(Phrase.text)
    ).all()


def regrades_of(session: Session, exercise_id: int) -> Sequence[Regrade]:
    """How often an exercise's answers were graded anew, the last first."""
    return session.scalars(
        select(Regrade).where(Regrade.exercise_id == exercise_id).order_by(Regrade.id.desc())
    ).all()


def decision_of(session: Session, decision_id: int | None) -> Decision | None:
    """A decision by its number."""
    return None if decision_id is None else session.get(Decision, decision_id)


def answers_named(
    session: Session, course_id: int, submission_ids: Iterable[int]
) -> list[tuple[int, str, str, str | None, str, float | None]]:
    """For some submissions of a course: number, learner, exercise, verdict, undecided, mark."""
    rows = session.execute(
        select(
            Submission.id,
            Learner.name,
            Exercise.title,
            Grading.verdict,
            func.coalesce(Grading.undecided, ""),
            func.coalesce(DecidedMark.mark, Grading.mark),
        )
        .join(Learner, Learner.id == Submission.learner_id)
        .join(Exercise, Exercise.id == Submission.exercise_id)
        .outerjoin(Grading, Grading.id == Submission.grading_id)
        .outerjoin(DecidedMark, DecidedMark.id == Submission.decided_id)
        .where(Exercise.course_id == course_id, Submission.id.in_(list(submission_ids)))
        .order_by(Learner.name, Submission.id)
    )
    return [(id, name, title, verdict, undecided, mark)
            for id, name, title, verdict, undecided, mark in rows]  # fmt: skip
