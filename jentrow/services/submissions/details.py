"""One submission as an instructor sees it: what was kept of its grading, and its table."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from jentrow.core.comparison.woven import SHOWN_ROWS, WovenView
from jentrow.core.errors import EngineInterrupted, JentrowError, UnusableInput
from jentrow.core.exercises.grading.outcomes import UNDECIDED_WORDS
from jentrow.core.exercises.markscheme import LedgerLine
from jentrow.core.shownrows import ResultView, shown_rows
from jentrow.records.contents import rules_of
from jentrow.records.exercises import (
    last_version,
)
from jentrow.records.models import Grading, Submission
from jentrow.records.submissions import find_submission, submission_ids
from jentrow.records.tasks import problems_of
from jentrow.services.errors import NotFound
from jentrow.services.exercises.lateness import LateView, lateness
from jentrow.services.exercises.verdicts import DatasetVerdict, FindingView, dataset_verdict
from jentrow.services.runtime.engines import translation_of
from jentrow.services.scope import CourseScope, course_in_scope


@dataclass(frozen=True)
class SubmissionView:
    """One submission with its query, what it was graded to, and a woven table.

    Verdict, mark, findings and ledger are those that were kept (``waiting`` where there are none
    yet; ``problem`` says why not); only the table is worked out, by the exercise as it is now. ``outdated`` says that the exercise, its rows or
    the engine were others when it was graded, with the exercise's version ``graded_version``.
    ``runs_as`` is the translation that a stand-in runs; empty where the text itself is run;
    ``doubts`` are what the stand-in may do otherwise.
    """

    id: int
    learner: str
    submitted_at: datetime
    sql: str
    exercise: str
    exercise_title: str
    sample: str
    engine: str
    minds_case: bool
    runs_as: str
    doubts: list[str]
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


def _translation(scope: CourseScope, submission: Submission) -> tuple[str, list[str]]:
    """What a stand-in runs, and what is doubtful of it; both empty on any other engine."""
    exercise, kept = submission.exercise, submission.grading
    engine = scope.runtime.engines.get(exercise.engine)
    try:
        loaded = engine.load(scope.runtime.datasets.source(exercise.sample.datasets[0]))
    except JentrowError:  # the page says elsewhere what is wrong with the sample
        return "", []
    return translation_of(engine, loaded, submission.sql, undecided=kept.undecided if kept else "")


def submission_view(
    scope: CourseScope, submission_id: int, dataset: str | None = None, rows: int = SHOWN_ROWS
) -> SubmissionView:
    """One submission, woven with what is due on a dataset (the open one unless named).

    At most so many ``rows`` are woven; those that differ come first.
    """
    with scope.records.session() as session:
        submission = find_submission(session, submission_id)
        course = course_in_scope(session)
        if submission is None or submission.exercise.course_id != course.id:
            raise NotFound(f"There is no submission {submission_id}.")
        exercise = submission.exercise
        version = last_version(session, exercise.id)
        problem = problems_of(session, exercise.id).get(submission.id, "")
        neighbours = submission_ids(session, exercise.id)
        kept = submission.grading
        late = lateness(session, course, submission, kept.mark if kept else 0.0)
    place = neighbours.index(submission.id)
    table = _table(scope, submission, dataset, rows)
    ran_as, doubts = _translation(scope, submission)
    return SubmissionView(
        id=submission.id,
        learner=submission.learner.name,
        submitted_at=submission.submitted_at,
        sql=submission.sql,
        exercise=exercise.slug,
        exercise_title=exercise.title,
        sample=exercise.sample.name,
        engine=exercise.engine,
        minds_case=rules_of(exercise).limits.minds_case,
        runs_as=ran_as,
        doubts=doubts,
        points=exercise.points,
        verdict=kept.standing if kept else "waiting",
        undecided=UNDECIDED_WORDS[kept.undecided] if kept else "",  # type: ignore[index]
        mark=kept.mark if kept else None,
        answer=kept.answer if kept else "",
        problem=problem or table.trouble,
        outdated=kept is not None
        and kept.measure != scope.runtime.graders.made_with(exercise).measure,
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


def _table(scope: CourseScope, submission: Submission, dataset: str | None, rows: int) -> _Table:
    exercise = submission.exercise
    names = [one.name for one in exercise.sample.datasets]
    if dataset is not None and dataset not in names:
        raise NotFound(f"The exercise has no dataset {dataset!r}; it has {', '.join(names)}.")
    at = names.index(dataset) if dataset else 0
    try:
        grader = scope.runtime.graders.of(exercise)
        looked = grader.look(submission.sql, at, rows=rows)
    except (UnusableInput, EngineInterrupted) as problem:
        return _Table(names[at], [], None, None, str(problem))
    due = grader.expectations[0][at].result
    return _Table(
        names[at],
        [dataset_verdict(one) for one in looked.outcome.datasets],
        looked.woven,
        None if looked.woven is not None else shown_rows(due.columns, due.rows),
    )
