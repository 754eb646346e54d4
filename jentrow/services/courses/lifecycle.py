"""Courses: seen, begun, changed, archived; and who teaches them."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Final

from sqlalchemy import select
from sqlalchemy.orm import Session

from jentrow.core.errors import UnusableInput
from jentrow.core.exercises.deadlines import zone_named
from jentrow.core.slugs import plain_name
from jentrow.records.models import Course, Instructor
from jentrow.records.people import (
    courses_learnt,
    courses_taught,
    instructors_of,
)
from jentrow.services.accounts.links import instructor_link
from jentrow.services.accounts.sessions import Who
from jentrow.services.errors import NotFound, NotTaken
from jentrow.services.runtime.runtime import Runtime
from jentrow.services.scope import CourseScope, course_in_scope

LONGEST_TITLE: Final = 120


_CODE_SIGNS: Final = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"
"""No I, O, 0 or 1: a join code is read from a wall."""


@dataclass(frozen=True, slots=True)
class CourseLine:
    """A course of somebody's; ``part`` is ``instructor`` or ``learner``."""

    slug: str
    title: str
    part: str
    archived: bool


@dataclass(frozen=True, slots=True)
class InstructorLine:
    """Somebody who teaches a course."""

    id: int
    name: str
    login: str
    is_you: bool


@dataclass(frozen=True, slots=True)
class CourseView:
    """What an instructor sees of a course itself."""

    slug: str
    title: str
    zone: str
    join_code: str | None
    archived_at: datetime | None
    instructors: list[InstructorLine]


def courses_of(runtime: Runtime, one: Who) -> list[CourseLine]:
    """The courses that somebody teaches, then those that they are a learner of."""
    with runtime.records.session() as session:
        parts = (
            ("instructor", courses_taught(session, one.id)),
            ("learner", courses_learnt(session, one.id)),
        )
        return [
            CourseLine(course.slug, course.title, part, course.archived_at is not None)
            for part, found in parts
            for course in found
        ]


def _checked_title(title: str) -> str:
    plain = " ".join(title.split())
    if not plain or len(plain) > LONGEST_TITLE:
        raise UnusableInput(f"The title of a course has 1 to {LONGEST_TITLE} characters.")
    return plain


def new_course(runtime: Runtime, one: Who, title: str, zone: str) -> str:
    """Begins a course; returns its slug. Raises :class:`UnusableInput`."""
    with runtime.records.writing() as session:
        course = add_course(session, title, zone)
        session.add(Instructor(course_id=course.id, person_id=one.id))
        return course.slug


def add_course(session: Session, title: str, zone: str = "UTC") -> Course:
    """Adds a course that nobody teaches yet."""
    plain = _checked_title(title)
    taken = set(session.scalars(select(Course.slug)))
    course = Course(slug=plain_name(plain, taken, "course"), title=plain, zone=zone_named(zone).key)
    session.add(course)
    session.flush()
    return course


def course_view(scope: CourseScope, one: Who) -> CourseView:
    """The course at hand."""
    with scope.records.session() as session:
        return _view(session, course_in_scope(session), one)


def _view(session: Session, course: Course, one: Who) -> CourseView:
    lines = [
        InstructorLine(found.person.id, found.person.name, found.person.login or "", found.person.id == one.id)
        for found in instructors_of(session, course.id)
    ]  # fmt: skip
    return CourseView(
        course.slug, course.title, course.zone, course.join_code, course.archived_at,
        sorted(lines, key=lambda line: line.name),
    )  # fmt: skip


def _changed(scope: CourseScope, one: Who, change: Callable[[Session, Course], None]) -> CourseView:
    with scope.records.writing() as session:
        course = course_in_scope(session)
        change(session, course)
        session.flush()
        return _view(session, course, one)


def change_course(scope: CourseScope, one: Who, title: str, zone: str) -> CourseView:
    """Changes a course's title and time zone. Raises :class:`UnusableInput`."""

    def change(session: Session, course: Course) -> None:
        course.title = _checked_title(title)
        course.zone = zone_named(zone).key

    return _changed(scope, one, change)


def archive(scope: CourseScope, one: Who, *, away: bool) -> CourseView:
    """Puts a course away, where it is only read; or brings it back."""

    def change(session: Session, course: Course) -> None:
        course.archived_at = datetime.now(UTC) if away else None

    return _changed(scope, one, change)


def set_join_code(scope: CourseScope, one: Who, *, wanted: bool) -> CourseView:
    """Makes a new join code, the one before works no more; or takes it away."""

    def change(session: Session, course: Course) -> None:
        code = "".join(secrets.choice(_CODE_SIGNS) for _ in range(8))
        course.join_code = code if wanted else None

    return _changed(scope, one, change)


def invite_instructor(scope: CourseScope) -> str:
    """The token of a link that makes whoever opens it an instructor of the course at hand."""
    with scope.records.writing() as session:
        return instructor_link(session, course_in_scope(session))


def remove_instructor(scope: CourseScope, one: Who, person_id: int) -> CourseView:
    """Takes somebody out of those who teach. Raises :class:`NotTaken` for the last one."""

    def change(session: Session, course: Course) -> None:
        found = session.get(Instructor, (course.id, person_id))
        if found is None:
            raise NotFound("They do not teach this course.")
        if len(instructors_of(session, course.id)) == 1:
            raise NotTaken("Somebody has to teach the course: invite another instructor first.")
        session.delete(found)

    return _changed(scope, one, change)
