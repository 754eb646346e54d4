"""Answers taken in from files, after a look at what fits: all of them or none."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import UTC
from difflib import get_close_matches

from sqlalchemy import select
from sqlalchemy.orm import Session

from jentrow.core.errors import UnusableInput
from jentrow.core.exercises.submissions import Submission, matching_exercise, read_answers
from jentrow.records import models
from jentrow.records.exercises import list_exercises
from jentrow.records.submissions import learners_by_words
from jentrow.services.runtime.import_jobs import Import
from jentrow.services.scope import CourseScope, course_in_scope
from jentrow.services.submissions.additions import import_submissions


@dataclass(frozen=True, slots=True)
class MatchedExercise:
    """An exercise that answers were found for."""

    slug: str
    title: str
    answers: int


@dataclass(frozen=True, slots=True)
class Unmatched:
    """Something in a file that is no answer to an exercise here, and why."""

    place: str
    why: str


@dataclass(frozen=True)
class AnswersLook:
    """What a file of answers holds.

    ``known`` answers are here already, to the letter and the minute, and are not taken in again.
    """

    answers: int
    known: int
    exercises: list[MatchedExercise]
    new_learners: list[str]
    unmatched: list[Unmatched]


@dataclass(frozen=True)
class _Read:
    look: AnswersLook
    submissions: list[Submission]


def look(scope: CourseScope, one: Import) -> AnswersLook:
    """Looks at a file of answers; nothing is taken in."""
    with scope.records.session() as session:
        return _read(session, one).look


def take(scope: CourseScope, one: Import, *, leave_out: bool) -> int:
    """Takes answers in, to be graded; returns how many.

    Raises :class:`UnusableInput` where something does not fit and was not said to be left out.
    """
    with scope.records.writing() as session:
        read = _read(session, one)
        if read.look.unmatched and not leave_out:
            raise UnusableInput(
                f"{len(read.look.unmatched)} entries fit no exercise: mend the file, or leave them out."
            )
        taken = import_submissions(
            session, course_in_scope(session), read.submissions, scope.runtime.now()
        )
        one.phase = "kept"
    scope.runtime.queue.wake()
    return len(taken)


def _read(session: Session, one: Import) -> _Read:
    if len(one.files) != 1:
        raise UnusableInput("hand in one file: a CSV file, a ZIP or a notebook.")
    found = read_answers(one.folder / one.files[0])
    course = course_in_scope(session)
    exercises = {record.slug: record for record in list_exercises(session, course.id)}
    titles = {slug: record.title for slug, record in exercises.items()}
    unmatched = [Unmatched(problem, "cannot be read") for problem in found.problems]
    matched: list[Submission] = []
    for submission, place in zip(found.submissions, found.places, strict=True):
        slug = matching_exercise(submission.exercise, titles)
        if slug is None:
            near = get_close_matches(submission.exercise, list(titles), n=1)
            why = f"there is no exercise {submission.exercise!r}"
            why += f", did you mean {near[0]}?" if near else ""
            unmatched.append(Unmatched(f"{place}, {submission.learner}", why))
        else:
            matched.append(replace(submission, exercise=slug))
    here = _here(session, course.id)
    learners = learners_by_words(session, course.id)
    codes = {word: learner.code for word, learner in learners.items()}
    new = [one for one in matched if _identity(one, codes) not in here]
    counts = Counter(one.exercise for one in new)
    return _Read(
        AnswersLook(
            len(new),
            len(matched) - len(new),
            [
                MatchedExercise(slug, titles[slug], counts[slug])
                for slug in exercises
                if counts[slug]
            ],
            list(dict.fromkeys(one.learner for one in new if one.learner not in learners)),
            unmatched,
        ),
        new,
    )


def _identity(submission: Submission, codes: Mapping[str, str]) -> tuple[str, str, str, str]:
    """An answer without a time is the same as one with the same text, whenever that came."""
    at = submission.submitted_at
    if at is not None and at.tzinfo is not None:
        at = at.astimezone(UTC).replace(tzinfo=None)
    learner = codes.get(submission.learner, submission.learner)
    return learner, submission.exercise, submission.sql, at.isoformat() if at else ""


def _here(session: Session, course_id: int) -> set[tuple[str, str, str, str]]:
    rows = session.execute(
        select(
            models.Learner.code,
            models.Exercise.slug,
            models.Submission.sql,
            models.Submission.submitted_at,
        )
        .join(models.Learner, models.Learner.id == models.Submission.learner_id)
        .join(models.Exercise, models.Exercise.id == models.Submission.exercise_id)
        .where(models.Exercise.course_id == course_id)
    )
    found: set[tuple[str, str, str, str]] = set()
    for learner, slug, sql, at in rows:
        found.add((learner, slug, sql, at.replace(tzinfo=None).isoformat()))
        found.add((learner, slug, sql, ""))
    return found
