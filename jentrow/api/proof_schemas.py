"""What an exercise that is being written is proved by: trials, answers held against it, blind spots."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from jentrow.api.exercise_schemas import Content, RowOrder, Sql
from jentrow.api.query_schemas import Tried
from jentrow.api.schemas import (
    DatasetVerdict,
    Example,
    Given,
    Result,
    ShownVerdict,
    Verdict,
    VerdictOrWaiting,
    View,
    Woven,
)
from jentrow.core.exercises.distinguishing.blind_spots import BlindSpot, SeenOn
from jentrow.core.exercises.markscheme import LedgerLine
from jentrow.core.sql.text import Place
from jentrow.services.exercises import blind_spots
from jentrow.services.exercises.examples import MadeTable
from jentrow.services.exercises.verdicts import FindingView


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


class RowsToTakeIn(Given):
    """Rows of a table as texts; None for NULL."""

    table: str
    columns: Annotated[list[str], Field(max_length=500)]
    rows: Annotated[list[list[str | None]], Field(max_length=500)]


class ToTakeIn(Given):
    """Made-up rows to be put into datasets of a sample."""

    datasets: Annotated[list[list[RowsToTakeIn]], Field(max_length=20)]
    into: blind_spots.Into
    name: Annotated[str, Field(max_length=64)] = "made-up"


class TakenIn(View):
    """The datasets that the rows went into."""

    names: list[str]
