"""The tables of exercises, their other answers, trials and versions."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from jentrow.records.models.base import Base
from jentrow.records.models.samples import Sample


class Exercise(Base):
    """An exercise; ``slug`` is its id in packs, ``rules`` to ``feedback`` as packs hold them.

    ``origin`` is the digest of the content as it was taken in from a pack, empty for one that was
    made here. ``draft`` is a content that is not kept yet, as it was typed.
    """

    __tablename__ = "exercises"
    __table_args__ = (UniqueConstraint("course_id", "slug"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    course_id: Mapped[int] = mapped_column(ForeignKey("courses.id", ondelete="CASCADE"))
    sample_id: Mapped[int] = mapped_column(ForeignKey("samples.id"))
    slug: Mapped[str]
    position: Mapped[int]
    title: Mapped[str]
    prompt: Mapped[str]
    engine: Mapped[str]
    points: Mapped[float]
    reference: Mapped[str]
    rules: Mapped[dict[str, Any]]
    tags: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    constructs: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    layout: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    marks: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    feedback: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    origin: Mapped[str] = mapped_column(default="", server_default="")
    draft: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True))
    drafted_at: Mapped[datetime | None]

    sample: Mapped[Sample] = relationship(lazy="joined")
    alternatives: Mapped[list[Alternative]] = relationship(
        cascade="all, delete-orphan", order_by="Alternative.position", lazy="selectin"
    )
    trials: Mapped[list[Trial]] = relationship(
        cascade="all, delete-orphan", order_by="Trial.position", lazy="selectin"
    )


class Alternative(Base):
    """An accepted alternative of an exercise."""

    __tablename__ = "alternatives"
    __table_args__ = (UniqueConstraint("exercise_id", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    exercise_id: Mapped[int] = mapped_column(ForeignKey("exercises.id", ondelete="CASCADE"))
    position: Mapped[int]
    name: Mapped[str]
    sql: Mapped[str]


class Trial(Base):
    """A trial answer of an exercise."""

    __tablename__ = "trials"
    __table_args__ = (UniqueConstraint("exercise_id", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    exercise_id: Mapped[int] = mapped_column(ForeignKey("exercises.id", ondelete="CASCADE"))
    position: Mapped[int]
    name: Mapped[str]
    sql: Mapped[str]
    expected: Mapped[str]
    mark: Mapped[float | None]
    words: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")


class ExerciseVersion(Base):
    """An exercise as it was kept once; numbers count from 1 and never fall."""

    __tablename__ = "exercise_versions"
    __table_args__ = (UniqueConstraint("exercise_id", "number"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    exercise_id: Mapped[int] = mapped_column(ForeignKey("exercises.id", ondelete="CASCADE"))
    number: Mapped[int]
    content: Mapped[dict[str, Any]]
    summary: Mapped[str]
    by: Mapped[str]
    made_at: Mapped[datetime]


class Explanation(Base):
    """What was found out about a text on made-up rows, by what its gradings are measured with.

    ``text`` is a digest of it; ``found`` is as :mod:`jentrow.services.marking.explanations` writes
    it.
    """

    __tablename__ = "explanations"
    __table_args__ = (
        UniqueConstraint(
            "exercise_id", "measure", "text", name="uq_explanations_exercise_id_measure_text"
        ),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    exercise_id: Mapped[int] = mapped_column(ForeignKey("exercises.id", ondelete="CASCADE"))
    measure: Mapped[str]
    text: Mapped[str]
    found: Mapped[dict[str, Any]]
