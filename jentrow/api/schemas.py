"""What the routes answer with. Generated types of the front end come from these."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict

VerdictOrWaiting = Literal["correct", "incorrect", "error", "refused", "stopped", "waiting"]
Verdict = Literal["correct", "incorrect", "error", "refused", "stopped"]
Cell = None | bool | int | float | str | dict[str, Any]
RowKind = Literal["agrees", "absent", "extra", "differs", "moved", "times", "tie"]


class View(BaseModel):
    """The base of all answers: read from the use cases' dataclasses."""

    model_config = ConfigDict(from_attributes=True)


class About(View):
    """The program, its engines and the course."""

    version: str
    engines: dict[str, str]
    course: str


class VerdictCounts(View):
    """How many submissions got which verdict."""

    correct: int
    incorrect: int
    error: int
    refused: int
    stopped: int
    waiting: int
    total: int


class KindCount(View):
    """How many submissions have a kind of finding first."""

    code: str
    count: int


class ExerciseLine(View):
    """An exercise in a list, with the commonest kinds of first findings."""

    slug: str
    title: str
    prompt: str
    sample: str
    points: float
    counts: VerdictCounts
    kinds: list[KindCount]


class Column(View):
    """A column over a table of rows."""

    name: str
    kind: str


class Result(View):
    """Rows with their columns; ``row_count`` counts those that are not shown too."""

    columns: list[Column]
    rows: list[list[Cell]]
    row_count: int


class Table(View):
    """A table of the sample's open dataset."""

    name: str
    result: Result


class NamedSql(View):
    """A query with its name."""

    name: str
    sql: str


class Trial(View):
    """A trial with what it got."""

    name: str
    sql: str
    expected: Verdict
    actual: Verdict
    holds: bool


class SubmissionLine(View):
    """A submission in a list."""

    id: int
    learner: str
    submitted_at: datetime
    verdict: VerdictOrWaiting
    mark: float | None
    code: str
    summary: str


class Limits(View):
    """What one query may use before it is stopped."""

    seconds: float
    rows: int
    memory_mb: int


class Exercise(View):
    """Everything about one exercise."""

    slug: str
    title: str
    prompt: str
    sample: str
    engine: str
    engine_version: str
    points: float
    reference: str
    row_order: Literal["ignore", "required", "as_listed"]
    rules: dict[str, Any]
    limits: Limits
    datasets: list[str]
    alternatives: list[NamedSql]
    tables: list[Table]
    expected: Result
    counts: VerdictCounts
    submissions: list[SubmissionLine]


class Finding(View):
    """One finding."""

    code: str
    message: str
    count: int
    dataset: str
    evidence: dict[str, Any]


class DatasetVerdict(View):
    """The verdict on one dataset alone."""

    name: str
    is_open: bool
    verdict: Verdict
    expected_rows: int | None
    given_rows: int | None


class WovenColumn(View):
    """A column of the woven table."""

    due: str | None
    given: str | None
    kind: str


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


class Submission(View):
    """One submission with its query, findings and woven table."""

    id: int
    learner: str
    submitted_at: datetime
    sql: str
    exercise: str
    exercise_title: str
    points: float
    verdict: Verdict
    mark: float
    answer: str
    reference: str
    findings: list[Finding]
    datasets: list[DatasetVerdict]
    shown_dataset: str
    woven: Woven | None
    expected: Result | None
    previous: int | None
    next: int | None


class Problem(BaseModel):
    """What went wrong, in words for people."""

    message: str
