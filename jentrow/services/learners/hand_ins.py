"""Handing in: an answer is on the disk before anybody is told so, once, however often it is sent."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import datetime
from typing import Final
from zoneinfo import ZoneInfo

from jentrow.core.errors import UnusableInput
from jentrow.core.exercises.grading.outcomes import UNDECIDED
from jentrow.core.sql.text import is_blank
from jentrow.records.models import Submission
from jentrow.records.practice import drop_draft, handed_in_as, last_attempt_at
from jentrow.records.submissions import find_submission
from jentrow.records.tasks import add_tasks
from jentrow.services.errors import NotFound, NotTaken
from jentrow.services.learners.feedback import (
    AttemptLine,
    FeedbackView,
    feedback_view,
)
from jentrow.services.learners.places import (
    Place,
    attempt_lines,
    attempts_left,
    attempts_of,
    checked_text,
    place_of,
)
from jentrow.services.scope import LearnerScope

_KEY: Final = re.compile(r"[\w-]{8,64}")


@dataclass(frozen=True, slots=True)
class HandedIn:
    """A submission that is on the disk. ``attempts_left`` is None where they are not counted."""

    id: int
    number: int
    submitted_at: datetime
    late: bool
    attempts_left: int | None


def hand_in(
    own: LearnerScope, sheet: str, slug: str, sql: str, key: str, arrived: datetime | None = None
) -> HandedIn:
    """Takes an answer, to be graded at once; sent again under its ``key`` it is the same one.

    It counts as handed in when it ``arrived`` at the server (now, where nothing is said), however
    long it waits to be written.

    Raises :class:`NotTaken` where the sheet is closed, no attempt is left, or the text is the one
    that was handed in last.
    """
    checked_text(sql)
    if is_blank(sql):
        raise UnusableInput("There is no query here: write one before you hand it in.")
    if not _KEY.fullmatch(key):
        raise UnusableInput("The key of a hand-in has 8 to 64 letters, digits or hyphens.")
    with own.runtime.rates.hand_ins.turn(own.learner_id):
        taken = _taken(own, sheet, slug, sql, key, arrived or own.runtime.now())
    own.runtime.queue.wake()
    return taken


def _taken(own: LearnerScope, sheet: str, slug: str, sql: str, key: str, now: datetime) -> HandedIn:
    # All that can be known beforehand is: while one writes, everybody else who writes waits.
    with own.records.session() as session:
        place = place_of(session, own, sheet, slug)
    with own.records.writing() as session:
        before = handed_in_as(session, own.learner_id, key)
        if before is not None:
            attempts = attempts_of(session, place)
            if before not in attempts:
                raise NotTaken("This key was used for another exercise: load the page again.")
            return _handed_in(place, before, attempts.index(before) + 1, len(attempts))
        used, last = last_attempt_at(session, own.learner_id, place.sheet.id, place.exercise.id)
        _check(place, used, last, sql, now)
        submission = Submission(
            exercise_id=place.exercise.id,
            learner_id=own.learner_id,
            sheet_id=place.sheet.id,
            key=key,
            sql=sql,
            submitted_at=now,
        )
        session.add(submission)
        session.flush()
        add_tasks(session, [submission], own.runtime.queue.priority_of(own.learner_id))
        drop_draft(session, own.learner_id, place.exercise.id)
        return _handed_in(place, submission, used + 1, used + 1)


def _check(place: Place, used: int, last: str, sql: str, now: datetime) -> None:
    if place.window.standing(now) == "closed":
        ended = place.window.ends or now
        local = ended.astimezone(ZoneInfo(place.course.zone))
        raise NotTaken(
            f"{place.sheet.title} closed at {local:%H:%M on %Y-%m-%d}: nothing is taken any more."
        )
    if attempts_left(place, used) == 0:
        raise NotTaken(f"All {place.sheet.attempts} attempts are used: nothing more is taken.")
    if used and last.strip() == sql.strip():
        raise NotTaken(f"This is the very text of attempt {used}: change it first.")


def _handed_in(place: Place, submission: Submission, number: int, used: int) -> HandedIn:
    closes = place.window.closes
    return HandedIn(
        submission.id,
        number,
        submission.submitted_at,
        closes is not None and submission.submitted_at > closes,
        attempts_left(place, used),
    )


def _attempt(own: LearnerScope, submission_id: int) -> tuple[Submission, Place, AttemptLine, int]:
    """An attempt of the learner's, and how many up to it are wrong. Raises :class:`NotFound`."""
    now = own.runtime.now()
    with own.records.session() as session:
        submission = find_submission(session, submission_id)
        if submission is None or submission.learner_id != own.learner_id or not submission.sheet:
            raise NotFound("There is no such attempt of yours.")
        place = place_of(session, own, submission.sheet.slug, submission.exercise.slug)
        attempts = attempts_of(session, place)
        line = next(one for one in attempt_lines(place, attempts, now) if one.id == submission.id)
        wrong = sum(
            one.grading is not None and one.grading.standing not in ("correct", UNDECIDED)
            for one in attempts[: line.number]
        )
    return submission, place, line, wrong


def attempt_with_wrong(own: LearnerScope, submission_id: int) -> tuple[Submission, bool, int]:
    """An attempt of the learner's, whether its verdict is told, and how many up to it are wrong.

    Raises :class:`NotFound`.
    """
    submission, _, line, wrong = _attempt(own, submission_id)
    return submission, line.mark is not None, wrong


def own_feedback(own: LearnerScope, submission_id: int) -> tuple[FeedbackView, Submission]:
    """What a learner may see of one of their attempts, and the attempt. Raises :class:`NotFound`.

    The rows that differ are not in it yet: :func:`difference` works them out of the attempt.
    """
    submission, place, line, wrong = _attempt(own, submission_id)
    view = feedback_view(
        submission, line, place.entry, place.window, wrong, published=place.published
    )
    return view, submission
