"""Extra marks and excuses by hand, each with its reason; and how totals are rounded."""

from __future__ import annotations

import math
from datetime import UTC, datetime

from jentrow.core.errors import UnusableInput
from jentrow.core.mappings import MOST_POINTS
from jentrow.core.marks.deciding import checked_comment
from jentrow.core.marks.totals import STEPS
from jentrow.core.words import listed
from jentrow.records.database import ACTOR
from jentrow.records.exercises import find_exercise
from jentrow.records.models import Adjustment, Learner
from jentrow.services.errors import NotFound, NotTaken
from jentrow.services.exercises.sheets import sheet_named
from jentrow.services.scope import CourseScope, course_in_scope


def adjust(
    scope: CourseScope,
    learner_id: int,
    sheet_slug: str,
    *,
    points: float = 0.0,
    excused: str = "",
    reason: str,
) -> int:
    """Gives an extra mark on a sheet, or excuses a learner from an exercise of it.

    ``excused`` is the exercise's slug; empty for an extra mark of ``points``, which may be below 0.
    Returns its number.
    """
    words = checked_comment(reason, "reason")
    if not words:
        raise UnusableInput("Say why: the reason is kept, and the learner sees it.")
    if not excused:
        _check_extra(points)
    with scope.records.writing() as session:
        course = course_in_scope(session)
        learner = session.get(Learner, learner_id)
        if learner is None or learner.course_id != course.id:
            raise NotFound(f"There is no learner {learner_id} in this course.")
        sheet = sheet_named(session, sheet_slug)
        exercise = find_exercise(session, course.id, excused) if excused else None
        if excused and exercise is None:
            raise NotFound(f"There is no exercise {excused!r}.")
        if exercise and exercise.id not in {one.exercise_id for one in sheet.entries}:
            raise UnusableInput(f"{exercise.title} is not on {sheet.title}.")
        one = Adjustment(
            learner_id=learner.id,
            sheet_id=sheet.id,
            exercise_id=exercise.id if exercise else None,
            kind="excused" if exercise else "extra",
            points=0.0 if exercise else round(points, 2),
            reason=words,
            at=datetime.now(UTC),
            by=session.info.get(ACTOR, ""),
        )
        session.add(one)
        session.flush()
        number = one.id
    scope.runtime.queue.tell_course(scope.course_id, learners=True)
    return number


def _check_extra(points: float) -> None:
    if not math.isfinite(points) or not 0 < abs(points) <= MOST_POINTS:
        raise UnusableInput(
            f"An extra mark of {points:g} cannot be given: it is any number but 0, at most "
            f"{MOST_POINTS:,}; below 0 it takes off."
        )


def take_back(scope: CourseScope, adjustment_id: int) -> None:
    """Takes an extra mark or an excuse back; it stays in the records."""
    with scope.records.writing() as session:
        course = course_in_scope(session)
        one = session.get(Adjustment, adjustment_id)
        learner = session.get(Learner, one.learner_id) if one else None
        if one is None or learner is None or learner.course_id != course.id:
            raise NotFound(f"There is no extra mark or excuse {adjustment_id}.")
        if one.undone_at is not None:
            raise NotTaken(f"{one.undone_by} has taken this back already.")
        one.undone_at = datetime.now(UTC)
        one.undone_by = session.info.get(ACTOR, "")
    scope.runtime.queue.tell_course(scope.course_id, learners=True)


def set_step(scope: CourseScope, step: float) -> None:
    """Says what the totals of a course are rounded to."""
    if step not in STEPS:
        raise UnusableInput(
            f"Totals cannot be rounded to {step:g}: choose {listed([f'{one:g}' for one in STEPS])}."
        )
    with scope.records.writing() as session:
        course_in_scope(session).mark_step = step
