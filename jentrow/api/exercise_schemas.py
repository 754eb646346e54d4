"""What the routes about an exercise take and answer with."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field

from jentrow.api.schemas import (
    Given,
    SubmissionLine,
    Verdict,
    VerdictCounts,
    View,
    Woven,
)
from jentrow.services.exercises.engine_moves import MovedTrial
from jentrow.services.exercises.overview import SheetPlace

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


class ConstructWords(View):
    """A construct that can be asked for or forbidden."""

    id: str
    words: str
    named: bool
