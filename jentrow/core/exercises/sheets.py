"""Exercise sheets: an ordered group of exercises with opening and closing times."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from fractions import Fraction
from typing import Annotated, Any, Final, Literal, TypeAlias

from annotated_types import Ge, Gt, Le

from jentrow.core.mappings import plain_number

LateRule: TypeAlias = Literal["refuse", "accept", "reduce"]
USUAL_ATTEMPTS: Final = 10
"""What a sheet allows that says nothing of it."""
Counting: TypeAlias = Literal["best", "last", "all"]
COUNTING_WORDS: Final[dict[Counting, str]] = {
    "best": "the best attempt counts",
    "last": "the last attempt counts",
    "all": "all attempts count, on average",
}
MOST_WEIGHT: Final = 1_000
MOST_ATTEMPTS: Final = 1_000
MOST_DAYS: Final = 366


@dataclass(frozen=True, slots=True)
class Late:
    """What becomes of an answer that comes after closing time.

    ``refuse`` takes none; ``accept`` takes it with its whole mark; ``reduce`` takes off
    ``percent_a_day`` for each day begun. After ``days`` (None: no end) nothing is taken any more.
    """

    rule: LateRule = "refuse"
    percent_a_day: Annotated[float, Gt(0), Le(100)] = 10.0
    days: Annotated[int, Ge(1), Le(MOST_DAYS)] | None = None

    def share(self, late_by: timedelta) -> Fraction | None:
        """The share of its mark that an answer keeps; None where it is not taken.

        ``late_by`` is the time after closing, zero or less for one in time.
        """
        if late_by <= timedelta(0):
            return Fraction(1)
        begun = math.ceil(late_by / timedelta(days=1))
        if self.rule == "refuse" or (self.days is not None and begun > self.days):
            return None
        if self.rule == "accept":
            return Fraction(1)
        return max(Fraction(0), 1 - Fraction(str(self.percent_a_day)) * begun / 100)

    def to_mapping(self) -> dict[str, Any]:
        """The rule as it stands in a pack."""
        out: dict[str, Any] = {"rule": self.rule}
        if self.rule == "reduce":
            out["percent_a_day"] = self.percent_a_day
        if self.rule != "refuse" and self.days is not None:
            out["days"] = self.days
        return out


@dataclass(frozen=True, slots=True)
class SheetEntry:
    """An exercise on a sheet; ``points`` are what it is worth there (None: as the exercise says)."""

    exercise: str
    points: float | None = None


@dataclass(frozen=True, slots=True)
class Sheet:
    """An exercise sheet.

    Times are local to the course and have no zone; None is open from the start, or never closes.
    ``attempts`` bounds the submissions to each exercise; None does not: then verdicts tell, bit by
    bit, what held-back datasets hold. ``counting`` says which of them count, ``best_of`` how many
    of the exercises (None: all), ``weight`` what the sheet weighs in a course's total (None: as
    much as it has points).
    """

    id: str
    title: str
    entries: tuple[SheetEntry, ...]
    opens: datetime | None = None
    closes: datetime | None = None
    attempts: int | None = USUAL_ATTEMPTS
    late: Late = field(default_factory=Late)
    counting: Counting = "best"
    best_of: int | None = None
    weight: float | None = None

    def to_mapping(self) -> dict[str, Any]:
        """The sheet as it stands in a pack."""
        out: dict[str, Any] = {"title": self.title}
        for name, time in (("opens", self.opens), ("closes", self.closes)):
            if time is not None:
                out[name] = time.isoformat(sep=" ", timespec="minutes")
        if self.attempts != USUAL_ATTEMPTS:
            out["attempts"] = self.attempts
        if self.late != Late():
            out["late"] = self.late.to_mapping()
        if self.counting != "best":
            out["counting"] = self.counting
        if self.best_of is not None:
            out["best_of"] = self.best_of
        if self.weight is not None:
            out["weight"] = plain_number(self.weight)
        out["exercises"] = [
            entry.exercise
            if entry.points is None
            else {"exercise": entry.exercise, "points": entry.points}
            for entry in self.entries
        ]
        return out
