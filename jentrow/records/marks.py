"""Queries about what submissions stand at: their grading, and the mark that was decided."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import UTC, datetime
from typing import Any, NamedTuple

from sqlalchemy import Select, Text, func, select, type_coerce
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
from jentrow.records.numbers import among
from jentrow.records.readings import unread_counts


class AnswerRow(NamedTuple):
    """A submission with what it stands at; what belongs to a grading is None without one.

    ``submitted`` is the time in UTC as the records hold it: two of them compare as text does.
    ``decided_mark`` is None where nothing was decided; ``then_verdict`` and ``then_mark`` are what
    grading said when it was.
    """

    id: int
    learner_id: int
    exercise_id: int
    sheet_id: int | None
    submitted: str
    grading_id: int | None
    verdict: str | None
    undecided: str | None
    mark: float | None
    outcome: str | None
    wording: str | None
    codes: str | None
    measure: str | None
    decided_mark: float | None
    decision_id: int | None
    joined: bool | None
    then_grading_id: int | None
    then_verdict: str | None
    then_mark: float | None

    @property
    def submitted_at(self) -> datetime:
        """When it was handed in."""
        return datetime.fromisoformat(self.submitted).replace(tzinfo=UTC)


def instant_text(at: datetime) -> str:
    """An instant as the records hold it, to be compared with ``submitted``."""
    return at.astimezone(UTC).strftime("%Y-%m-%d %H:%M:%S.%f")


_THEN = aliased(Grading)


def _answers() -> Select[*tuple[Any, ...]]:
    return (
        select(
            Submission.id,
            Submission.learner_id,
            Submission.exercise_id,
            Submission.sheet_id,
            type_coerce(Submission.submitted_at, Text),
            Submission.grading_id,
            Grading.verdict,
            Grading.undecided,
            Grading.mark,
            Grading.outcome,
            Grading.wording,
            Grading.codes,
            Grading.measure,
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
    )


def _rows(session: Session, asked: Select[*tuple[Any, ...]]) -> list[AnswerRow]:
    # A course has tens of thousands of them: the driver's own tuples are taken as they are.
    connection = session.connection()
    compiled = asked.compile(connection, compile_kwargs={"literal_binds": True})
    found = connection.exec_driver_sql(str(compiled)).cursor
    assert found is not None
    return list(map(AnswerRow._make, found.fetchall()))


def answers_to(session: Session, exercise_id: int) -> list[AnswerRow]:
    """All submissions to an exercise, as they came in."""
    asked = _answers().where(Submission.exercise_id == exercise_id)
    return _rows(session, asked.order_by(Submission.submitted_at, Submission.id))


def answers_in(session: Session, exercise_ids: Iterable[int]) -> list[AnswerRow]:
    """All submissions to some exercises, in no order."""
    return _rows(session, _answers().where(among(Submission.exercise_id, exercise_ids)))


def answer_states(session: Session, course_id: int) -> dict[int, tuple[Any, ...]]:
    """For each exercise of a course, what is another whenever any of its answers stands otherwise.

    Answers come and go, are graded, read, put on a sheet, decided about; decisions and regrades are
    taken back.
    """
    asked = (
        select(
            Submission.exercise_id,
            func.count(),
            func.max(Submission.id),
            func.max(Submission.grading_id),
            func.total(Submission.grading_id),
            func.count(Submission.grading_id),
            func.total(Submission.sheet_id),
        )
        .where(
            Submission.exercise_id.in_(select(Exercise.id).where(Exercise.course_id == course_id))
        )
        .group_by(Submission.exercise_id)
    )
    found: dict[int, tuple[Any, ...]] = {id: tuple(rest) for id, *rest in session.execute(asked)}
    for id, count in unread_counts(session):
        found[id] = (*found.get(id, ()), "unread", count)
    for table in (Decision, Regrade):
        changes = (
            select(table.exercise_id, func.max(table.id), func.count(table.undone_at))
            .join(Exercise, Exercise.id == table.exercise_id)
            .where(Exercise.course_id == course_id)
            .group_by(table.exercise_id)
        )
        for id, last, undone in session.execute(changes):
            found[id] = (*found.get(id, ()), table.__tablename__, last, undone)
    return found


def answers_on(session: Session, sheet_id: int, learner_id: int | None = None) -> list[AnswerRow]:
    """The submissions to a sheet, of one learner where one is named, in no order."""
    asked = _answers().where(Submission.sheet_id == sheet_id)
    if learner_id is not None:
        asked = asked.where(Submission.learner_id == learner_id)
    return _rows(session, asked)


def texts_of(session: Session, submission_ids: Iterable[int]) -> dict[int, str]:
    """The texts of some submissions."""
    asked = select(Submission.id, Submission.sql).where(among(Submission.id, submission_ids))
    rows = session.execute(asked)
    return {id: sql for id, sql in rows}  # noqa: C416


def first_findings(session: Session, submission_ids: Iterable[int]) -> dict[int, str]:
    """What was found first in some submissions, in words."""
    rows = session.execute(
        select(Submission.id, Grading.findings)
        .join(Grading, Grading.id == Submission.grading_id)
        .where(among(Submission.id, submission_ids))
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
        select(Question).where(among(Question.submission_id, submission_ids)).order_by(Question.id)
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


def decisions_numbered(session: Session, decision_ids: Iterable[int]) -> dict[int, Decision]:
    """Some decisions by their numbers; numbers without one are passed over."""
    found = session.scalars(select(Decision).where(among(Decision.id, decision_ids)))
    return {one.id: one for one in found}


def gradings_numbered(session: Session, grading_ids: Iterable[int]) -> dict[int, Grading]:
    """Some gradings by their numbers; numbers without one are passed over."""
    found = session.scalars(select(Grading).where(among(Grading.id, grading_ids)))
    return {one.id: one for one in found}


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
        .where(Exercise.course_id == course_id, among(Submission.id, submission_ids))
        .order_by(Learner.name, Submission.id)
    )
    return [(id, name, title, verdict, undecided, mark)
            for id, name, title, verdict, undecided, mark in rows]  # fmt: skip
