"""Links that work once: for the first instructor, for further ones, and for learners of a roster."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Final, Literal, TypeAlias

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from jentrow.core.errors import UnusableInput
from jentrow.records.database import Records
from jentrow.records.models import Course, Instructor, Learner, Link, Person, SignIn
from jentrow.records.people import (
    is_known_elsewhere,
    learner_of,
    link_events_of,
    note_link,
    revoke_links,
    teaches,
)
from jentrow.services.accounts.passwords import checked_password, hashed, new_token, token_digest
from jentrow.services.accounts.sessions import Who, begin, choose_login, person_called
from jentrow.services.errors import NotAllowed, NotFound
from jentrow.services.runtime.runtime import Runtime

LinkKind: TypeAlias = Literal["first", "instructor", "learner", "password"]
LinkEventKind: TypeAlias = Literal["made", "used", "revoked"]
SHOWN_EVENTS: Final = 100
LINK_LIFETIME: Final = timedelta(days=30)


@dataclass(frozen=True, slots=True)
class LinkView:
    """What opening a link leads to; ``name`` and ``login`` are proposed to whom it is for.

    ``has_account``: they have a sign-in name already, and choose a new password only.
    """

    kind: LinkKind
    course: str
    name: str
    login: str
    has_account: bool


@dataclass(frozen=True, slots=True)
class Joined:
    """Who opened a link, and the course that it leads to (empty for none)."""

    who: Who
    course: str


def first_link(records: Records) -> str | None:
    """The token of a new link for the first instructor; None where there is one already.

    Links that were made before no longer work.
    """
    with records.writing() as session:
        if session.scalar(select(func.count()).where(Person.teaches, Person.login.is_not(None))):
            return None
        revoke_links(session, Link.kind == "first")
        return _new(session, "first")


def password_link(records: Records, login: str) -> str:
    """The token of a link by which somebody chooses a new password. Raises :class:`NotFound`."""
    with records.writing() as session:
        person = person_called(session, login)
        if person is None:
            raise NotFound(f"There is nobody with the sign-in name {login!r}.")
        revoke_links(session, Link.kind == "password", Link.person_id == person.id)
        return _new(session, "password", person_id=person.id)


def instructor_link(session: Session, course: Course) -> str:
    """The token of a link that makes whoever opens it an instructor of a course."""
    return _new(session, "instructor", course_id=course.id)


def learner_links(session: Session, learners: Sequence[Learner]) -> dict[int, str]:
    """Tokens of new personal links, by learner; links made for them before no longer work.

    Raises :class:`NotAllowed` for whoever's account is not this course's alone.
    """
    for one in learners:
        _check_alone(session, one)
    revoke_links(session, Link.learner_id.in_([one.id for one in learners]))
    return {
        one.id: _new(session, "learner", course_id=one.course_id, learner_id=one.id)
        for one in learners
    }


def _check_alone(session: Session, learner: Learner) -> None:
    """A course may let somebody choose a new password only for an account that is its own.

    Who opens the link can do whatever that person can: teach, or see another course.
    """
    person = session.get(Person, learner.person_id) if learner.person_id else None
    if person is not None and is_known_elsewhere(session, person, learner.course_id):
        raise NotAllowed(
            f"The account of {learner.name} is used for more than this course. They can change their "
            "password themselves; otherwise whoever runs the server makes a link, with "
            "`jentrow sign-in-link`."
        )


def _new(
    session: Session,
    kind: LinkKind,
    *,
    course_id: int | None = None,
    learner_id: int | None = None,
    person_id: int | None = None,
) -> str:
    token = new_token()
    link = Link(
        token=token_digest(token),
        kind=kind,
        course_id=course_id,
        learner_id=learner_id,
        person_id=person_id,
        ends_at=datetime.now(UTC) + LINK_LIFETIME,
    )
    session.add(link)
    note_link(session, link, "made")
    return token


@dataclass(frozen=True, slots=True)
class LinkEventLine:
    """Something that happened to a link of an account; ``by`` is empty for whoever runs the server."""

    at: datetime
    what: LinkEventKind
    kind: LinkKind
    course: str
    by: str


def link_events(runtime: Runtime, one: Who) -> list[LinkEventLine]:
    """What happened to the links of somebody's own account, the last first."""
    with runtime.records.session() as session:
        return [
            LinkEventLine(event.at, event.what, event.kind, event.course, event.by)  # type: ignore[arg-type]
            for event in link_events_of(session, one.id, SHOWN_EVENTS)
        ]


def look_at_link(runtime: Runtime, token: str) -> LinkView:
    """What a link is for. Raises :class:`NotFound` for one that works no more."""
    with runtime.records.session() as session:
        link = _find(session, token)
        course = session.get(Course, link.course_id) if link.course_id else None
        learner = session.get(Learner, link.learner_id) if link.learner_id else None
        person = _person_of(session, link)
        name = person.name if person else learner.name if learner else ""
        login = (person and person.login) or (learner.email or learner.code if learner else "")
        return LinkView(
            link.kind,  # type: ignore[arg-type]
            course.title if course else "",
            name,
            login or "",
            person is not None and person.login is not None,
        )


def open_link(
    runtime: Runtime, token: str, *, name: str, login: str, password: str, browser: str
) -> Joined:
    """Opens a link with a password that is chosen now; the link works no more.

    Raises :class:`NotFound` or :class:`UnusableInput`; the link still works then.
    """
    with runtime.records.session() as session:
        person = _person_of(session, _find(session, token))
        login = (person and person.login) or login
    checked_password(password, login)
    kept = hashed(password)
    with runtime.records.writing() as session:
        link = _find(session, token)
        if link.learner_id is not None:  # much may have come to the account since it was made
            _check_alone(session, session.get_one(Learner, link.learner_id))
        person = _person_of(session, link)
        if person is None:
            plain = " ".join(name.split())
            if link.learner_id is not None:
                plain = session.get_one(Learner, link.learner_id).name
            if not plain:
                raise UnusableInput("Your name is missing.")
            person = Person(name=plain[:200], made_at=datetime.now(UTC))
            session.add(person)
        choose_login(session, person, login, kept)
        session.flush()
        # Whoever had the password before is out.
        session.execute(delete(SignIn).where(SignIn.person_id == person.id))
        course = _use(session, link, person)
        return Joined(begin(session, person, browser), course)


def open_link_as(runtime: Runtime, token: str, one: Who) -> str:
    """Opens a link for somebody who is signed in; returns the course that it leads to."""
    with runtime.records.writing() as session:
        link = _find(session, token)
        owner = _person_of(session, link)
        if link.kind == "password" or (owner is not None and owner.id != one.id):
            raise UnusableInput("This link is somebody else's: sign out to use it.")
        return _use(session, link, session.get_one(Person, one.id))


def _use(session: Session, link: Link, person: Person) -> str:
    """Makes a person who a link is for; returns the slug of its course."""
    course = session.get(Course, link.course_id) if link.course_id else None
    if link.kind in ("first", "instructor"):
        person.teaches = True
    if link.kind == "instructor" and course and not teaches(session, person.id, course.id):
        session.add(Instructor(course_id=course.id, person_id=person.id))
    if link.kind == "first":
        # Courses that were there before anybody could sign in are the first instructor's.
        unclaimed = select(Course).where(Course.id.not_in(select(Instructor.course_id)))
        for one in session.scalars(unclaimed).all():
            session.add(Instructor(course_id=one.id, person_id=person.id))
    if link.learner_id is not None and course is not None:
        learner = session.get_one(Learner, link.learner_id)
        there = learner_of(session, person.id, course.id)
        if there is not None and there.id != learner.id:
            raise UnusableInput(
                f"You are {there.name} ({there.code}) in {course.title} already: sign out to use "
                "this link for somebody else."
            )
        learner.person_id = person.id
        person.email = person.email or learner.email
    note_link(session, link, "used", person)
    session.delete(link)
    session.flush()
    return course.slug if course else ""


def _find(session: Session, token: str) -> Link:
    link = session.get(Link, token_digest(token))
    if link is None or link.ends_at < datetime.now(UTC):
        raise NotFound(
            "This link works no more: it has been used, has ended, or a newer one was made. "
            "Sign in, or ask your instructor for a new one."
        )
    return link


def _person_of(session: Session, link: Link) -> Person | None:
    """Who a link belongs to already: somebody who wants a new password, or a learner who has one."""
    if link.person_id is not None:
        return session.get(Person, link.person_id)
    if link.learner_id is not None:
        learner = session.get_one(Learner, link.learner_id)
        return session.get(Person, learner.person_id) if learner.person_id else None
    return None
