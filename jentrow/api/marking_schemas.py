"""What is asked of the marking desk and of the page of marks."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from jentrow.api.access import Number
from jentrow.api.schemas import Example, Given, Verdict, View, Woven
from jentrow.core.exercises.distinguishing.near_misses import NearMiss
from jentrow.services.exercises.examples import MadeTable
from jentrow.services.marking.explanations import Luck
from jentrow.services.marking.parting import StepPair

MOST_TEXT = 2_000_000
"""A text of any length that fits a request is read, so that it is the desk that says it is too long."""

Text = Annotated[str, Field(max_length=MOST_TEXT)]
Points = Annotated[float, Field(allow_inf_nan=False)]


class Explanation(View):
    """What explains an answer, and the rows that show it as they can be taken in."""

    near_misses: list[NearMiss]
    example: Example | None
    rows: list[MadeTable]
    luck: Luck | None
    without: str


class GivenLine(Given):
    """A line of a ledger as somebody wants it."""

    part: str
    message: Text
    points: Points
    possible: Points | None = None


class GivenGroup(Given):
    """An outcome group, or the part of it with one wording or the same kinds of findings."""

    outcome: str
    wording: str = ""
    codes: str = ""


class ToDecide(Given):
    """A decision; ``seen`` is the last one that whoever decides has seen."""

    answers: list[Number]
    groups: list[GivenGroup] = Field(default_factory=list, max_length=200)
    mark: Points | None = None
    ledger: list[GivenLine] = Field(default_factory=list)
    comment: Text = ""
    reason: Text = ""
    seen: Number = 0


class Parting(View):
    """The steps of reference and answer side by side, with the rows of the first that differs."""

    steps: list[StepPair]
    first: int | None
    woven: Woven | None
    note: str


class ToTakeNewMarks(Given):
    """Which decision was the last one that whoever takes the new marks has seen."""

    seen: Number = 0


class ToPutOnSheet(Given):
    """The sheet that answers which are on none belong to."""

    sheet: str = Field(max_length=200)


class ToUndo(Given):
    """Which decision is to be undone."""

    decision: Number


class ToAccept(Given):
    """An answer that is to be an accepted alternative, and what that is to be called."""

    submission: Number
    name: str = Field("", max_length=200)


class ToTry(ToAccept):
    """An answer that is to be a trial, with the verdict that it ought to get."""

    expected: Verdict


class Asked(Given):
    """A question about an answer."""

    submission: Number
    text: Text


class Asking(BaseModel):
    """The number of a question."""

    id: int


class ToAnswer(Given):
    """An answer to a question."""

    text: Text


class ToKeep(Given):
    """A comment that is to be kept, or is kept."""

    text: Text


class ToPublish(Given):
    """Whether to publish although answers are undecided or out of date."""

    anyway: bool = False


class ToAdjust(Given):
    """An extra mark, or an exercise (``excused``, its slug) that a learner need not do."""

    learner: Number
    sheet: str
    points: Points = 0.0
    excused: str = ""
    reason: Text


class Ids(Given):
    """Some submissions."""

    ids: list[Number] = Field(max_length=1_000)


class Rounding(Given):
    """What totals are rounded to."""

    step: Points


ExportKind = Literal["csv", "xlsx", "oneroster"]
