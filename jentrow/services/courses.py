"""Courses: seen, begun, changed, put away; and who teaches them."""

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
from jentrow.records.models import Course, Instructor, Learner, Person
from jentrow.records.people import (
    courses_learnt,
    courses_taught,
    instructors_of,
    learner_of,
    teaches,
)
from jentrow.services.desk import Desk
from jentrow.services.errors import NotFound, NotTaken
from jentrow.services.links import Joined, instructor_link
from jentrow.services.passwords import checked_password, hashed
from jentrow.services.signin import Who, begin, choose_login
from jentrow.services.slugs import plain_name
from jentrow.services.views import the_open_course

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


def courses_of(desk: Desk, one: Who) -> list[CourseLine]:
    """The courses that somebody teaches, then those that they are a learner of."""
    with desk.records.session() as session:
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


def new_course(desk: Desk, one: Who, title: str, zone: str) -> str:
    """Begins a course; returns its slug. Raises :class:`UnusableInput`."""
    with desk.records.writing() as session:
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


def course_view(desk: Desk, one: Who) -> CourseView:
    """The course at hand."""
    with desk.records.session() as session:
        return _view(session, the_open_course(session), one)


def _view(session: Session, course: Course, one: Who) -> CourseView:
    lines = [
        InstructorLine(found.person.id, found.person.name, found.person.login or "", found.person.id == one.id)
        for found in instructors_of(session, course.id)
    ]  # fmt: skip
    return CourseView(
        course.slug, course.title, course.zone, course.join_code, course.archived_at,
        sorted(lines, key=lambda line: line.name),
    )  # fmt: skip


def _changed(desk: Desk, one: Who, change: Callable[[Session, Course], None]) -> CourseView:
    with desk.records.writing() as session:
        course = the_open_course(session)
        change(session, course)
        session.flush()
        return _view(session, course, one)


def change_course(desk: Desk, one: Who, title: str, zone: str) -> CourseView:
    """Changes a course's title and time zone. Raises :class:`UnusableInput`."""

    def change(session: Session, course: Course) -> None:
        course.title = _checked_title(title)
        course.zone = zone_named(zone).key

    return _changed(desk, one, change)


def archive(desk: Desk, one: Who, *, away: bool) -> CourseView:
    """Puts a course away, where it is only read; or brings it back."""

    def change(session: Session, course: Course) -> None:
        course.archived_at = datetime.now(UTC) if away else None

    return _changed(desk, one, change)


def set_join_code(desk: Desk, one: Who, *, wanted: bool) -> CourseView:
    """Makes a new join code, the one before works no more; or takes it away."""

    def change(session: Session, course: Course) -> None:
        code = "".join(secrets.choice(_CODE_SIGNS) for _ in range(8))
        course.join_code = code if wanted else None

    return _changed(desk, one, change)


def invite_instructor(desk: Desk) -> str:
    """The token of a link that makes whoever opens it an instructor of the course at hand."""
    with desk.records.writing() as session:
        return instructor_link(session, the_open_course(session))


def remove_instructor(desk: Desk, one: Who, person_id: int) -> CourseView:
    """Takes somebody out of those who teach. Raises :class:`NotTaken` for the last one."""

    def change(session: Session, course: Course) -> None:
        found = session.get(Instructor, (course.id, person_id))
        if found is None:
            raise NotFound("They do not teach this course.")
        if len(instructors_of(session, course.id)) == 1:
            raise NotTaken("Somebody has to teach the course: invite another instructor first.")
        session.delete(found)

    return _changed(desk, one, change)


# joining


def plain_code(code: str) -> str:
    """A join code as it is kept, however it was typed."""
    return "".join(sign for sign in code.upper() if sign.isalnum())


def course_to_join(desk: Desk, code: str) -> str:
    """The title of the course that a join code is for. Raises :class:`NotFound`."""
    with desk.records.session() as session:
        return _joinable(session, code).title


def _joinable(session: Session, code: str) -> Course:
    plain = plain_code(code)
    course = (
        session.scalars(select(Course).where(Course.join_code == plain)).one_or_none()
        if plain
        else None
    )
    if course is None or course.archived_at is not None:
        raise NotFound(f"There is no course with the join code {code!r}: ask for the right one.")
    return course


def join(desk: Desk, code: str, one: Who) -> str:
    """Makes somebody who is signed in a learner of a course; returns its slug."""
    with desk.records.writing() as session:
        course = _joinable(session, code)
        return _join(session, course, session.get_one(Person, one.id))


def join_anew(
    desk: Desk, code: str, *, name: str, login: str, password: str, browser: str
) -> Joined:
    """Joins as somebody who had no sign-in name before. Raises :class:`UnusableInput`."""
    plain = " ".join(name.split())
    if not plain or len(plain) > LONGEST_TITLE:
        raise UnusableInput("Your name is missing, or too long.")
    checked_password(password, login)
    with desk.records.session() as session:
        _joinable(session, code)
    kept = hashed(password)
    with desk.records.writing() as session:
        course = _joinable(session, code)
        person = Person(name=plain, made_at=datetime.now(UTC))
        choose_login(session, person, login, kept)
        session.add(person)
        session.flush()
        slug = _join(session, course, person)
        return Joined(begin(session, person, browser), slug)


def _join(session: Session, course: Course, person: Person) -> str:
    if teaches(session, person.id, course.id):
        raise NotTaken("You teach this course.")
    if learner_of(session, person.id, course.id) is None:
        taken = set(session.scalars(select(Learner.code).where(Learner.course_id == course.id)))
        login = person.login or str(person.id)
        code = next(
            name for at in range(len(taken) + 2) if (name := login if not at else f"{login} {at + 1}") not in taken
        )  # fmt: skip
        session.add(
            Learner(
                course_id=course.id, code=code, name=person.name, email=person.email,
                person_id=person.id,
            )
        )  # fmt: skip
    return course.slug
