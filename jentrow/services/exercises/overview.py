"""Exercises as their instructor sees them: the list, and one with what came of its answers."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from jentrow.core.exercises.showing import Glimpse
from jentrow.core.results import Column
from jentrow.core.shownrows import ResultView, shown_rows
from jentrow.records.contents import record_content
from jentrow.records.exercises import (
    course_of_session,
    find_exercise,
    first_finding_counts,
    last_version,
    list_exercises,
    sheet_titles,
    sheets_with,
    verdict_counts,
)
from jentrow.records.models import Exercise, Submission
from jentrow.records.submissions import count_outdated, submissions_to
from jentrow.records.tasks import problems_of
from jentrow.services.errors import NotFound
from jentrow.services.scope import CourseScope, course_in_scope

KINDS = 6


@dataclass(frozen=True)
class VerdictCounts:
    """How many submissions got which verdict."""

    correct: int = 0
    incorrect: int = 0
    error: int = 0
    refused: int = 0
    stopped: int = 0
    undecided: int = 0
    waiting: int = 0

    @property
    def total(self) -> int:
        """All submissions."""
        return (
            self.correct
            + self.incorrect
            + self.error
            + self.refused
            + self.stopped
            + self.undecided
            + self.waiting
        )


@dataclass(frozen=True)
class KindCount:
    """How many submissions have a kind of finding first."""

    code: str
    count: int


@dataclass(frozen=True)
class ExerciseLine:
    """An exercise in a list, with the commonest kinds of first findings."""

    slug: str
    title: str
    prompt: str
    sample: str
    points: float
    tags: list[str]
    sheets: list[str]
    has_draft: bool
    trials: int
    counts: VerdictCounts
    kinds: list[KindCount]


@dataclass(frozen=True)
class GlimpseView:
    """What learners see of the expected result."""

    columns: Sequence[str] | None
    row_count: int | None
    result: ResultView | None


@dataclass(frozen=True)
class SubmissionLine:
    """A submission in a list.

    ``summary`` is its first finding in words, or why it cannot be graded as things are.
    """

    id: int
    learner: str
    submitted_at: datetime
    verdict: str
    mark: float | None
    code: str
    summary: str


@dataclass(frozen=True)
class SheetPlace:
    """A sheet that an exercise is on, and its place there, counted from 1."""

    slug: str
    title: str
    place: int


@dataclass(frozen=True)
class ExerciseView:
    """An exercise as it is kept, its draft if there is one, and the answers to it.

    ``outdated`` counts the answers that were graded with something else than would grade them now:
    another version of the exercise, of its rows, or of the engine.
    """

    slug: str
    version: int
    content: dict[str, Any]
    draft: dict[str, Any] | None
    drafted_at: datetime | None
    engine_version: str
    datasets: list[str]
    sheets: list[SheetPlace]
    counts: VerdictCounts
    outdated: int
    submissions: list[SubmissionLine]


def course_title(scope: CourseScope) -> str:
    """The title of the course, empty where there is none yet."""
    with scope.records.session() as session:
        course = course_of_session(session)
        return course.title if course else ""


def exercise_lines(scope: CourseScope) -> list[ExerciseLine]:
    """All exercises with how many answers are right, wrong, in error."""
    with scope.records.session() as session:
        course = course_of_session(session)
        if course is None:
            return []
        counts = verdict_counts(session, course.id)
        kinds = first_finding_counts(session, course.id)
        sheets = sheet_titles(session, course.id)
        return [
            ExerciseLine(
                exercise.slug,
                exercise.title,
                exercise.prompt,
                exercise.sample.name,
                exercise.points,
                exercise.tags,
                sheets.get(exercise.id, []),
                exercise.draft is not None,
                len(exercise.trials),
                _counts(counts.get(exercise.id, {})),
                [KindCount(*kind) for kind in kinds.get(exercise.id, Counter()).most_common(KINDS)],
            )
            for exercise in list_exercises(session, course.id)
        ]


def exercise_view(scope: CourseScope, slug: str) -> ExerciseView:
    """One exercise. Raises :class:`NotFound`."""
    with scope.records.session() as session:
        exercise = exercise_named(session, slug)
        problems = problems_of(session, exercise.id)
        return ExerciseView(
            slug=exercise.slug,
            version=last_version(session, exercise.id),
            content=record_content(exercise),
            draft=exercise.draft,
            drafted_at=exercise.drafted_at,
            engine_version=scope.runtime.engines.version(exercise.engine),
            datasets=[dataset.name for dataset in exercise.sample.datasets],
            sheets=[
                SheetPlace(sheet.slug, sheet.title, place)
                for sheet, place in sheets_with(session, exercise.id)
            ],
            counts=_counts(verdict_counts(session, exercise.course_id).get(exercise.id, {})),
            outdated=count_outdated(
                session, exercise.id, scope.runtime.graders.made_with(exercise).measure
            ),
            submissions=[
                _line(one, problems.get(one.id, "")) for one in submissions_to(session, exercise.id)
            ],
        )


def glimpse_view(seen: Glimpse) -> GlimpseView:
    """What learners see of a result, as the pages show it."""
    result = None
    if seen.rows is not None and seen.columns is not None:
        columns = tuple(map(Column, seen.columns))
        result = shown_rows(columns, seen.rows)
    return GlimpseView(seen.columns, seen.row_count, result)


def exercise_named(session: Session, slug: str) -> Exercise:
    """The record of an exercise. Raises :class:`NotFound`."""
    exercise = find_exercise(session, course_in_scope(session).id, slug)
    if exercise is None:
        raise NotFound(f"There is no exercise {slug!r}.")
    return exercise


def _counts(found: dict[str, int]) -> VerdictCounts:
    return VerdictCounts(**{verdict or "waiting": count for verdict, count in found.items()})


def _line(submission: Submission, problem: str) -> SubmissionLine:
    grading = submission.grading
    findings: Sequence[dict[str, Any]] = grading.findings if grading else ()
    first = findings[0] if findings else None
    return SubmissionLine(
        submission.id,
        submission.learner.name,
        submission.submitted_at,
        grading.standing if grading else "waiting",
        grading.mark if grading else None,
        first["code"] if first else "",
        first["message"] if first else problem if grading is None else "",
    )
