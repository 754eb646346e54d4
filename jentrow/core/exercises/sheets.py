"""Exercise sheets: an ordered group of exercises with opening and closing times."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from fractions import Fraction
from pathlib import Path
from typing import Any, Final, Literal, TypeAlias, get_args

from jentrow.core.errors import InvalidSheet
from jentrow.core.mappings import is_count, listed, plain_number, read_points, unknown_name

LateRule: TypeAlias = Literal["refuse", "accept", "reduce"]
_NAMES: Final = (
    "title", "exercises", "opens", "closes", "attempts", "late", "counting", "best_of", "weight",
)  # fmt: skip
_LATE_NAMES: Final = ("rule", "percent_a_day", "days")
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
    percent_a_day: float = 10.0
    days: int | None = None

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


def read_sheet(path: Path, mapping: Mapping[str, Any], exercises: Mapping[str, float]) -> Sheet:
    """Reads a sheet of a pack, whose exercises are known with their points.

    Raises :class:`InvalidSheet` with every problem.
    """
    problems: list[str] = []
    sheet = sheet_from(path.stem, mapping, exercises, problems)
    if problems:
        raise InvalidSheet(f"{path}: " + "; ".join(problems) + ".")
    return sheet


def sheet_from(
    id: str, mapping: Mapping[str, Any], exercises: Mapping[str, float], problems: list[str]
) -> Sheet:
    """Reads a sheet; what is wrong is added to ``problems``."""
    problems.extend(unknown_name("name", name, _NAMES) for name in mapping if name not in _NAMES)
    title = str(mapping.get("title") or "").strip()
    if not title:
        problems.append("title is empty: give the sheet a name")
    opens = _time("opens", mapping.get("opens"), problems)
    closes = _time("closes", mapping.get("closes"), problems)
    if opens and closes and opens >= closes:
        problems.append(f"it closes at {closes}, before it opens at {opens}")
    attempts = mapping.get("attempts", USUAL_ATTEMPTS)
    if attempts is not None and not is_count(attempts, MOST_ATTEMPTS):
        problems.append(
            f"attempts is {attempts!r}, but must be a whole number from 1 to {MOST_ATTEMPTS}, or null for any number"
        )
        attempts = USUAL_ATTEMPTS
    entries = _entries(mapping.get("exercises"), exercises, problems)
    late = read_late(mapping.get("late"), problems)
    counting = mapping.get("counting", "best")
    if counting not in COUNTING_WORDS:
        problems.append(f"counting is {counting!r}, but must be {listed(list(COUNTING_WORDS))}")
        counting = "best"
    best_of = _best_of(mapping.get("best_of"), len(entries), problems)
    weight = _weight(mapping.get("weight"), problems)
    return Sheet(id, title, entries, opens, closes, attempts, late, counting, best_of, weight)


def _best_of(value: object, exercises: int, problems: list[str]) -> int | None:
    if value is None:
        return None
    if not isinstance(value, int) or not is_count(value, max(exercises, 1)):
        problems.append(
            f"best_of is {value!r}, but must be a whole number from 1 to {exercises}, the number of "
            "exercises on the sheet"
        )
        return None
    return value


def _weight(value: object, problems: list[str]) -> float | None:
    if value is None:
        return None
    number = isinstance(value, int | float) and not isinstance(value, bool)
    if not number or not 0 <= value <= MOST_WEIGHT:  # type: ignore[operator]
        problems.append(f"weight is {value!r}, but must be a number from 0 to {MOST_WEIGHT:,}")
        return None
    return float(value)  # type: ignore[arg-type]


def _time(name: str, value: object, problems: list[str]) -> datetime | None:
    if value is None or value == "":
        return None
    if isinstance(value, datetime):
        time = value
    elif isinstance(value, date):
        time = datetime(value.year, value.month, value.day)
    else:
        try:
            time = datetime.fromisoformat(str(value))
        except ValueError:
            problems.append(f"{name} is {value!r}, but must be a time such as 2026-11-23 18:00")
            return None
    if time.tzinfo is not None:
        problems.append(f"{name} is {value}, but times have no zone: they are the course's own")
        return None
    return time


def _entries(
    value: object, exercises: Mapping[str, float], problems: list[str]
) -> tuple[SheetEntry, ...]:
    if not isinstance(value, list):
        problems.append("exercises must be a list of ids")
        return ()
    entries: dict[str, SheetEntry] = {}
    for one in value:
        id: object = one
        points: float | None = None
        if isinstance(one, Mapping):
            id = one.get("exercise")
            if one.get("points") is not None:
                points = read_points(f"the points of {id}", one["points"], problems)
            problems.extend(
                unknown_name("name in exercises", name, ("exercise", "points"))
                for name in one
                if name not in ("exercise", "points")
            )
        if not isinstance(id, str) or id not in exercises:
            problems.append(unknown_name("exercise", id, list(exercises)))
        elif id in entries:
            problems.append(f"the exercise {id} stands twice on the sheet")
        else:
            entries[id] = SheetEntry(id, points)
    return tuple(entries.values())


def read_late(value: object, problems: list[str]) -> Late:
    """Reads ``{rule, percent_a_day, days}``; what is wrong is added to ``problems``."""
    if value is None:
        return Late()
    if not isinstance(value, Mapping):
        problems.append(f"late must be a mapping with {listed(_LATE_NAMES)}")
        return Late()
    problems.extend(
        unknown_name("name in late", name, _LATE_NAMES) for name in value if name not in _LATE_NAMES
    )
    rule = value.get("rule", "refuse")
    if rule not in get_args(LateRule):
        problems.append(f"late.rule is {rule!r}, but must be {listed(get_args(LateRule))}")
        rule = "refuse"
    percent = value.get("percent_a_day", 10)
    if isinstance(percent, bool) or not isinstance(percent, int | float) or not 0 < percent <= 100:
        problems.append(f"late.percent_a_day is {percent!r}, but must be above 0, at most 100")
        percent = 10
    days = value.get("days")
    if days is not None and not is_count(days, MOST_DAYS):
        problems.append(f"late.days is {days!r}, but must be a whole number from 1 to {MOST_DAYS}")
        days = None
    return Late(rule, float(percent), days)
