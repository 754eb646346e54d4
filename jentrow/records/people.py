"""Queries about people: who teaches, who learns, and the links that were made for them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import UTC, datetime

from sqlalchemy import ColumnElement, func, or_, select
from sqlalchemy.orm import Session

from jentrow.records.database import ACTOR
from jentrow.records.models import (
    Course,
    Extension,
    Instructor,
    Learner,
    Link,
    LinkEvent,
    Person,
    Submission,
)
from jentrow.records.numbers import among


def course_named(session: Session, slug: str) -> Course | None:
    """The course with this slug."""
    return session.scalars(select(Course).where(Course.slug == slug)).one_or_none()


def courses_taught(session: Session, person_id: int) -> Sequence[Course]:
    """The courses that somebody teaches, archived ones last."""
    return session.scalars(
        select(Course)
        .join(Instructor, Instructor.course_id == Course.id)
        .where(Instructor.person_id == person_id)
        .order_by(Course.archived_at.is_not(None), Course.title, Course.id)
    ).all()


def courses_learnt(session: Session, person_id: int) -> Sequence[Course]:
    """The courses that somebody is a learner of, archived ones last."""
    return session.scalars(
        select(Course)
        .join(Learner, Learner.course_id == Course.id)
        .where(Learner.person_id == person_id)
        .order_by(Course.archived_at.is_not(None), Course.title, Course.id)
    ).all()


def teaches(session: Session, person_id: int, course_id: int) -> bool:
    """Whether somebody teaches a course."""
    return session.get(Instructor, (course_id, person_id)) is not None


def instructors_of(session: Session, course_id: int) -> Sequence[Instructor]:
    """Who teaches a course."""
    return session.scalars(select(Instructor).where(Instructor.course_id == course_id)).all()


def learner_of(session: Session, person_id: int, course_id: int) -> Learner | None:
    """The learner that somebody is in a course."""
    return session.scalars(
        select(Learner).where(Learner.person_id == person_id, Learner.course_id == course_id)
    ).one_or_none()


def is_known_elsewhere(session: Session, person: Person, course_id: int) -> bool:
    """Whether somebody is more than a learner of this one course."""
    if person.teaches:
        return True
    other_role = select(Instructor.person_id).where(Instructor.person_id == person.id)
    other_course = select(Learner.id).where(
        Learner.person_id == person.id, Learner.course_id != course_id
    )
    return session.scalar(select(other_role.exists() | other_course.exists())) is True


def learners_of(session: Session, course_id: int) -> Sequence[Learner]:
    """The learners of a course, by name."""
    return session.scalars(
        select(Learner).where(Learner.course_id == course_id).order_by(Learner.name, Learner.id)
    ).all()


def submission_counts(session: Session, course_id: int) -> dict[int, int]:
    """How many submissions each learner of a course has handed in."""
    rows = session.execute(
        select(Submission.learner_id, func.count())
        .join(Learner, Learner.id == Submission.learner_id)
        .where(Learner.course_id == course_id)
        .group_by(Submission.learner_id)
    )
    return {learner_id: count for learner_id, count in rows}  # noqa: C416


def links_of_learners(session: Session, learner_ids: Iterable[int]) -> dict[int, datetime]:
    """Until when the links of learners work that have not been opened yet."""
    rows = session.execute(
        select(Link.learner_id, func.max(Link.ends_at))
        .where(among(Link.learner_id, learner_ids), Link.ends_at > datetime.now(UTC))
        .group_by(Link.learner_id)
    )
    return {learner_id: ends_at for learner_id, ends_at in rows if learner_id is not None}


def revoke_links(session: Session, *which: ColumnElement[bool]) -> None:
    """Makes links useless, and notes it."""
    for link in session.scalars(select(Link).where(*which)).all():
        note_link(session, link, "revoked")
        session.delete(link)
    session.flush()


def note_link(session: Session, link: Link, what: str, person: Person | None = None) -> None:
    """Notes that a link was ``made``, ``used`` (by a person) or ``revoked``."""
    learner = session.get(Learner, link.learner_id) if link.learner_id else None
    course = session.get(Course, link.course_id) if link.course_id else None
    session.add(
        LinkEvent(
            at=datetime.now(UTC),
            what=what,
            kind=link.kind,
            course=course.title if course else "",
            learner_id=link.learner_id,
            person_id=person.id if person else link.person_id or (learner and learner.person_id),
            by=person.name if person else session.info.get(ACTOR, ""),
        )
    )


def link_events_of(session: Session, person_id: int, most: int) -> Sequence[LinkEvent]:
    """What happened to the links of somebody's account, the last first."""
    theirs = select(Learner.id).where(Learner.person_id == person_id)
    return session.scalars(
        select(LinkEvent)
        .where(or_(LinkEvent.person_id == person_id, LinkEvent.learner_id.in_(theirs)))
        .order_by(LinkEvent.id.desc())
        .limit(most)
    ).all()


def extensions_of(session: Session, sheet_ids: Iterable[int]) -> Sequence[Extension]:
    """The extensions of sheets."""
    return session.scalars(select(Extension).where(among(Extension.sheet_id, sheet_ids))).all()
