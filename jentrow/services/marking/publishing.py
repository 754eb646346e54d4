"""Publishing a sheet's marks, and taking that back."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy.orm import Session

from jentrow.core.words import counted
from jentrow.records.database import ACTOR
from jentrow.records.marks import answers_on
from jentrow.records.models import Course, Sheet
from jentrow.services.errors import NotTaken
from jentrow.services.exercises.sheets import sheet_named
from jentrow.services.marking.course_answers import standings_of
from jentrow.services.scope import CourseScope


@dataclass(frozen=True)
class HeldUp:
    """What holds up publishing a sheet: how many answers that count."""

    undecided: int
    outdated: int
    waiting: int


def publish(scope: CourseScope, slug: str, *, anyway: bool = False) -> None:
    """Tells learners the marks and comments of a sheet from now on.

    Raises :class:`NotTaken` where answers are undecided, unless it is to be done ``anyway``.
    """
    with scope.records.writing() as session:
        sheet = sheet_named(session, slug)
        if sheet.published_at is not None:
            raise NotTaken(f"{sheet.title} is published already, by {sheet.published_by}.")
        held = _held_up(scope, session, sheet)
        if held.waiting or ((held.undecided or held.outdated) and not anyway):
            raise NotTaken(_held_words(sheet, held))
        sheet.published_at = datetime.now(UTC)
        sheet.published_by = session.info.get(ACTOR, "")
    scope.runtime.queue.tell_course(scope.course_id, learners=True)


def _held_words(sheet: Sheet, held: HeldUp) -> str:
    parts = [
        words
        for count, words in (
            (held.waiting, f"{counted(held.waiting, 'answer')} not graded yet"),
            (held.undecided, f"{counted(held.undecided, 'answer')} undecided"),
            (held.outdated, f"{counted(held.outdated, 'answer')} out of date"),
        )
        if count
    ]
    return f"{sheet.title} has {', '.join(parts)}: nothing was published."


def take_back(scope: CourseScope, slug: str) -> None:
    """Hides the marks and comments of a sheet from learners again."""
    with scope.records.writing() as session:
        sheet = sheet_named(session, slug)
        if sheet.published_at is None:
            raise NotTaken(f"{sheet.title} is not published.")
        sheet.published_at, sheet.published_by = None, ""
    scope.runtime.queue.tell_course(scope.course_id, learners=True)


def _held_up(scope: CourseScope, session: Session, sheet: Sheet) -> HeldUp:
    course = session.get_one(Course, sheet.course_id)
    exercises = [entry.exercise for entry in sheet.entries]
    rows = answers_on(session, sheet.id)
    known = {one.id for one in exercises}
    answers = standings_of(scope, session, course, exercises).of(
        [row for row in rows if row.exercise_id in known]
    )
    counting = [one for one in answers if one.counts]
    return HeldUp(
        sum(one.state == "undecided" for one in counting),
        sum(one.outdated for one in counting),
        sum(one.state == "waiting" for one in counting),
    )
