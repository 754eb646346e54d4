"""The tables of samples, their datasets, and the queries tried on them."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from jentrow.records.models.base import Base


class Sample(Base):
    """A sample database; its datasets lie in ``folder``, below the data folder.

    ``notes`` says what was left out and what is to be known of how it was made; ``table_notes`` is
    what its instructor noted on tables and columns, as
    :func:`~jentrow.core.samples.tablenotes.read_notes` takes it.
    """

    __tablename__ = "samples"
    __table_args__ = (UniqueConstraint("course_id", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    course_id: Mapped[int] = mapped_column(ForeignKey("courses.id", ondelete="CASCADE"))
    name: Mapped[str]
    folder: Mapped[str]
    notes: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    table_notes: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")

    datasets: Mapped[list[Dataset]] = relationship(
        cascade="all, delete-orphan", order_by="Dataset.position", lazy="selectin"
    )


class Dataset(Base):
    """A dataset of a sample, kept in a folder of its own; the open one has position 0."""

    __tablename__ = "datasets"
    __table_args__ = (UniqueConstraint("sample_id", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    sample_id: Mapped[int] = mapped_column(ForeignKey("samples.id", ondelete="CASCADE"))
    name: Mapped[str]
    position: Mapped[int]
    folder: Mapped[str]


class TriedQuery(Base):
    """A query that somebody tried on a sample; ``rows`` is None where it gave no result.

    Those of instructors have no learner. A learner's belong to the exercise that they were run
    for. One with a ``name`` is kept until the name is taken away.
    """

    __tablename__ = "tried_queries"

    id: Mapped[int] = mapped_column(primary_key=True)
    sample_id: Mapped[int] = mapped_column(ForeignKey("samples.id", ondelete="CASCADE"), index=True)
    learner_id: Mapped[int | None] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), index=True
    )
    exercise_id: Mapped[int | None] = mapped_column(
        ForeignKey("exercises.id", ondelete="CASCADE"), index=True
    )
    name: Mapped[str] = mapped_column(server_default="")
    dataset: Mapped[str]
    sql: Mapped[str]
    rows: Mapped[int | None]
    said: Mapped[str]
    tried_at: Mapped[datetime]
