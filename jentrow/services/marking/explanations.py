"""What explains an answer: near misses, the smallest example, whether it was right by luck.

It is worked out once for each text and each state of the exercise and its data, and kept.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from hashlib import sha256
from typing import Any, Final

from jentrow.core.errors import JentrowError
from jentrow.core.exercises.distinguishing.analysis import Analysis
from jentrow.core.exercises.distinguishing.near_misses import NearMiss
from jentrow.core.exercises.grader import Grader
from jentrow.records.explanations import explanation_of, keep_explanation
from jentrow.records.models import Exercise, Submission
from jentrow.records.submissions import find_submission
from jentrow.services.errors import NotFound
from jentrow.services.exercises.examples import (
    ExampleView,
    MadeTable,
    example_view,
    kept_rows,
    made_tables,
    rows_kept,
)
from jentrow.services.samples.catalogue import open_dataset
from jentrow.services.scope import CourseScope, course_in_scope

_DIGEST: Final = 32
OUT_OF_DATE: Final = (
    "The exercise or its rows were others when this answer was graded, and it is not right any more: "
    "preview the regrade."
)


@dataclass(frozen=True)
class Luck:
    """Whether an accepted answer was right by luck: how many datasets were tried, and the grade.

    ``grade`` is ``usual`` where rows like the open data tell it from the reference, ``unusual``
    where only others do, and empty where none did.
    """

    tried: int
    grade: str


@dataclass(frozen=True)
class Explanation:
    """What was found out about a text, without the rows' results.

    ``rows`` are those of its example, or those that show its luck. ``without`` says why nothing
    was looked for.
    """

    near_misses: tuple[NearMiss, ...]
    rows: Mapping[str, list[list[Any]]] | None
    luck: Luck | None
    without: str

    def to_json(self) -> dict[str, Any]:
        """As the records keep it."""
        return {
            "near_misses": [asdict(one) for one in self.near_misses],
            "rows": self.rows,
            "luck": asdict(self.luck) if self.luck else None,
            "without": self.without,
        }


@dataclass(frozen=True)
class ExplanationView:
    """What explains an answer, as its instructor sees it.

    ``rows`` are those of the example, as they can be taken in as a dataset.
    """

    near_misses: tuple[NearMiss, ...]
    example: ExampleView | None
    rows: list[MadeTable]
    luck: Luck | None
    without: str


def text_digest(sql: str) -> str:
    """What a text is kept under."""
    return sha256(sql.encode(errors="surrogatepass")).hexdigest()[:_DIGEST]


def read_explanation(found: Mapping[str, Any]) -> Explanation:
    """What the records keep."""
    luck = found["luck"]
    return Explanation(
        tuple(NearMiss(**one) for one in found["near_misses"]),
        found["rows"],
        Luck(**luck) if luck else None,
        found["without"],
    )


def explained(
    scope: CourseScope, exercise: Exercise, sql: str, standing: str, use: str = "steady"
) -> Explanation:
    """What explains a text that was graded to a standing: known already, or worked out and kept.

    Raises :class:`JentrowError` where nothing can be run.
    """
    grader, made_with = scope.runtime.graders.with_measure(exercise)
    with scope.records.session() as session:
        known = explanation_of(session, exercise.id, made_with.measure, text_digest(sql))
    if known is not None:
        return read_explanation(known)
    engine = scope.runtime.engines.get(exercise.engine, use=use)  # type: ignore[arg-type]
    found = _found(grader.elsewhere(engine), sql, standing)
    with scope.records.writing() as session:
        keep_explanation(session, exercise.id, made_with.measure, text_digest(sql), found.to_json())
    return found


def _found(grader: Grader, sql: str, standing: str) -> Explanation:
    if standing == "correct":
        analysis = grader.analyse(sql, "luck")
        luck = analysis.luck
        rows = kept_rows(tuple(luck.rows.items())) if luck and luck.rows else None
        told = Luck(luck.tried, luck.grade or "") if luck else None
        without = analysis.without or ("" if told else OUT_OF_DATE)
        return Explanation((), rows, told, without)
    if standing != "incorrect":
        return Explanation((), None, None, "")
    analysis = grader.analyse(sql, "explanation")
    example = analysis.example
    return Explanation(
        analysis.near_misses,
        kept_rows(example.rows) if example is not None else None,
        None,
        analysis.without,
    )


def on_kept_rows(
    grader: Grader, sql: str, rows: Mapping[str, list[list[Any]]] | None, *, for_learner: bool
) -> ExampleView | None:
    """What a text gives on the rows of an example, woven with what is due."""
    if not rows:
        return None
    analysis: Analysis = grader.analyse(
        sql, "on_rows", made=rows_kept(rows), for_learner=for_learner
    )
    return None if analysis.example is None else example_view(analysis.example)


def _submission(scope: CourseScope, submission_id: int) -> Submission:
    with scope.records.session() as session:
        submission = find_submission(session, submission_id)
        course = course_in_scope(session)
        if submission is None or submission.exercise.course_id != course.id:
            raise NotFound(f"There is no submission {submission_id}.")
        return submission


def two_edits_of(scope: CourseScope, submission_id: int) -> tuple[NearMiss, ...]:
    """The two edits, one after the other, that would mend a wrong submission; none where none do.

    Raises :class:`NotFound`.
    """
    submission = _submission(scope, submission_id)
    exercise = submission.exercise
    return scope.runtime.graders.of(exercise).analyse(submission.sql, "two_edits").near_misses


def explanation_view(scope: CourseScope, submission_id: int) -> ExplanationView:
    """What explains a submission. Raises :class:`NotFound`."""
    submission = _submission(scope, submission_id)
    exercise = submission.exercise
    standing = submission.grading.standing if submission.grading else ""
    try:
        found = explained(scope, exercise, submission.sql, standing)
        grader = scope.runtime.graders.of(exercise)
        example = on_kept_rows(grader, submission.sql, found.rows, for_learner=False)
    except JentrowError as problem:
        return ExplanationView((), None, [], None, str(problem))
    rows: list[MadeTable] = []
    if found.rows:
        tables = open_dataset(scope, exercise.sample.name, "").dataset.tables
        columns = {one.name: [column.name for column in one.writable] for one in tables}
        rows = made_tables(rows_kept(found.rows), columns)
    return ExplanationView(found.near_misses, example, rows, found.luck, found.without)
