"""The tables of sheets and what is on them."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import DateTime, ForeignKey, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from jentrow.records.models.base import Base
from jentrow.records.models.exercises import Exercise


class Sheet(Base):
    """An exercise sheet; its times are the course's own and have no zone.

    ``counting`` says which attempts count, ``best_of`` how many of its exercises (None: all), and
    ``weight`` what it weighs in the course's total (None: as much as it has points). Its marks are
    told to learners from ``published_at`` on.
    """

    __tablename__ = "sheets"
    __table_args__ = (UniqueConstraint("course_id", "slug"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    course_id: Mapped[int] = mapped_column(ForeignKey("courses.id", ondelete="CASCADE"))
    slug: Mapped[str]
    position: Mapped[int]
    title: Mapped[str]
    opens: Mapped[datetime | None] = mapped_column(DateTime)
    closes: Mapped[datetime | None] = mapped_column(DateTime)
    attempts: Mapped[int | None]
    late: Mapped[dict[str, Any]]
    origin: Mapped[str] = mapped_column(default="", server_default="")
    counting: Mapped[str] = mapped_column(default="best", server_default="best")
    best_of: Mapped[int | None]
    weight: Mapped[float | None]
    published_at: Mapped[datetime | None]
    published_by: Mapped[str] = mapped_column(default="", server_default="")

    entries: Mapped[list[SheetEntry]] = relationship(
        cascade="all, delete-orphan", order_by="SheetEntry.position", lazy="selectin"
    )


class SheetEntry(Base):
    """An exercise on a sheet, with what it is worth there."""

    __tablename__ = "sheet_entries"
    __table_args__ = (UniqueConstraint("sheet_id", "exercise_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    sheet_id: Mapped[int] = mapped_column(ForeignKey("sheets.id", ondelete="CASCADE"))
    exercise_id: Mapped[int] = mapped_column(ForeignKey("exercises.id", ondelete="CASCADE"))
    position: Mapped[int]
    points: Mapped[float | None]

    exercise: Mapped[Exercise] = relationship(lazy="joined")


class Extension(Base):
    """Another closing time of a sheet for one learner, in the course's own time."""

    __tablename__ = "extensions"

    sheet_id: Mapped[int] = mapped_column(
        ForeignKey("sheets.id", ondelete="CASCADE"), primary_key=True
    )
    learner_id: Mapped[int] = mapped_column(
        ForeignKey("learners.id", ondelete="CASCADE"), primary_key=True
    )
    closes: Mapped[datetime] = mapped_column(DateTime)
