"""The tables of courses and people: who they are, how they sign in, what they may do."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from jentrow.records.models.base import Base


class Course(Base):
    """A course, with everything that belongs to it.

    ``slug`` is its name in addresses. ``zone`` is the time zone that its sheets' times are in.
    Whoever has the ``join_code`` may join; None where nobody may. Totals are rounded to a
    ``mark_step``.
    """

    __tablename__ = "courses"

    id: Mapped[int] = mapped_column(primary_key=True)
    slug: Mapped[str] = mapped_column(unique=True)
    title: Mapped[str]
    zone: Mapped[str] = mapped_column(default="UTC", server_default="UTC")
    join_code: Mapped[str | None] = mapped_column(unique=True)
    archived_at: Mapped[datetime | None]
    grading_paused: Mapped[bool] = mapped_column(default=False, server_default="0")
    mark_step: Mapped[float] = mapped_column(default=0.01, server_default="0.01")


class Person(Base):
    """Somebody who signs in. ``login`` is case-folded; None until they have chosen one.

    ``teaches`` says that they may make courses.
    """

    __tablename__ = "people"

    id: Mapped[int] = mapped_column(primary_key=True)
    login: Mapped[str | None] = mapped_column(unique=True)
    name: Mapped[str]
    email: Mapped[str] = mapped_column(default="", server_default="")
    password: Mapped[str] = mapped_column(default="", server_default="")
    teaches: Mapped[bool] = mapped_column(default=False, server_default="0")
    made_at: Mapped[datetime]


class Instructor(Base):
    """Somebody who teaches a course."""

    __tablename__ = "instructors"

    course_id: Mapped[int] = mapped_column(
        ForeignKey("courses.id", ondelete="CASCADE"), primary_key=True
    )
    person_id: Mapped[int] = mapped_column(
        ForeignKey("people.id", ondelete="CASCADE"), primary_key=True
    )

    person: Mapped[Person] = relationship(lazy="joined")


class SignIn(Base):
    """A browser that somebody is signed in with; only a digest of its token is kept."""

    __tablename__ = "sign_ins"

    token: Mapped[str] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("people.id", ondelete="CASCADE"), index=True)
    guard: Mapped[str]
    browser: Mapped[str]
    made_at: Mapped[datetime]
    seen_at: Mapped[datetime]

    person: Mapped[Person] = relationship(lazy="joined")


class Link(Base):
    """A link that works once: it lets somebody choose a password, and be who it is for.

    ``kind`` is ``first`` (the first instructor), ``instructor`` or ``learner`` (of a course), or
    ``password``. Only a digest of the token is kept.
    """

    __tablename__ = "links"

    token: Mapped[str] = mapped_column(primary_key=True)
    kind: Mapped[str]
    course_id: Mapped[int | None] = mapped_column(ForeignKey("courses.id", ondelete="CASCADE"))
    learner_id: Mapped[int | None] = mapped_column(ForeignKey("learners.id", ondelete="CASCADE"))
    person_id: Mapped[int | None] = mapped_column(ForeignKey("people.id", ondelete="CASCADE"))
    ends_at: Mapped[datetime]


class LinkEvent(Base):
    """A link that was made, used, or made useless (``revoked``), for whom it concerns to see.

    ``by`` is who did it, empty for whoever runs the server; ``course`` is the course's title.
    """

    __tablename__ = "link_events"

    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime]
    what: Mapped[str]
    kind: Mapped[str]
    course: Mapped[str]
    learner_id: Mapped[int | None] = mapped_column(
        ForeignKey("learners.id", ondelete="SET NULL"), index=True
    )
    person_id: Mapped[int | None] = mapped_column(
        ForeignKey("people.id", ondelete="CASCADE"), index=True
    )
    by: Mapped[str]


class Throttle(Base):
    """How often signing in failed lately, by name or by address."""

    __tablename__ = "throttles"

    key: Mapped[str] = mapped_column(primary_key=True)
    failures: Mapped[int]
    last_at: Mapped[datetime]


class Learner(Base):
    """Somebody who hands in. ``code`` is the learner id of the roster.

    ``person_id`` is None as long as nobody has signed in as this learner.
    """

    __tablename__ = "learners"
    __table_args__ = (
        UniqueConstraint("course_id", "code"),
        UniqueConstraint("person_id", "course_id"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    course_id: Mapped[int] = mapped_column(ForeignKey("courses.id", ondelete="CASCADE"))
    code: Mapped[str]
    name: Mapped[str]
    email: Mapped[str] = mapped_column(default="", server_default="")
    person_id: Mapped[int | None] = mapped_column(ForeignKey("people.id", ondelete="SET NULL"))
