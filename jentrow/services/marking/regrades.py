"""Grading an exercise's answers anew: what would change, doing it, and taking it back."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import Final

from sqlalchemy.orm import Session

from jentrow.core.batches import batched
from jentrow.core.errors import UnusableInput
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.grading.outcomes import Outcome, standing_of
from jentrow.records.database import ACTOR
from jentrow.records.exercises import last_version
from jentrow.records.marks import AnswerRow, answers_to, regrades_of, texts_of
from jentrow.records.models import Exercise, Regrade
from jentrow.records.people import learners_of
from jentrow.records.submissions import point_at_gradings, submissions_to
from jentrow.records.tasks import ANEW, add_tasks, count_ready
from jentrow.services.errors import NotFound, NotTaken
from jentrow.services.exercises.overview import exercise_named
from jentrow.services.scope import CourseScope

AT_ONCE: Final = 50
"""Answers that are graded before anybody looks at the time."""


@dataclass(frozen=True)
class RegradeChange:
    """An answer that would come out otherwise; ``why`` is what would be found first.

    ``decided`` is the mark that was decided by hand, which stays whatever grading says.
    """

    submission: int
    learner: str
    before: str
    after: str
    mark_before: float | None
    mark_after: float
    decided: float | None
    why: str


@dataclass(frozen=True)
class RegradePreview:
    """What grading anew would change.

    Of ``total`` answers the first ``done`` have been looked at; ``unchanged`` and the lists are of
    those that were looked at this time. ``gains`` and ``losses`` get another mark; ``same_mark`` another verdict only. ``kept`` were
    decided by hand, and grading would now say something else than it did then. ``problem`` says
    why nothing can be graded.
    """

    total: int
    done: int
    unchanged: int
    gains: list[RegradeChange]
    losses: list[RegradeChange]
    same_mark: list[RegradeChange]
    kept: list[RegradeChange]
    problem: str = ""


def preview(
    scope: CourseScope, slug: str, begin: int = 0, seconds: float | None = None
) -> RegradePreview:
    """What grading an exercise's answers anew would change, without changing anything.

    The answers before ``begin`` are left out, and those that there is no time for in ``seconds``:
    ``done`` says where to go on.
    """
    with scope.records.session() as session:
        exercise = exercise_named(session, slug)
        try:
            grader = scope.runtime.graders.of(exercise)
        except UnusableInput as problem:
            return RegradePreview(0, 0, 0, [], [], [], [], str(problem))
        return changes_under(session, exercise, grader, begin, seconds)


def changes_under(
    session: Session,
    exercise: Exercise,
    grader: Grader,
    begin: int = 0,
    seconds: float | None = None,
) -> RegradePreview:
    """What would come out otherwise if answers to an exercise were graded by a grader."""
    until = None if seconds is None else time.monotonic() + seconds
    rows = answers_to(session, exercise.id)
    names = {one.id: one.name for one in learners_of(session, exercise.course_id)}
    found = RegradePreview(len(rows), begin, 0, [], [], [], [])
    for some in batched(rows[begin:], AT_ONCE):
        texts = texts_of(session, [row.id for row in some])
        outcomes = dict(grader.grade_many([texts[row.id] for row in some]))
        for at, row in enumerate(some):
            list_ = _where(found, row, outcomes[at])
            if list_ is None:
                found = replace(found, unchanged=found.unchanged + 1)
            else:
                list_.append(_change(row, outcomes[at], names.get(row.learner_id, "")))
        found = replace(found, done=found.done + len(some))
        if until is not None and time.monotonic() > until:
            break
    return found


def _where(found: RegradePreview, row: AnswerRow, after: Outcome) -> list[RegradeChange] | None:
    before = None if row.verdict is None else standing_of(row.verdict, row.undecided or "")
    if (before, row.mark) == (after.standing, after.mark):
        return None
    if row.decided_mark is not None:
        return found.kept
    if row.mark == after.mark:
        return found.same_mark
    return found.gains if after.mark > (row.mark or 0.0) else found.losses


def _change(row: AnswerRow, after: Outcome, learner: str) -> RegradeChange:
    first = after.findings[0].message if after.findings else ""
    right = "It gives the same result as what is accepted." if after.standing == "correct" else ""
    return RegradeChange(
        row.id,
        learner,
        "waiting" if row.verdict is None else standing_of(row.verdict, row.undecided or ""),
        after.standing,
        row.mark,
        after.mark,
        row.decided_mark,
        first or right,
    )


def regrade(scope: CourseScope, slug: str) -> int:
    """Lets every answer to an exercise be graded anew, as it is saved now; returns how many.

    Marks that were decided by hand stay; what each answer had come to is kept.
    """
    with scope.records.writing() as session:
        exercise = exercise_named(session, slug)
        count = begin_regrade(session, exercise)
    scope.runtime.queue.wake()
    return count


def begin_regrade(session: Session, exercise: Exercise) -> int:
    """The same within a writing session; the caller wakes the queue."""
    submissions = submissions_to(session, exercise.id)
    before = {str(one.id): one.grading_id for one in submissions if one.grading_id is not None}
    session.add(
        Regrade(
            exercise_id=exercise.id,
            at=datetime.now(UTC),
            by=session.info.get(ACTOR, ""),
            version=last_version(session, exercise.id),
            before=before,
        )
    )
    add_tasks(session, submissions, ANEW)
    return len(submissions)


def take_back(scope: CourseScope, slug: str, regrade_id: int) -> int:
    """Lets the gradings stand again that did before a regrade; returns for how many answers.

    Raises :class:`NotTaken` while answers are being graded, and for any but the last regrade.
    """
    with scope.records.writing() as session:
        exercise = exercise_named(session, slug)
        found = regrades_of(session, exercise.id)
        one = next((one for one in found if one.id == regrade_id), None)
        if one is None:
            raise NotFound(f"{exercise.title} was not graded anew under this number.")
        _check_last(found, one)
        if waiting := count_ready(session, exercise.id):
            raise NotTaken(
                f"{waiting} answers are still being graded: take the regrade back when that is done."
            )
        one.undone_at = datetime.now(UTC)
        one.undone_by = session.info.get(ACTOR, "")
        before = {int(id): grading for id, grading in one.before.items()}
        point_at_gradings(session, before)
        return len(before)


def _check_last(found: Sequence[Regrade], one: Regrade) -> None:
    if one.undone_at is not None:
        raise NotTaken("This regrade was taken back already.")
    later = [other for other in found if other.id > one.id and other.undone_at is None]
    if later:
        raise NotTaken("Answers were graded anew since: take the later regrade back first.")
