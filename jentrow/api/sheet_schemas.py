"""What the routes about sheets take and answer with."""

from __future__ import annotations

from typing import Literal

from jentrow.api.schemas import CourseTime, Given, View
from jentrow.core.exercises.sheets import USUAL_ATTEMPTS, Counting


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
