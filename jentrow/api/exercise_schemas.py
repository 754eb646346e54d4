"""What the routes about exercises, sheets and packs take and answer with."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field

from jentrow.api.sample_schemas import Given, Import, Tried
from jentrow.api.schemas import (
    Cell,
    CourseTime,
    DatasetVerdict,
    Example,
    Result,
    ShownVerdict,
    SubmissionLine,
    Verdict,
    VerdictCounts,
    VerdictOrWaiting,
    View,
    Woven,
)
from jentrow.core.exercises.distinguishing.blind_spots import BlindSpot, SeenOn
from jentrow.core.exercises.markscheme import LedgerLine
from jentrow.core.exercises.sheets import USUAL_ATTEMPTS, Counting
from jentrow.core.samples.edits import Insert
from jentrow.core.sql.step_details import MOST_PARTS, Told
from jentrow.core.sql.text import Place
from jentrow.services.exercises import blind_spots
from jentrow.services.exercises.engine_moves import MovedTrial
from jentrow.services.exercises.examples import MadeTable
from jentrow.services.exercises.overview import SheetPlace
from jentrow.services.exercises.verdicts import FindingView
from jentrow.services.exercises.version_history import FileDifference
from jentrow.services.samples.steps import Stage, StepAsked

Sql = Annotated[str, Field(max_length=1_000_000)]
RowOrder = Literal["ignore", "required", "as_listed"]


class TrialContent(Given):
    """A trial as it is written."""

    name: str
    sql: str
    expected: Verdict
    mark: float | None = None
    words: list[str] = Field(default_factory=list)


class MovedText(View):
    """A text of an exercise in both dialects."""

    part: Literal["reference", "alternative", "trial"]
    name: str
    before: str
    after: str
    notes: list[str]


class MovedDataset(View):
    """What the reference gives on the other engine, held against what it gives here."""

    dataset: str
    same: bool
    message: str
    woven: Woven | None


class MovedExercise(View):
    """An exercise as it would be on another engine."""

    slug: str
    title: str
    engine: str
    content: dict[str, Any]
    problem: str
    texts: list[MovedText]
    datasets: list[MovedDataset]
    trials: list[MovedTrial]
    why: list[str]
    holds: bool


class AlternativeContent(Given):
    """An accepted alternative as it is written."""

    name: str
    sql: str


class Content(Given):
    """Everything of an exercise that is written, as packs hold it; it may be wrong or unfinished."""

    title: str = ""
    sample: str = ""
    engine: str = "sqlite"
    points: float | None = 1
    tags: list[str] = Field(default_factory=list)
    rules: dict[str, Any] = Field(default_factory=dict)
    constructs: list[dict[str, Any]] = Field(default_factory=list)
    layout: dict[str, Any] = Field(default_factory=dict)
    marks: dict[str, Any] = Field(default_factory=dict)
    feedback: dict[str, Any] = Field(default_factory=dict)
    prompt: str = ""
    reference: str = ""
    alternatives: list[AlternativeContent] = Field(default_factory=list)
    trials: list[TrialContent] = Field(default_factory=list)

    def to_mapping(self) -> dict[str, Any]:
        """The content as the core reads it."""
        out = self.model_dump()
        out["trials"] = [
            {name: value for name, value in trial.items() if value is not None and value != []}
            for trial in out["trials"]
        ]
        return {name: value for name, value in out.items() if value not in ([], {})}


class Exercise(View):
    """An exercise as it is kept, its draft if there is one, and the answers to it."""

    slug: str
    version: int
    content: Content
    draft: Content | None
    drafted_at: datetime | None
    engine_version: str
    datasets: list[str]
    sheets: list[SheetPlace]
    counts: VerdictCounts
    outdated: int
    submissions: list[SubmissionLine]


class Drafted(View):
    """When a draft was kept."""

    drafted_at: datetime


class Kept(View):
    """The number of the version that was kept."""

    version: int


class NewExercise(Given):
    """What an exercise begins with."""

    title: str
    sample: str


class NewTitle(Given):
    """A title for a copy."""

    title: str


class Slug(View):
    """The name of an exercise in addresses and packs."""

    slug: str


class Count(View):
    """How many."""

    count: int


class AlternativeProof(View):
    """An accepted alternative held against the reference answer alone."""

    name: str
    verdict: ShownVerdict
    message: str


class LayoutChange(View):
    """A place that does not follow a layout rule."""

    rule: str
    place: Place
    message: str


class Layout(View):
    """A text as it could be, and the places that do not follow the rules."""

    text: str
    changes: list[LayoutChange]


class Glimpse(View):
    """What learners see of the expected result."""

    columns: list[str] | None
    row_count: int | None
    result: Result | None


class Proof(View):
    """Whether an exercise can be used, and what its reference answer comes to."""

    problems: list[str]
    reference: Tried | None
    row_order: RowOrder
    trouble: str
    alternatives: list[AlternativeProof]
    constructs: list[str]
    layout: Layout | None
    shown: Glimpse | None


class Trial(View):
    """A trial with what it got."""

    name: str
    expected: Verdict
    actual: ShownVerdict
    mark: float
    holds: bool
    said: str


class Warning(View):
    """One thing to know."""

    code: str
    message: str


class Trials(View):
    """The trials and the warnings; ``trouble`` says why there are none."""

    trials: list[Trial]
    warnings: list[Warning]
    trouble: str


class AnswerChange(View):
    """A submission that would come out otherwise than it was graded."""

    id: int
    learner: str
    before: VerdictOrWaiting
    after: ShownVerdict
    mark_before: float | None
    mark_after: float


class Changes(View):
    """The submissions that would come out otherwise, out of how many."""

    changes: list[AnswerChange]
    answers: int
    trouble: str


class ToJudge(Given):
    """A query to be held against a content."""

    content: Content
    sql: Sql
    dataset: str = ""
    alone: bool = False


class Judged(View):
    """One query held against an exercise."""

    verdict: ShownVerdict
    mark: float
    points: float
    answer: str
    ledger: list[LedgerLine]
    findings: list[FindingView]
    datasets: list[DatasetVerdict]
    shown_dataset: str
    woven: Woven | None
    place: Place | None
    near: str
    layout: Layout | None
    runs_as: str
    doubts: list[str]


class SeenEdits(View):
    """What an exercise's datasets see of the mistakes that learners could make."""

    edits: int
    alike: int
    told_apart: list[SeenOn]
    blind_spots: list[BlindSpot]
    complete: bool


class Sight(View):
    """The same, or why nothing can be told."""

    sight: SeenEdits | None
    trouble: str


class ToShow(Given):
    """A query of which rows are wanted that tell it from the reference."""

    content: Content
    sql: Sql


class Spot(View):
    """Rows that show a blind spot, as an example and as they can be taken in."""

    example: Example | None
    rows: list[MadeTable]
    trouble: str


class GivenTable(Given):
    """Rows of a table as texts; None for NULL."""

    table: str
    columns: Annotated[list[str], Field(max_length=500)]
    rows: Annotated[list[list[str | None]], Field(max_length=500)]


class ToTakeIn(Given):
    """Made-up rows to be put into datasets of a sample."""

    datasets: Annotated[list[list[GivenTable]], Field(max_length=20)]
    into: blind_spots.Into
    name: Annotated[str, Field(max_length=64)] = "made-up"


class TakenIn(View):
    """The datasets that the rows went into."""

    names: list[str]


class Step(View):
    """A step of a trace with its rows counted."""

    kind: Literal[
        "from", "join", "where", "group", "having", "select", "distinct", "order", "limit",
        "operand", "rounds",
    ]  # fmt: skip
    clause: str
    beside: Literal["", "truth", "group", "round"]
    sql: str
    rows: int | None
    parts: dict[str, int]
    problem: str
    told: list[Told]
    telling: str


class Trace(View):
    """A query's steps, and the traces of the queries inside it."""

    role: Literal["query", "cte", "derived", "subquery", "operand"]
    name: str
    sql: str
    steps: list[Step]
    nested: list[Trace]
    note: str


class StepQuery(Given):
    """A step's query; ``beside`` says that its last column stands beside the rows.

    ``only`` narrows the rows of a condition to those that it kept, or that were false, or unknown.
    ``telling`` is the step's query with ``told`` further columns.
    """

    sql: Sql
    beside: bool = False
    only: Literal["", "kept", "false", "unknown"] = ""
    telling: Sql = ""
    told: Annotated[int, Field(ge=0, le=MOST_PARTS)] = 0

    def asked(self) -> StepAsked:
        """The question, as the use cases take it."""
        return StepAsked(self.sql, self.beside, self.only, self.telling, self.told)


class AddedRow(Given):
    """A row that is added for as long as somebody looks; what is left out takes its default."""

    table: Annotated[str, Field(max_length=200)]
    values: Annotated[dict[str, str | None], Field(max_length=200)]


class Staged(Given):
    """What a query runs on: the engine, rows that the dataset has beside its own, how LIKE compares."""

    engine: Annotated[str, Field(max_length=40)] = "sqlite"
    added: Annotated[list[AddedRow], Field(max_length=50, default_factory=list)]
    minds_case: bool = False

    def stage(self, sample: str, dataset: str) -> Stage:
        """What the query runs on, as the use cases take it."""
        rows = tuple(Insert(one.table, one.values) for one in self.added)
        return Stage(sample, dataset, self.engine, rows, self.minds_case)


class TraceQuery(Staged):
    """A query that is to be taken apart."""

    sql: Sql


class StepQueryOn(Staged, StepQuery):
    """A step's query, and what it runs on."""


class StepRows(View):
    """The rows of a step."""

    result: Result | None
    beside: list[Cell]
    message: str
    told: list[list[Cell]]


class ConstructWords(View):
    """A construct that can be asked for or forbidden."""

    id: str
    words: str
    named: bool


# sheets


class SheetExercise(Given):
    """An exercise on a sheet."""

    exercise: str
    points: float | None = None


class Late(View):
    """What becomes of an answer that comes after closing time."""

    rule: Literal["refuse", "accept", "reduce"] = "refuse"
    percent_a_day: float = 10
    days: int | None = None


class SheetContent(Given):
    """A sheet as it is written."""

    title: str
    opens: str | None = None
    closes: str | None = None
    attempts: int | None = USUAL_ATTEMPTS
    late: Late = Late()
    counting: Counting = "best"
    best_of: int | None = None
    weight: float | None = None
    exercises: list[SheetExercise]


class SheetEntry(View):
    """An exercise on a sheet: what it is worth there, and by itself."""

    slug: str
    title: str
    sample: str
    tags: list[str]
    points: float | None
    own_points: float
    answers: int


class Sheet(View):
    """A sheet with its exercises."""

    slug: str
    title: str
    opens: CourseTime | None
    closes: CourseTime | None
    attempts: int | None
    late: Late
    counting: Counting
    best_of: int | None
    weight: float | None
    points: float
    entries: list[SheetEntry]


# packs

Choice = Literal["theirs", "ours", "both"]


class PackItem(View):
    """A thing of a pack against what is here."""

    id: str
    title: str
    state: Literal["new", "same", "changed", "conflict"]
    differing: list[str]
    differences: list[FileDifference]
    usual: Choice


class PackPreview(View):
    """What taking a pack in would do."""

    title: str
    licence: str
    samples: list[PackItem]
    exercises: list[PackItem]
    sheets: list[PackItem]


class PackImport(View):
    """An import of a pack: where it stands, and what it would do."""

    state: Import
    preview: PackPreview | None


class PackChoices(Given):
    """What is chosen for each thing of a pack; what is not named goes its usual way."""

    samples: dict[str, Choice] = Field(default_factory=dict)
    exercises: dict[str, Choice] = Field(default_factory=dict)
    sheets: dict[str, Choice] = Field(default_factory=dict)
