"""What the pages show of exercises and submissions, put together from records and core."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from jentrow.core.comparison.findings import Finding
from jentrow.core.comparison.woven import WovenView
from jentrow.core.errors import EngineInterrupted, UnusableInput
from jentrow.core.exercises.markscheme import LedgerLine
from jentrow.core.exercises.outcomes import UNDECIDED_WORDS, DatasetOutcome
from jentrow.core.exercises.showing import Glimpse
from jentrow.core.results import Column
from jentrow.core.shownrows import ResultView, shown_rows
from jentrow.records.exercises import (
    find_exercise,
    first_finding_counts,
    last_version,
    list_exercises,
    sheet_titles,
    sheets_with,
    the_course,
    verdict_counts,
)
from jentrow.records.models import Course, Exercise, Grading, Submission
from jentrow.records.submissions import count_outdated, find_submission, submissions_to
from jentrow.records.tasks import problems_of
from jentrow.services.contents import record_content
from jentrow.services.desk import Desk
from jentrow.services.errors import NotFound
from jentrow.services.lateness import LateView, lateness

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


@dataclass(frozen=True)
class FindingView:
    """One finding."""

    code: str
    message: str
    count: int
    dataset: str
    evidence: dict[str, Any]


@dataclass(frozen=True)
class DatasetVerdict:
    """The verdict on one dataset alone."""

    name: str
    is_open: bool
    verdict: str
    expected_rows: int | None
    given_rows: int | None


@dataclass(frozen=True)
class SubmissionView:
    """One submission with its query, what it was graded to, and a woven table.

    Verdict, mark, findings and ledger are those that were kept (``waiting`` where there are none
    yet; ``problem`` says why not); only the table is worked out, by the exercise as it is now. ``outdated`` says that the exercise, its rows or
    the engine were others when it was graded, with the exercise's version ``graded_version``.
    """

    id: int
    learner: str
    submitted_at: datetime
    sql: str
    exercise: str
    exercise_title: str
    points: float
    verdict: str
    undecided: str
    mark: float | None
    answer: str
    problem: str
    outdated: bool
    graded_version: int
    version: int
    reference: str
    findings: list[FindingView]
    ledger: list[LedgerLine]
    datasets: list[DatasetVerdict]
    shown_dataset: str
    woven: WovenView | None
    expected: ResultView | None
    previous: int | None
    next: int | None
    late: LateView | None


def course_title(desk: Desk) -> str:
    """The title of the course, empty where there is none yet."""
    with desk.records.session() as session:
        course = the_course(session)
        return course.title if course else ""


def exercise_lines(desk: Desk) -> list[ExerciseLine]:
    """All exercises with how many answers are right, wrong, in error."""
    with desk.records.session() as session:
        course = the_course(session)
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


def exercise_view(desk: Desk, slug: str) -> ExerciseView:
    """One exercise. Raises :class:`NotFound`."""
    with desk.records.session() as session:
        exercise = exercise_named(session, slug)
        problems = problems_of(session, exercise.id)
        return ExerciseView(
            slug=exercise.slug,
            version=last_version(session, exercise.id),
            content=record_content(exercise),
            draft=exercise.draft,
            drafted_at=exercise.drafted_at,
            engine_version=desk.engine(exercise.engine).version,
            datasets=[dataset.name for dataset in exercise.sample.datasets],
            sheets=[
                SheetPlace(sheet.slug, sheet.title, place)
                for sheet, place in sheets_with(session, exercise.id)
            ],
            counts=_counts(verdict_counts(session, exercise.course_id).get(exercise.id, {})),
            outdated=count_outdated(session, exercise.id, desk.made_with(exercise).measure),
            submissions=[
                _line(one, problems.get(one.id, "")) for one in submissions_to(session, exercise.id)
            ],
        )


def submission_view(desk: Desk, submission_id: int, dataset: str | None = None) -> SubmissionView:
    """One submission, woven with what is due on a dataset (the open one unless named)."""
    with desk.records.session() as session:
        submission = find_submission(session, submission_id)
        course = the_open_course(session)
        if submission is None or submission.exercise.course_id != course.id:
            raise NotFound(f"There is no submission {submission_id}.")
        exercise = submission.exercise
        version = last_version(session, exercise.id)
        problem = problems_of(session, exercise.id).get(submission.id, "")
        neighbours = [one.id for one in submissions_to(session, exercise.id)]
        kept = submission.grading
        late = lateness(session, course, submission, kept.mark if kept else 0.0)
    place = neighbours.index(submission.id)
    table = _table(desk, submission, dataset)
    return SubmissionView(
        id=submission.id,
        learner=submission.learner.name,
        submitted_at=submission.submitted_at,
        sql=submission.sql,
        exercise=exercise.slug,
        exercise_title=exercise.title,
        points=exercise.points,
        verdict=kept.standing if kept else "waiting",
        undecided=UNDECIDED_WORDS[kept.undecided] if kept else "",  # type: ignore[index]
        mark=kept.mark if kept else None,
        answer=kept.answer if kept else "",
        problem=problem or table.trouble,
        outdated=kept is not None and kept.measure != desk.made_with(exercise).measure,
        graded_version=kept.exercise_version if kept else 0,
        version=version,
        reference=exercise.reference,
        findings=[FindingView(**({"evidence": {}} | one)) for one in kept.findings] if kept else [],
        ledger=[LedgerLine(**one) for one in kept.ledger] if kept else [],
        datasets=_kept_verdicts(kept) or table.datasets,
        shown_dataset=table.dataset,
        woven=table.woven,
        expected=table.expected,
        previous=neighbours[place - 1] if place else None,
        next=neighbours[place + 1] if place + 1 < len(neighbours) else None,
        late=late if kept else None,
    )


def _kept_verdicts(kept: Grading | None) -> list[DatasetVerdict]:
    """What an answer came to on each dataset when it was graded; older gradings do not say."""
    return [
        DatasetVerdict(
            one["dataset"], one["is_open"], one["verdict"], one["expected_rows"], one["given_rows"]
        )
        for one in (kept.datasets if kept else ())
    ]


@dataclass(frozen=True)
class _Table:
    """The woven table of a submission; ``trouble`` says why there is none."""

    dataset: str
    datasets: list[DatasetVerdict]
    woven: WovenView | None
    expected: ResultView | None
    trouble: str = ""


def _table(desk: Desk, submission: Submission, dataset: str | None) -> _Table:
    exercise = submission.exercise
    names = [one.name for one in exercise.sample.datasets]
    if dataset is not None and dataset not in names:
        raise NotFound(f"The exercise has no dataset {dataset!r}; it has {', '.join(names)}.")
    at = names.index(dataset) if dataset else 0
    try:
        grader = desk.grader(exercise)
        looked = grader.look(submission.sql, at)
    except (UnusableInput, EngineInterrupted) as problem:
        return _Table(names[at], [], None, None, str(problem))
    due = grader.expectations[0][at].result
    return _Table(
        names[at],
        [dataset_verdict(one) for one in looked.outcome.datasets],
        looked.woven,
        None if looked.woven is not None else shown_rows(due.columns, due.rows),
    )


def glimpse_view(seen: Glimpse) -> GlimpseView:
    """What learners see of a result, as the pages show it."""
    result = None
    if seen.rows is not None and seen.columns is not None:
        columns = tuple(map(Column, seen.columns))
        result = shown_rows(columns, seen.rows)
    return GlimpseView(seen.columns, seen.row_count, result)


def the_open_course(session: Session) -> Course:
    """The course whose records these are. Raises :class:`NotFound` where there is none yet."""
    course: Course | None = the_course(session)
    if course is None:
        raise NotFound("There is no course yet: begin one first.")
    return course


def exercise_named(session: Session, slug: str) -> Exercise:
    """The record of an exercise. Raises :class:`NotFound`."""
    exercise = find_exercise(session, the_open_course(session).id, slug)
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


def finding_view(finding: Finding) -> FindingView:
    """A finding as the pages show it."""
    return FindingView(**({"evidence": {}} | finding.to_json()))


def dataset_verdict(one: DatasetOutcome) -> DatasetVerdict:
    """What an answer came to on one dataset."""
    return DatasetVerdict(
        one.dataset,
        one.is_open,
        one.standing,
        one.expected.row_count if one.given else None,
        one.given.row_count if one.given else None,
    )
