"""Signing in and out: who a browser belongs to, and how often a wrong password may be tried."""

from __future__ import annotations

import hmac
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Final

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from jentrow.core.errors import UnusableInput
from jentrow.records.errors import RecordsUnavailable
from jentrow.records.models import Person, Setting, SignIn, Throttle
from jentrow.services.accounts.passwords import (
    checked_password,
    hashed,
    is_password,
    new_token,
    token_digest,
)
from jentrow.services.errors import NotSignedIn, TooOften
from jentrow.services.runtime.runtime import Runtime

SESSION_LIFETIME: Final = timedelta(days=30)
"""How long a browser that is not used stays signed in."""

NOTED_EVERY: Final = timedelta(minutes=10)
"""How exactly it is known when a browser was seen last: not every request writes."""

LONGEST_LOGIN: Final = 100
FREE_FAILURES: Final = 5
LONGEST_WAIT: Final = timedelta(minutes=1)

FAILURES_LAST: Final = timedelta(minutes=15)


@dataclass(frozen=True, slots=True)
class Who:
    """Somebody who is signed in. ``guard`` must come with every change that their browser asks for."""

    id: int
    login: str
    name: str
    teaches: bool
    guard: str
    token: str


@dataclass(frozen=True, slots=True)
class BrowserLine:
    """A browser that somebody is signed in with."""

    browser: str
    made_at: datetime
    seen_at: datetime
    here: bool


def folded(login: str) -> str:
    """A sign-in name as it is looked up, however it was typed."""
    return " ".join(login.split()).casefold()


def plain_login(login: str) -> str:
    """A sign-in name as it is kept. Raises :class:`UnusableInput`."""
    plain = folded(login)
    if not plain or len(plain) > LONGEST_LOGIN or not plain.isprintable():
        raise UnusableInput(f"A sign-in name has 1 to {LONGEST_LOGIN} characters; choose another.")
    return plain


def person_called(session: Session, login: str) -> Person | None:
    """Who has a sign-in name, however it was typed."""
    return session.scalars(select(Person).where(Person.login == folded(login))).one_or_none()


def sign_in(
    runtime: Runtime, login: str, password: str, *, address: str, browser: str, known: str = ""
) -> Who:
    """Signs somebody in; ``known`` is what their browser kept of an earlier time.

    Wrong passwords are counted by name and address together, and apart for a browser that has
    signed in with this name before: nobody holds up somebody else's by guessing at their password.
    Raises :class:`NotSignedIn` where name and password do not fit, :class:`TooOften` where that
    was so too often.
    """
    now = datetime.now(UTC)
    with runtime.records.session() as session:
        person = person_called(session, login)
        is_known = person is not None and _is_known(session, person.id, known)
        # A fixed length: whatever is typed as a name takes no more room than another.
        where = f"browser {token_digest(known)}" if is_known else f"address {address}"
        key = f"name {token_digest(folded(login))} {where}"
        _check_throttle(session.get(Throttle, key), FREE_FAILURES, now)
        kept = person.password if person else ""
    if not is_password(password, kept):
        with runtime.records.writing() as session:
            _count_failure(session, key, now)
        raise NotSignedIn("The sign-in name and the password do not belong together.")
    assert person is not None
    with runtime.records.writing() as session:
        session.execute(delete(Throttle).where(Throttle.key == key))
        return begin(session, person, browser)


_BROWSERS: Final = "known_browsers"


def known_browser(runtime: Runtime, person_id: int) -> str:
    """What a browser keeps, to be known when the same person signs in with it again."""
    with runtime.records.session() as session:
        found = session.get(Setting, _BROWSERS)
    if found is None:
        with runtime.records.writing() as session:
            found = session.get(Setting, _BROWSERS)
            if found is None:
                found = Setting(name=_BROWSERS, value=new_token())
                session.add(found)
    return f"{person_id}.{_signed(found.value, person_id)}"


def _is_known(session: Session, person_id: int, known: str) -> bool:
    found = session.get(Setting, _BROWSERS)
    if found is None:
        return False
    return hmac.compare_digest(
        known.encode(errors="replace"), f"{person_id}.{_signed(found.value, person_id)}".encode()
    )


def _signed(secret: str, person_id: int) -> str:
    return hmac.new(secret.encode(), str(person_id).encode(), "sha256").hexdigest()


def _check_throttle(found: Throttle | None, free: int, now: datetime) -> None:
    """After some failures each further one doubles the wait, from one second to a minute."""
    if found is None or found.failures < free:
        return
    wait = min(timedelta(seconds=2 ** min(20, found.failures - free)), LONGEST_WAIT)
    left = (found.last_at + wait - now).total_seconds()
    if left > 0:
        raise TooOften(
            f"Too many attempts with a wrong password: try again in {_in_words(left)}.", left
        )


def _in_words(seconds: float) -> str:
    if seconds > 90:
        return f"{round(seconds / 60)} minutes"
    whole = max(1, round(seconds))
    return f"{whole} second{'' if whole == 1 else 's'}"


def _count_failure(session: Session, key: str, now: datetime) -> None:
    session.execute(delete(Throttle).where(Throttle.last_at < now - FAILURES_LAST))
    found = session.get(Throttle, key)
    if found is None:
        session.add(Throttle(key=key, failures=1, last_at=now))
    else:
        found.failures += 1
        found.last_at = now


def begin(session: Session, person: Person, browser: str) -> Who:
    """Signs a person in with a browser, without asking for anything."""
    now = datetime.now(UTC)
    token, guard = new_token(), new_token()
    session.execute(delete(SignIn).where(SignIn.seen_at < now - SESSION_LIFETIME))
    session.add(
        SignIn(
            token=token_digest(token),
            person_id=person.id,
            guard=guard,
            browser=browser[:200],
            made_at=now,
            seen_at=now,
        )
    )
    return Who(person.id, person.login or "", person.name, person.teaches, guard, token)


def who(runtime: Runtime, token: str | None) -> Who | None:
    """Whose browser this is; None where nobody is signed in with it."""
    if not token:
        return None
    now = datetime.now(UTC)
    with runtime.records.session() as session:
        found = session.get(SignIn, token_digest(token))
        if found is None or found.seen_at < now - SESSION_LIFETIME:
            return None
        person = found.person
        seen_at = found.seen_at
        one = Who(person.id, person.login or "", person.name, person.teaches, found.guard, token)
    if seen_at < now - NOTED_EVERY:
        with suppress(RecordsUnavailable), runtime.records.writing() as session:
            session.execute(
                update(SignIn).where(SignIn.token == token_digest(token)).values(seen_at=now)
            )
    return one


def sign_out(runtime: Runtime, one: Who) -> None:
    """Signs this browser out."""
    with runtime.records.writing() as session:
        session.execute(delete(SignIn).where(SignIn.token == token_digest(one.token)))
    runtime.queue.tell()


def sign_out_everywhere(runtime: Runtime, one: Who) -> None:
    """Signs somebody out of every browser, this one too."""
    with runtime.records.writing() as session:
        session.execute(delete(SignIn).where(SignIn.person_id == one.id))
    runtime.queue.tell()


def browsers(runtime: Runtime, one: Who) -> list[BrowserLine]:
    """The browsers that somebody is signed in with, the last seen first."""
    here = token_digest(one.token)
    with runtime.records.session() as session:
        found = session.scalars(
            select(SignIn).where(SignIn.person_id == one.id).order_by(SignIn.seen_at.desc())
        )
        return [
            BrowserLine(line.browser, line.made_at, line.seen_at, line.token == here)
            for line in found
        ]


def change_password(runtime: Runtime, one: Who, before: str, after: str) -> None:
    """Changes a password; every other browser is signed out. Raises :class:`UnusableInput`."""
    checked_password(after, one.login)
    with runtime.records.session() as session:
        kept = session.get_one(Person, one.id).password
    if not is_password(before, kept):
        raise UnusableInput("The present password is another one.")
    new = hashed(after)
    with runtime.records.writing() as session:
        session.get_one(Person, one.id).password = new
        session.execute(
            delete(SignIn).where(
                SignIn.person_id == one.id, SignIn.token != token_digest(one.token)
            )
        )


def choose_login(session: Session, person: Person, login: str, password_hash: str) -> None:
    """Gives a person a sign-in name and password. Raises :class:`UnusableInput` for a taken name."""
    plain = plain_login(login)
    taken = person_called(session, plain)
    if taken is not None and taken.id != person.id:
        raise UnusableInput(
            "Somebody has this sign-in name already. Is it you? Then sign in first, and open "
            "the link again; otherwise choose another name."
        )
    person.login = plain
    person.password = password_hash
