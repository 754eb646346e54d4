"""An answer taken over into its exercise: as an accepted alternative, or as a trial answer."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from jentrow.core.errors import UnusableInput
from jentrow.core.exercises.files.content import read_exercise
from jentrow.core.exercises.trials import TrialResult, run_trials
from jentrow.core.slugs import plain_name
from jentrow.core.words import listed
from jentrow.records.contents import record_content
from jentrow.records.models import Exercise, Submission
from jentrow.services.errors import NotFound, NotTaken
from jentrow.services.exercises.overview import exercise_named
from jentrow.services.exercises.version_history import keep_content
from jentrow.services.marking.regrades import RegradePreview, begin_regrade, changes_under
from jentrow.services.scope import CourseScope


@dataclass(frozen=True)
class AlternativeLook:
    """What accepting an answer would change.

    ``broken`` are trials that would not hold any more, each in words; ``problem`` says why the
    answer cannot be accepted at all.
    """

    name: str
    changes: RegradePreview | None
    broken: list[str]
    problem: str


@dataclass(frozen=True)
class Accepted:
    """The version that an exercise has now, and how many answers are graded anew."""

    version: int
    count: int


def look_at_alternative(scope: CourseScope, slug: str, submission_id: int) -> AlternativeLook:
    """What accepting an answer as a further alternative would change."""
    with scope.records.session() as session:
        exercise = exercise_named(session, slug)
        sql = _text_of(session, exercise, submission_id)
        name = _free_name(exercise, "")
        content = _with_alternative(exercise, name, sql)
        try:
            grader = scope.runtime.graders.of_content(
                read_exercise(slug, content, [exercise.sample.name]), exercise.sample
            )
        except UnusableInput as problem:
            return AlternativeLook(name, None, [], str(problem))
        broken = _broken_trials(scope, exercise, content)
        return AlternativeLook(name, changes_under(session, exercise, grader), broken, "")


def accept_alternative(scope: CourseScope, slug: str, submission_id: int, name: str) -> Accepted:
    """Accepts an answer as a further alternative, and grades all answers anew.

    Raises :class:`UnusableInput` for one that cannot be an alternative, and :class:`NotTaken` where
    a trial would not hold any more.
    """
    with scope.records.session() as session:
        exercise = exercise_named(session, slug)
        sql = _text_of(session, exercise, submission_id)
        content = _with_alternative(exercise, _free_name(exercise, name), sql)
        if broken := _broken_trials(scope, exercise, content):
            raise NotTaken(
                f"This contradicts {listed(broken)}. Change or delete the trial first, if the answer "
                "is right. Nothing was changed."
            )
    with scope.records.writing() as session:
        exercise = exercise_named(session, slug)
        content = _with_alternative(exercise, _free_name(exercise, name), sql)
        version = keep_content(session, exercise, content, "an answer accepted as an alternative")
        count = begin_regrade(session, exercise)
    scope.runtime.queue.wake()
    return Accepted(version, count)


def make_trial(
    scope: CourseScope, slug: str, submission_id: int, name: str, expected: str
) -> Accepted:
    """Makes an answer a trial of its exercise, with the verdict that it ought to get."""
    with scope.records.writing() as session:
        exercise = exercise_named(session, slug)
        sql = _text_of(session, exercise, submission_id)
        taken = {one.name for one in exercise.trials}
        content = record_content(exercise)
        trial = {"name": plain_name(name, taken, "answer"), "sql": sql, "expected": expected}
        content = content | {"trials": [*content["trials"], trial]}
        version = keep_content(session, exercise, content, "an answer made a trial")
    scope.runtime.queue.wake()
    return Accepted(version, 0)


def _text_of(session: Session, exercise: Exercise, submission_id: int) -> str:
    submission = session.get(Submission, submission_id)
    if submission is None or submission.exercise_id != exercise.id:
        raise NotFound(f"There is no answer {submission_id} to {exercise.title}.")
    return submission.sql


def _free_name(exercise: Exercise, name: str) -> str:
    return plain_name(name, {one.name for one in exercise.alternatives}, "from-an-answer")


def _with_alternative(exercise: Exercise, name: str, sql: str) -> Mapping[str, Any]:
    content = record_content(exercise)
    return content | {"alternatives": [*content["alternatives"], {"name": name, "sql": sql}]}


def _broken_trials(scope: CourseScope, exercise: Exercise, content: Mapping[str, Any]) -> list[str]:
    """The trials that hold now, and would not under a content, in words."""

    def results(content: Mapping[str, Any]) -> dict[str, TrialResult]:
        read = read_exercise(exercise.slug, content, [exercise.sample.name])
        grader = scope.runtime.graders.of_content(read, exercise.sample)
        return {one.trial.name: one for one in run_trials(grader)}

    now, then = results(record_content(exercise)), results(content)
    return [
        f"the trial {name} ({one.said})"
        for name, one in then.items()
        if not one.holds and name in now and now[name].holds
    ]
