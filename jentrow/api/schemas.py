"""What the routes answer with. Generated types of the front end come from these."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, WithJsonSchema

from jentrow.core.comparison.woven import WovenColumn
from jentrow.core.engines.protocol import StandInFacts
from jentrow.core.exercises.markscheme import LedgerLine
from jentrow.core.shownrows import ColumnView
from jentrow.services.exercises.lateness import LateView
from jentrow.services.exercises.overview import KindCount
from jentrow.services.exercises.verdicts import FindingView

Verdict = Literal["correct", "incorrect", "error", "refused", "stopped"]
ShownVerdict = Literal[Verdict, "undecided"]
"""``undecided`` stands in place of a verdict that waits for the instructor."""
VerdictOrWaiting = Literal[ShownVerdict, "waiting"]
Cell = None | bool | int | float | str | dict[str, Any]
RowKind = Literal["agrees", "absent", "extra", "differs", "moved", "times", "tie"]


CourseTime = Annotated[
    datetime,
    WithJsonSchema({"type": "string", "pattern": r"^\d{4}-\d\d-\d\dT\d\d:\d\d(:\d\d(\.\d+)?)?$"}),
]
"""A time in the course's own zone: it has none itself, and is no ``date-time`` therefore."""


class Given(BaseModel):
    """The base of all that is sent to the routes; a name that is not known is an error."""

    model_config = {"extra": "forbid"}


class View(BaseModel):
    """The base of all answers: read from the use cases' dataclasses."""

    model_config = ConfigDict(from_attributes=True)


class EngineLine(View):
    """An engine: what it is called, the functions that it has, and in words what it lacks.

    ``reason`` says why no query can run on it now; empty where one can. ``stand_in`` says what runs
    in its place, where it cannot run here at all, and ``facts`` what is the same there.
    """

    name: str
    label: str
    version: str
    functions: list[str]
    lacks: list[str]
    no_copies: str
    stand_in: str
    facts: StandInFacts
    reason: str


class About(View):
    """The program, its engines and the course."""

    version: str
    engines: list[EngineLine]
    course: str


class VerdictCounts(View):
    """How many submissions got which verdict."""

    correct: int
    incorrect: int
    error: int
    refused: int
    stopped: int
    undecided: int
    waiting: int
    total: int


class ExerciseLine(View):
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


class Result(View):
    """Rows with their columns; ``row_count`` counts those that are not shown too."""

    columns: list[ColumnView]
    rows: list[list[Cell]]
    row_count: int


class SubmissionLine(View):
    """A submission in a list."""

    id: int
    learner: str
    submitted_at: datetime
    verdict: VerdictOrWaiting
    mark: float | None
    code: str
    summary: str


class DatasetVerdict(View):
    """The verdict on one dataset alone."""

    name: str
    is_open: bool
    verdict: ShownVerdict
    expected_rows: int | None
    given_rows: int | None


class WovenLine(View):
    """A row of the woven table."""

    kind: RowKind
    due: list[Cell] | None
    given: list[Cell] | None
    wrong: list[int]
    due_at: int | None
    given_at: int | None
    times_due: int | None
    times_given: int | None
    tie: int | None


class Woven(View):
    """The woven table, or its first part."""

    columns: list[WovenColumn]
    lines: list[WovenLine]
    counts: dict[str, int]
    due_rows: int
    given_rows: int
    order_counts: bool
    left_out: int
    partial: bool


class ExampleTable(View):
    """A table of an example with its rows."""

    name: str
    result: Result


class Example(View):
    """Few made-up rows, and what a query gives on them woven with what is due."""

    tables: list[ExampleTable]
    row_count: int
    woven: Woven
    agrees: bool


class Submission(View):
    """One submission with what it was graded to, and a woven table by the exercise as it is now.

    ``outdated`` says that it was graded with something else than would grade it now.
    """

    id: int
    learner: str
    submitted_at: datetime
    sql: str
    exercise: str
    exercise_title: str
    sample: str
    engine: str
    runs_as: str
    doubts: list[str]
    minds_case: bool
    points: float
    verdict: VerdictOrWaiting
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
    woven: Woven | None
    expected: Result | None
    previous: int | None
    next: int | None
    late: LateView | None


class Grading(View):
    """Where the grading of a course stands: ``done`` of ``total`` since nothing was left to do.

    ``blocked`` submissions wait for their exercise to be mended, or to be looked at. ``paused`` says
    that the course's grading is stopped, ``stopped`` that an administrator has stopped everybody's.
    """

    waiting: int
    blocked: int
    done: int
    total: int
    graded: int
    news: int
    paused: bool
    stopped: bool
    exercise: str


class TakeAnswers(BaseModel):
    """Whether what does not fit is left out."""

    leave_out: bool = False


class Taken(View):
    """How many answers were taken in."""

    count: int


class Problem(BaseModel):
    """What went wrong, in words for people."""

    message: str
