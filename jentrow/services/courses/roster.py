"""The learners of a course: seen, taken in by a roster, invited, removed; their extensions."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from sqlalchemy import delete
from sqlalchemy.orm import Session

from jentrow.core.errors import UnusableInput
from jentrow.core.rosters import LONGEST_FIELD, ONE_ROSTER, Roster, RosterEntry, read_roster
from jentrow.records.exercises import list_sheets, sheet_slugs
from jentrow.records.models import Course, Extension, Learner
from jentrow.records.people import (
    extensions_of,
    learners_of,
    links_of_learners,
    submission_counts,
)
from jentrow.services.accounts.links import learner_links
from jentrow.services.errors import NotFound, NotTaken
from jentrow.services.runtime.import_jobs import Import
from jentrow.services.scope import CourseScope, course_in_scope


@dataclass(frozen=True, slots=True)
class ExtensionLine:
    """Another closing time of a sheet for one learner, in the course's own time."""

    sheet: str
    closes: datetime


@dataclass(frozen=True, slots=True)
class LearnerLine:
    """A learner of a course.

    ``signed_up`` says that somebody signs in as this learner; ``link_ends`` until when a personal
    link works that nobody has opened yet.
    """

    id: int
    code: str
    name: str
    email: str
    signed_up: bool
    link_ends: datetime | None
    submissions: int
    extensions: list[ExtensionLine]


@dataclass(frozen=True, slots=True)
class RosterChange:
    """A learner whom a roster names otherwise than they are called here."""

    code: str
    before: str
    after: str


@dataclass(frozen=True, slots=True)
class RosterClassLook:
    """What taking in a class of a roster would do. ``absent`` are here and not in the roster."""

    id: str
    title: str
    new: list[RosterEntry]
    changed: list[RosterChange]
    same: int
    absent: list[str]


@dataclass(frozen=True, slots=True)
class RosterLook:
    """What a file of a roster holds."""

    classes: list[RosterClassLook]
    problems: list[str]


@dataclass(frozen=True, slots=True)
class PersonalLink:
    """A learner with the token of their link, which is told once."""

    code: str
    name: str
    email: str
    token: str


def learners(scope: CourseScope) -> list[LearnerLine]:
    """The learners of the course, by name."""
    with scope.records.session() as session:
        course = course_in_scope(session)
        found = learners_of(session, course.id)
        counts = submission_counts(session, course.id)
        links = links_of_learners(session, [one.id for one in found])
        sheets = sheet_slugs(session, course.id)
        extensions: dict[int, list[ExtensionLine]] = {}
        for one in extensions_of(session, sheets):
            extensions.setdefault(one.learner_id, []).append(
                ExtensionLine(sheets[one.sheet_id], one.closes)
            )
        return [
            LearnerLine(
                one.id,
                one.code,
                one.name,
                one.email,
                one.person_id is not None,
                links.get(one.id) if one.person_id is None else None,
                counts.get(one.id, 0),
                extensions.get(one.id, []),
            )
            for one in found
        ]


# rosters


def look_at_roster(scope: CourseScope, one: Import) -> RosterLook:
    """What taking in a roster would do; nothing is taken in."""
    roster = read_roster(_file_of(one))
    with scope.records.session() as session:
        here = {found.code: found for found in learners_of(session, course_in_scope(session).id)}
    return RosterLook(
        [
            RosterClassLook(
                found.id,
                found.title,
                [entry for entry in found.entries if entry.code not in here],
                [
                    RosterChange(entry.code, _called(before), _called(entry))
                    for entry in found.entries
                    if (before := here.get(entry.code)) and _called(before) != _called(entry)
                ],
                sum(
                    entry.code in here and _called(here[entry.code]) == _called(entry)
                    for entry in found.entries
                ),
                [
                    learner.name
                    for code, learner in here.items()
                    if code not in {entry.code for entry in found.entries}
                ],
            )
            for found in roster.classes
        ],
        list(roster.problems),
    )


def _called(one: Learner | RosterEntry) -> str:
    return f"{one.name} {one.email}".strip()


def take_roster(scope: CourseScope, one: Import, class_id: str, *, leave_out: bool) -> int:
    """Takes the learners of a class in, all or none; returns how many are new.

    Raises :class:`UnusableInput` where something cannot be read and was not said to be left out.
    """
    roster = read_roster(_file_of(one))
    if roster.problems and not leave_out:
        raise UnusableInput(
            f"{len(roster.problems)} lines cannot be used: mend the file, or leave them out."
        )
    with scope.records.writing() as session:
        count = add_learners(session, course_in_scope(session), _class_of(roster, class_id))
    one.phase = "kept"
    return count


def _class_of(roster: Roster, class_id: str) -> Sequence[RosterEntry]:
    for found in roster.classes:
        if found.id == class_id:
            return found.entries
    raise NotFound(f"The roster has no class {class_id!r}.")


def _file_of(one: Import) -> Path:
    if len(one.files) > 1 and {name.lower() for name in one.files} >= set(ONE_ROSTER):
        return one.folder
    if len(one.files) != 1:
        raise UnusableInput("hand in one file: a CSV file, or a ZIP of OneRoster files.")
    return one.folder / one.files[0]


def add_learners(session: Session, course: Course, entries: Sequence[RosterEntry]) -> int:
    """Adds learners, and corrects the names of those who are here; returns how many are new."""
    here = {one.code: one for one in learners_of(session, course.id)}
    new = 0
    for entry in entries:
        known = here.get(entry.code)
        if known is None:
            known = Learner(course_id=course.id, code=entry.code, name=entry.name)
            session.add(known)
            new += 1
        known.name = entry.name
        known.email = entry.email or known.email or ""
    session.flush()
    return new


# one learner


def personal_links(scope: CourseScope, learner_ids: Sequence[int]) -> list[PersonalLink]:
    """New personal links for learners who have not signed up; those made before no longer work.

    All such learners where ``learner_ids`` is empty.
    """
    with scope.records.writing() as session:
        found = [
            one
            for one in learners_of(session, course_in_scope(session).id)
            if one.person_id is None and (not learner_ids or one.id in learner_ids)
        ]
        tokens = learner_links(session, found)
        return [PersonalLink(one.code, one.name, one.email, tokens[one.id]) for one in found]


def new_password_link(scope: CourseScope, learner_id: int) -> PersonalLink:
    """A link by which a learner chooses another password, or signs up."""
    with scope.records.writing() as session:
        one = _learner(session, learner_id)
        return PersonalLink(one.code, one.name, one.email, learner_links(session, [one])[one.id])


def change_learner(scope: CourseScope, learner_id: int, entry: RosterEntry) -> None:
    """Changes a learner's id, name and e-mail. Raises :class:`UnusableInput`."""
    if not entry.code.strip() or not entry.name.strip():
        raise UnusableInput("A learner has a learner id and a name.")
    if max(len(entry.code), len(entry.name), len(entry.email)) > LONGEST_FIELD:
        raise UnusableInput(f"That is longer than {LONGEST_FIELD} characters.")
    with scope.records.writing() as session:
        one = _learner(session, learner_id)
        for other in learners_of(session, one.course_id):
            if other.code == entry.code.strip() and other.id != one.id:
                raise UnusableInput(f"{other.name} has the learner id {other.code} already.")
        one.code, one.name, one.email = entry.code.strip(), entry.name.strip(), entry.email.strip()


def remove_learner(scope: CourseScope, learner_id: int, *, with_answers: bool) -> None:
    """Removes a learner from the course, with their answers only where that is asked for."""
    with scope.records.writing() as session:
        one = _learner(session, learner_id)
        answers = submission_counts(session, one.course_id).get(one.id, 0)
        if answers and not with_answers:
            raise NotTaken(f"{one.name} has handed in {answers} answers, which would go too.")
        session.delete(one)


def set_extension(scope: CourseScope, learner_id: int, sheet: str, closes: datetime | None) -> None:
    """Gives a learner another closing time of a sheet; None takes it back.

    Raises :class:`UnusableInput` where the sheet closes no sooner, or never.
    """
    with scope.records.writing() as session:
        one = _learner(session, learner_id)
        found = {record.slug: record for record in list_sheets(session, one.course_id)}
        if sheet not in found:
            raise NotFound(f"There is no sheet {sheet!r}.")
        record = found[sheet]
        session.execute(
            delete(Extension).where(Extension.sheet_id == record.id, Extension.learner_id == one.id)
        )
        if closes is None:
            return
        closes = closes.replace(tzinfo=None)
        if record.closes is None:
            raise UnusableInput(f"{record.title} never closes: there is nothing to extend.")
        if closes <= record.closes:
            raise UnusableInput(
                f"{record.title} closes at {record.closes:%Y-%m-%d %H:%M} for everybody: "
                "an extension must be later."
            )
        session.add(Extension(sheet_id=record.id, learner_id=one.id, closes=closes))


def _learner(session: Session, learner_id: int) -> Learner:
    one = session.get(Learner, learner_id)
    if one is None or one.course_id != course_in_scope(session).id:
        raise NotFound("There is no such learner in this course.")
    return one
