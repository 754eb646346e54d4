"""An exercise on a sheet that is open to a learner: where it stands, and the attempts at it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Final

from sqlalchemy.orm import Session

from jentrow.core.errors import UnusableInput
from jentrow.core.exercises.deadlines import Window
from jentrow.core.textfiles import is_text
from jentrow.records.contents import core_exercise
from jentrow.records.models import (
    Course,
    Exercise,
    Sheet,
    SheetEntry,
    Submission,
)
from jentrow.records.practice import (
    attempts_at,
    bare_sheet,
    entry_of,
    extension_of,
)
from jentrow.services.errors import NotFound
from jentrow.services.exercises.lateness import window_of
from jentrow.services.learners.feedback import AttemptLine, attempt_line, feedback_opens
from jentrow.services.scope import LearnerScope

LONGEST_ANSWER: Final = 100_000


@dataclass(frozen=True)
class Place:
    """An exercise on a sheet that is open to a learner, with all that is decided by."""

    course: Course
    learner_id: int
    sheet: Sheet
    entry: SheetEntry
    window: Window
    extended: bool

    @property
    def published(self) -> bool:
        """Whether the sheet's marks and comments are told."""
        return self.sheet.published_at is not None

    @property
    def exercise(self) -> Exercise:
        """The exercise itself."""
        return self.entry.exercise


def place_of(session: Session, own: LearnerScope, sheet: str, slug: str) -> Place:
    """An exercise on a sheet. Raises :class:`NotFound` for what is not open to the learner."""
    entry = entry_of(session, own.course_id, sheet, slug)
    if entry is not None:
        course = session.get_one(Course, own.course_id)
        record = bare_sheet(session, entry.sheet_id)
        extension = extension_of(session, own.learner_id, record.id)
        found = window_of(record, course, extension.closes if extension else None)
        if found.standing(own.runtime.now()) != "not_yet":
            return Place(course, own.learner_id, record, entry, found, extension is not None)
    raise NotFound("There is no such exercise on a sheet that is open to you.")


def attempts_of(session: Session, place: Place) -> list[Submission]:
    """The learner's attempts at an exercise, as they came in."""
    return attempts_at(session, place.learner_id, place.sheet.id, place.exercise.id)


def attempts_left(place: Place, used: int) -> int | None:
    """How many attempts are left; None where they are not counted."""
    return None if place.sheet.attempts is None else max(0, place.sheet.attempts - used)


def attempt_lines(place: Place, attempts: Sequence[Submission], now: datetime) -> list[AttemptLine]:
    """A learner's attempts in their order, told as far as they may be by now."""
    told = feedback_opens(core_exercise(place.exercise).feedback, place.window) <= now
    return [
        attempt_line(
            one,
            number,
            place.exercise,
            place.entry,
            place.window,
            told=told,
            published=place.published,
        )
        for number, one in enumerate(attempts, 1)
    ]


def checked_text(sql: str) -> str:
    """Text that can be kept. Raises :class:`UnusableInput`."""
    if len(sql) > LONGEST_ANSWER:
        raise UnusableInput(f"An answer has at most {LONGEST_ANSWER:,} characters.")
    if not is_text(sql):
        raise UnusableInput("The text holds characters that are no text: type it anew.")
    return sql
