"""Joining a course by its code."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from jentrow.core.errors import UnusableInput
from jentrow.records.models import Course, Learner, Person
from jentrow.records.people import (
    learner_of,
    teaches,
)
from jentrow.services.accounts.links import Joined
from jentrow.services.accounts.passwords import checked_password, hashed
from jentrow.services.accounts.sessions import Who, begin, choose_login
from jentrow.services.courses.lifecycle import LONGEST_TITLE
from jentrow.services.errors import NotFound, NotTaken
from jentrow.services.runtime.runtime import Runtime


def plain_code(code: str) -> str:
    """A join code as it is kept, however it was typed."""
    return "".join(sign for sign in code.upper() if sign.isalnum())


def course_to_join(runtime: Runtime, code: str) -> str:
    """The title of the course that a join code is for. Raises :class:`NotFound`."""
    with runtime.records.session() as session:
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


def join(runtime: Runtime, code: str, one: Who) -> str:
    """Makes somebody who is signed in a learner of a course; returns its slug."""
    with runtime.records.writing() as session:
        course = _joinable(session, code)
        return _join(session, course, session.get_one(Person, one.id))


def join_anew(
    runtime: Runtime, code: str, *, name: str, login: str, password: str, browser: str
) -> Joined:
    """Joins as somebody who had no sign-in name before. Raises :class:`UnusableInput`."""
    plain = " ".join(name.split())
    if not plain or len(plain) > LONGEST_TITLE:
        raise UnusableInput("Your name is missing, or too long.")
    checked_password(password, login)
    with runtime.records.session() as session:
        _joinable(session, code)
    kept = hashed(password)
    with runtime.records.writing() as session:
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
