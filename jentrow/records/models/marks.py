"""The tables of what instructors decide about answers, and of what is asked and said about them."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from jentrow.records.models.base import Base
from jentrow.records.models.exercises import Exercise
from jentrow.records.models.submissions import Grading, Submission


class Decision(Base):
    """What an instructor decided about answers to an exercise, at one stroke. Only undoing changes it.

    ``groups`` are the outcome groups, or parts of them, that it holds for: an answer that comes
    later, graded by the same ``measure``, joins it. Each is ``{outcome, wording, codes}``, with
    empty text for any. ``mark`` is None where each answer keeps the mark that grading gave it.
    """

    __tablename__ = "decisions"

    id: Mapped[int] = mapped_column(primary_key=True)
    exercise_id: Mapped[int] = mapped_column(
        ForeignKey("exercises.id", ondelete="CASCADE"), index=True
    )
    at: Mapped[datetime]
    by: Mapped[str]
    groups: Mapped[list[Any]]
    measure: Mapped[str]
    mark: Mapped[float | None]
    ledger: Mapped[list[Any]]
    comment: Mapped[str]
    reason: Mapped[str]
    undone_at: Mapped[datetime | None]
    undone_by: Mapped[str] = mapped_column(default="", server_default="")


class DecidedMark(Base):
    """The mark that a decision gave to a submission; never changed.

    ``grading_id`` is what the submission had come to then, ``before_id`` the decided mark that stood
    until then, ``joined`` that the submission came after the decision.
    """

    __tablename__ = "decided_marks"

    id: Mapped[int] = mapped_column(primary_key=True)
    submission_id: Mapped[int] = mapped_column(
        ForeignKey("submissions.id", ondelete="CASCADE"), index=True
    )
    decision_id: Mapped[int] = mapped_column(
        ForeignKey("decisions.id", ondelete="CASCADE"), index=True
    )
    grading_id: Mapped[int | None] = mapped_column(
        ForeignKey("gradings.id", ondelete="SET NULL"), index=True
    )
    mark: Mapped[float]
    before_id: Mapped[int | None] = mapped_column(
        ForeignKey("decided_marks.id", ondelete="SET NULL"), index=True
    )
    joined: Mapped[bool]

    decision: Mapped[Decision] = relationship(viewonly=True)
    grading: Mapped[Grading | None] = relationship(viewonly=True)


class Regrade(Base):
    """An exercise's answers graded anew; ``before`` has the grading that each had until then."""

    __tablename__ = "regrades"

    id: Mapped[int] = mapped_column(primary_key=True)
    exercise_id: Mapped[int] = mapped_column(
        ForeignKey("exercises.id", ondelete="CASCADE"), index=True
    )
    at: Mapped[datetime]
    by: Mapped[str]
    version: Mapped[int]
    before: Mapped[dict[str, Any]]
    undone_at: Mapped[datetime | None]
    undone_by: Mapped[str] = mapped_column(default="", server_default="")


class Question(Base):
    """A question about a mark: a learner's, or one that an instructor asks a colleague.

    A learner asks about a ``submission``; an instructor about the outcome group that it stands for.
    It is open until it is answered.
    """

    __tablename__ = "questions"

    id: Mapped[int] = mapped_column(primary_key=True)
    exercise_id: Mapped[int] = mapped_column(
        ForeignKey("exercises.id", ondelete="CASCADE"), index=True
    )
    submission_id: Mapped[int] = mapped_column(
        ForeignKey("submissions.id", ondelete="CASCADE"), index=True
    )
    by_learner: Mapped[bool]
    asked_by: Mapped[str]
    asked_at: Mapped[datetime]
    text: Mapped[str]
    answer: Mapped[str] = mapped_column(default="", server_default="")
    answered_by: Mapped[str] = mapped_column(default="", server_default="")
    answered_at: Mapped[datetime | None]

    submission: Mapped[Submission] = relationship(lazy="joined")
    exercise: Mapped[Exercise] = relationship(lazy="joined")


class Adjustment(Base):
    """An extra mark on a sheet (``extra``), or an exercise that a learner need not do (``excused``)."""

    __tablename__ = "adjustments"

    id: Mapped[int] = mapped_column(primary_key=True)
    learner_id: Mapped[int] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), index=True
    )
    sheet_id: Mapped[int] = mapped_column(ForeignKey("sheets.id", ondelete="CASCADE"))
    exercise_id: Mapped[int | None] = mapped_column(ForeignKey("exercises.id", ondelete="CASCADE"))
    kind: Mapped[str]
    points: Mapped[float]
    reason: Mapped[str]
    at: Mapped[datetime]
    by: Mapped[str]
    undone_at: Mapped[datetime | None]
    undone_by: Mapped[str] = mapped_column(default="", server_default="")


class Phrase(Base):
    """A comment that an instructor keeps, to be used again in the course."""

    __tablename__ = "phrases"
    __table_args__ = (UniqueConstraint("course_id", "text"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    course_id: Mapped[int] = mapped_column(ForeignKey("courses.id", ondelete="CASCADE"))
    text: Mapped[str]
