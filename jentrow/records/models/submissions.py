"""The tables of what learners write and hand in, and of its gradings."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING, Any

from sqlalchemy import ColumnElement, ForeignKey, Index, UniqueConstraint, case, text
from sqlalchemy.ext.hybrid import hybrid_property
from sqlalchemy.orm import Mapped, mapped_column, relationship

from jentrow.core.exercises.grading.outcomes import UNDECIDED, standing_of
from jentrow.records.models.base import Base
from jentrow.records.models.exercises import Exercise
from jentrow.records.models.people import Learner
from jentrow.records.models.sheets import Sheet

if TYPE_CHECKING:
    from jentrow.records.models.marks import DecidedMark


class AnswerDraft(Base):
    """What a learner has typed for an exercise and not handed in."""

    __tablename__ = "answer_drafts"

    learner_id: Mapped[int] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), primary_key=True
    )
    exercise_id: Mapped[int] = mapped_column(
        ForeignKey("exercises.id", ondelete="CASCADE"), primary_key=True
    )
    sql: Mapped[str]
    saved_at: Mapped[datetime]


class Submission(Base):
    """One hand-in of one query. ``sheet_id`` is None for one that belongs to no sheet.

    ``key`` is what the learner's page calls the hand-in: sent twice, it counts once. ``grading`` is
    the one of its gradings that stands, ``decided`` the mark that was decided for it, if one was.
    """

    __tablename__ = "submissions"
    __table_args__ = (UniqueConstraint("learner_id", "key"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    exercise_id: Mapped[int] = mapped_column(
        ForeignKey("exercises.id", ondelete="CASCADE"), index=True
    )
    learner_id: Mapped[int] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), index=True
    )
    sheet_id: Mapped[int | None] = mapped_column(
        ForeignKey("sheets.id", ondelete="SET NULL"), index=True
    )
    key: Mapped[str | None]
    sql: Mapped[str]
    submitted_at: Mapped[datetime]
    grading_id: Mapped[int | None] = mapped_column(
        ForeignKey("gradings.id", ondelete="SET NULL", use_alter=True), index=True
    )
    decided_id: Mapped[int | None] = mapped_column(
        ForeignKey("decided_marks.id", ondelete="SET NULL", use_alter=True), index=True
    )

    exercise: Mapped[Exercise] = relationship()
    sheet: Mapped[Sheet | None] = relationship()
    learner: Mapped[Learner] = relationship(lazy="joined")
    grading: Mapped[Grading | None] = relationship(
        foreign_keys=[grading_id], lazy="joined", viewonly=True
    )
    decided: Mapped[DecidedMark | None] = relationship(foreign_keys=[decided_id], viewonly=True)


class GradingTask(Base):
    """A submission that waits to be graded, or to be graded anew.

    It is deleted in the transaction that keeps the grading: a server that is killed in between
    grades the submission when it starts again. The smallest ``priority`` goes first. ``problem``
    says why grading cannot be done as things are. ``generation`` grows with every wish that it be
    graded anew: what was taken at an earlier one does not end the task. ``claimed_by`` is who
    grades it, and ``claimed_at`` since when it is judged; ``tries`` counts claims that ended with a process.
    ``turn`` orders what has the same priority, where learners take turns.
    """

    __tablename__ = "grading_tasks"
    __table_args__ = (
        # The order in which they are claimed: whoever hands in waits for no look at all the others.
        Index(
            "ix_grading_tasks_in_order",
            "priority",
            "tries",
            "turn",
            "queued_at",
            "submission_id",
        ),
    )

    submission_id: Mapped[int] = mapped_column(
        ForeignKey("submissions.id", ondelete="CASCADE"), primary_key=True
    )
    exercise_id: Mapped[int] = mapped_column(
        ForeignKey("exercises.id", ondelete="CASCADE"), index=True
    )
    priority: Mapped[int]
    turn: Mapped[int] = mapped_column(default=0, server_default="0")
    queued_at: Mapped[datetime]
    problem: Mapped[str] = mapped_column(default="", server_default="")
    generation: Mapped[int] = mapped_column(default=1, server_default="1")
    claimed_by: Mapped[str | None]
    claimed_at: Mapped[datetime | None]
    tries: Mapped[int] = mapped_column(default=0, server_default="0")


class Grading(Base):
    """What a submission came to once, and what it was graded with.

    It is never changed, but that its ``wording``, for which nobody waits, is told a little later;
    and, where it is not ``explained`` yet, what reading the text adds to its findings.

    ``exercise_version``, ``dataset_versions`` (by the datasets' names) and ``engine`` say what it
    was made with, and ``measure`` is a digest of all that could change it: see
    :class:`jentrow.services.runtime.runtime.MadeWith`. ``datasets`` has, for each dataset, the verdict, the
    sizes and the digest of the result. ``outcome`` is equal for submissions that behave the same,
    ``wording`` for texts of one wording; ``codes`` are the kinds of findings, each once, with blanks
    between. ``undecided`` says what an instructor has to decide first;
    ``standing`` is then that word, else the verdict.
    """

    __tablename__ = "gradings"
    __table_args__ = (
        Index("ix_gradings_without_wording", "id", sqlite_where=text("wording = ''")),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    submission_id: Mapped[int] = mapped_column(
        ForeignKey("submissions.id", ondelete="CASCADE"), index=True
    )
    verdict: Mapped[str]
    mark: Mapped[float]
    answer: Mapped[str]
    findings: Mapped[list[Any]]
    ledger: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    engine: Mapped[str]
    graded_at: Mapped[datetime]
    undecided: Mapped[str] = mapped_column(default="", server_default="")
    exercise_version: Mapped[int] = mapped_column(default=0, server_default="0")
    dataset_versions: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    measure: Mapped[str] = mapped_column(default="", server_default="")
    datasets: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    outcome: Mapped[str] = mapped_column(default="", server_default="")
    wording: Mapped[str] = mapped_column(default="", server_default="")
    codes: Mapped[str] = mapped_column(default="", server_default="")
    explained: Mapped[bool] = mapped_column(default=True, server_default="1")

    @hybrid_property
    def standing(self) -> str:
        """The verdict, or that it is undecided."""
        return standing_of(self.verdict, self.undecided)

    @standing.inplace.expression
    @classmethod
    def _standing_expression(cls) -> ColumnElement[str]:
        return case((cls.undecided != "", UNDECIDED), else_=cls.verdict)
