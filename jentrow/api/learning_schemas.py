"""What a learner's own pages ask and are answered."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from jentrow.api.proof_schemas import Glimpse
from jentrow.api.sample_schemas import TableSchema
from jentrow.api.schemas import Cell, Example, Result, VerdictOrWaiting, View, Woven
from jentrow.core.exercises.markscheme import LedgerLine
from jentrow.core.exercises.showing import NearMissHint
from jentrow.core.sql.text import Place
from jentrow.services.learners.feedback import FindingLine
from jentrow.services.learners.pages import DraftView, SheetTimes

AttemptVerdict = Literal[VerdictOrWaiting, "held"]


class Attempt(View):
    """One attempt, numbered from 1."""

    id: int
    number: int
    submitted_at: datetime
    sql: str
    verdict: AttemptVerdict
    mark: float | None
    late: bool
    late_share: float
    decided: bool


class OwnExerciseLine(View):
    """An exercise on a learner's sheet."""

    slug: str
    title: str
    points: float
    attempts: int
    attempts_left: int | None
    waiting: bool
    best: Attempt | None
    mark: float | None
    has_draft: bool


class OwnSheet(View):
    """A sheet as a learner sees it."""

    slug: str
    title: str
    times: SheetTimes
    earned: float
    points: float
    exercises: list[OwnExerciseLine]
    published: bool


class OwnCourse(View):
    """A course as a learner sees it; ``now`` is the server's time."""

    title: str
    zone: str
    now: datetime
    archived: bool
    learner: str
    code: str
    sheets: list[OwnSheet]


class OwnTable(View):
    """A table with the number of its rows; None for a view."""

    table: TableSchema
    rows: int | None


class OwnExercise(View):
    """An exercise as a learner sees it."""

    slug: str
    title: str
    prompt: str
    points: float
    engine: str
    engine_name: str
    copy_engine: str
    copy_note: str
    functions: list[str]
    steps: bool
    sheet: str
    sheet_title: str
    times: SheetTimes
    now: datetime
    attempts_left: int | None
    attempts: list[Attempt]
    draft: DraftView | None
    shown: Glimpse | None
    sample: str
    tables: list[OwnTable]
    previous: str | None
    next: str | None


class OwnRows(BaseModel):
    """Rows of a table, from ``offset`` on."""

    total: int
    offset: int
    rows: list[list[Cell]]


class Text(BaseModel):
    """SQL as it was typed."""

    sql: str = Field(max_length=200_000)


class TwoTexts(BaseModel):
    """Two texts, the earlier one first."""

    first: str = Field(max_length=200_000)
    second: str = Field(max_length=200_000)


class OwnComparison(View):
    """What two texts give, held against each other."""

    same: bool
    woven: Woven | None
    message: str


class ToHandIn(Text):
    """An answer; sent again under its key it is the same one."""

    key: str = Field(max_length=64)


class Saved(BaseModel):
    """When a draft was saved."""

    saved_at: datetime


class FeedbackView(View):
    """An attempt with what its learner may see; ``opens`` says from when, where that is not yet."""

    attempt: Attempt
    opens: datetime | None
    findings: list[FindingLine]
    ledger: list[LedgerLine]
    woven: Woven | None
    hint: str
    example: bool
    near_miss: NearMissHint
    near_miss_in: int
    words: bool
    comment: str
    published: bool


class Hint(View):
    """A hint of what would mend an attempt, as strong as it was asked for."""

    found: bool
    mistake: str
    start: int | None
    end: int | None
    line: int | None
    old: str | None
    new: str | None
    withheld: bool


class OwnExample(View):
    """What a text gives on the made-up rows of an attempt; None where there are none."""

    example: Example | None


class Done(View):
    """A statement that ran on a private copy."""

    sql: str
    result: Result | None
    changed: int
    remark: str


class CopyRun(View):
    """What came of a script on a private copy."""

    done: list[Done]
    verdict: Literal["ran", "error", "refused", "stopped"]
    message: str
    place: Place | None
    near: str


class PrivateCopy(View):
    """The tables of a private copy; ``bytes`` of ``room`` are used."""

    tables: list[OwnTable]
    bytes: int
    room: int
