"""The page of marks: learners by exercises and sheets, with sums, totals, and what they rest on."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from fractions import Fraction
from statistics import median
from typing import Final

from sqlalchemy.orm import Session

from jentrow.core.exercises.deadlines import Standing
from jentrow.core.marks.totals import ExerciseMark, SheetSum, mean_mark, rounded, sheet_sum, total
from jentrow.records.exercises import list_exercises, list_sheets
from jentrow.records.marks import standing_adjustments
from jentrow.records.models import Adjustment, Course, Learner, Sheet, SheetEntry
from jentrow.records.people import learners_of
from jentrow.services.exercises.lateness import window_of, worth
from jentrow.services.marking.course_answers import course_answers
from jentrow.services.marking.standing import Answer, Standings
from jentrow.services.scope import CourseScope, course_in_scope

SIGNS: Final = {
    " ": "nothing handed in yet",
    "-": "not handed in",
    "d": "decided",
    "u": "undecided",
    "o": "out of date",
    "l": "late",
    "w": "not graded yet",
    "e": "excused",
}
"""What a cell of the page of marks says beside its mark. An answer that is several of these has the
first of: not graded, out of date, undecided, late."""

_MAY_CHANGE: Final = "uow"
_FIRST_SAID: Final = ("w", "o", "u", "l", "d")


@dataclass(frozen=True)
class MarkColumn:
    """An exercise on a sheet: what it is worth there, and how the class did.

    ``right`` is the share of its learners who were right, None where nobody handed in.
    """

    slug: str
    title: str
    points: float
    undecided: int
    outdated: int
    waiting: int
    right: float | None


@dataclass(frozen=True)
class MarkSheet:
    """A sheet with its exercises; ``points`` is what it can come to, ``median`` what it came to."""

    slug: str
    title: str
    points: float
    weight: float | None
    best_of: int | None
    counting: str
    standing: Standing
    closes: datetime | None
    published_at: datetime | None
    published_by: str
    counts_now: bool
    median: float | None
    exercises: list[MarkColumn]


@dataclass(frozen=True)
class MarkRow:
    """A learner's marks, a value a column in the order of the sheets' exercises.

    ``signs`` has one of :data:`SIGNS` for each. ``sums`` are a value a sheet; ``approximate`` says
    of each, and at its end of the total, whether it may still change.
    """

    id: int
    code: str
    name: str
    marks: list[float | None]
    signs: str
    late_days: list[int]
    answers: list[int]
    sums: list[float]
    approximate: list[bool]
    total: float
    total_points: float
    extra: list[float]


@dataclass(frozen=True)
class Gradebook:
    """The marks of a course; totals are of the sheets that count by now."""

    step: float
    total_points: float
    total_median: float | None
    sheets: list[MarkSheet]
    rows: list[MarkRow]


@dataclass(slots=True)
class _Cell:
    mark: float | None = None
    sign: str = " "
    late_days: int = 0
    answer: int = 0
    right: bool = False


_NOBODY: Final[dict[int, _Cell]] = {}
_NOT_HANDED_IN: Final = _Cell(sign="-")
_NOTHING_YET: Final = _Cell()


@dataclass(frozen=True, slots=True)
class _Place:
    """An exercise on a sheet: what it is worth there, and each learner's cell, where there is one."""

    exercise_id: int
    points: float
    cells: Mapping[int, _Cell]


@dataclass(frozen=True, slots=True)
class _Sheet:
    """A sheet as the rows need it: each of them reads it."""

    record: Sheet
    id: int
    best_of: int | None
    weight: float | None
    standing: Standing
    counts_now: bool
    places: Sequence[_Place]


@dataclass
class _Book:
    """All that the page is made of, gathered once."""

    sheets: Sequence[_Sheet]
    learners: Sequence[Learner]
    adjusted: Mapping[tuple[int, int], list[Adjustment]]
    """By learner and sheet."""


def gradebook(scope: CourseScope) -> Gradebook:
    """The marks of all learners of a course."""
    with scope.records.session() as session:
        course = course_in_scope(session)
        book = _gathered(scope, session, course)
    rows = [_row(book, learner, course.mark_step) for learner in book.learners]
    sheets = _sheets(book, course, rows)
    return Gradebook(
        step=course.mark_step,
        total_points=rounded(_class_total(book), course.mark_step),
        total_median=median(row.total for row in rows) if rows else None,
        sheets=sheets,
        rows=rows,
    )


def _gathered(scope: CourseScope, session: Session, course: Course) -> _Book:
    now = scope.runtime.now()
    sheets = list_sheets(session, course.id)
    learners = learners_of(session, course.id)
    exercises = list(list_exercises(session, course.id))
    answers = course_answers(scope, session, course, exercises)
    adjusted: dict[tuple[int, int], list[Adjustment]] = {}
    for one in standing_adjustments(session, course.id):
        adjusted.setdefault((one.learner_id, one.sheet_id), []).append(one)
    cells: dict[tuple[int, int], dict[int, _Cell]] = {}
    for exercise in exercises:
        cells |= answers.derived(exercise.id, _cells)
    return _Book([_sheet(one, course, now, cells) for one in sheets], learners, adjusted)


def _sheet(
    sheet: Sheet,
    course: Course,
    now: datetime,
    cells: Mapping[tuple[int, int], Mapping[int, _Cell]],
) -> _Sheet:
    standing = window_of(sheet, course, None).standing(now)
    counts_now = (
        sheet.published_at is not None or sheet.closes is None or standing in ("late", "closed")
    )
    places = [
        _Place(one.exercise_id, worth(one), cells.get((sheet.id, one.exercise_id), _NOBODY))
        for one in sheet.entries
    ]
    return _Sheet(sheet, sheet.id, sheet.best_of, sheet.weight, standing, counts_now, places)


def _cells(_: Standings, answers: Iterable[Answer]) -> dict[tuple[int, int], dict[int, _Cell]]:
    """What each learner's counting attempts come to, by sheet and exercise, by learner."""
    counting: dict[tuple[int, int], dict[int, list[Answer]]] = {}
    for one in answers:
        row = one.row
        if one.counts and row.sheet_id is not None:
            place = counting.setdefault((row.sheet_id, row.exercise_id), {})
            place.setdefault(row.learner_id, []).append(one)
    return {
        place: {learner: _cell(found) for learner, found in by_learner.items()}
        for place, by_learner in counting.items()
    }


def _cell(found: Sequence[Answer]) -> _Cell:
    if len(found) == 1:
        one = found[0]
        right = one.verdict == "correct"
        return _Cell(one.worth, _sign(one), one.late_days, one.row.id, right)
    mark = mean_mark([one.worth for one in found])
    signs = {_sign(one) for one in found}
    last = found[-1]
    return _Cell(
        mark,
        next(sign for sign in _FIRST_SAID if sign in signs),
        max(one.late_days for one in found),
        last.row.id,
        any(one.verdict == "correct" for one in found),
    )


def _sign(one: Answer) -> str:
    if one.state == "waiting":
        return "w"
    if one.outdated:
        return "o"
    if one.state == "undecided":
        return "u"
    return "l" if one.late_days else "d"


def _row(book: _Book, learner: Learner, step: float) -> MarkRow:
    row = MarkRow(
        learner.id, learner.code, learner.name, [], "", [], [], [], [], 0.0, 0.0, []
    )  # fmt: skip
    signs: list[str] = []
    sums: list[tuple[SheetSum, float | None]] = []
    for sheet in book.sheets:
        found = _of_sheet(book, sheet, learner.id)
        signs += [cell.sign for cell in found.cells]
        row.marks.extend(cell.mark for cell in found.cells)
        row.late_days.extend(cell.late_days for cell in found.cells)
        row.answers.extend(cell.answer for cell in found.cells)
        row.sums.append(rounded(found.sum.mark, 0.01))
        row.approximate.append(any(cell.sign in _MAY_CHANGE for cell in found.cells))
        row.extra.append(found.extra)
        if sheet.counts_now:
            sums.append((found.sum, sheet.weight))
    whole = total(sums)
    approximate = [
        one for one, sheet in zip(row.approximate, book.sheets, strict=True) if sheet.counts_now
    ]
    row.approximate.append(any(approximate))
    return MarkRow(
        row.id, row.code, row.name, row.marks, "".join(signs), row.late_days, row.answers, row.sums,
        row.approximate, rounded(whole.mark, step), rounded(whole.points, 0.01), row.extra,
    )  # fmt: skip


@dataclass(frozen=True)
class _OfSheet:
    cells: list[_Cell]
    sum: SheetSum
    extra: float


def _of_sheet(book: _Book, sheet: _Sheet, learner_id: int) -> _OfSheet:
    """A learner's cells on a sheet, and what they come to."""
    adjusted = book.adjusted.get((learner_id, sheet.id), [])
    excused = {one.exercise_id for one in adjusted if one.kind == "excused"}
    extra = sum(one.points for one in adjusted if one.kind == "extra")
    cells: list[_Cell] = []
    marks: list[ExerciseMark] = []
    for place in sheet.places:
        cell = place.cells.get(learner_id)
        if place.exercise_id in excused:
            cell = _Cell(cell.mark if cell else None, "e", 0, cell.answer if cell else 0)
        elif cell is None:
            cell = _NOT_HANDED_IN if sheet.counts_now else _NOTHING_YET
        cells.append(cell)
        marks.append(ExerciseMark(cell.mark, place.points, cell.sign == "e"))
    return _OfSheet(cells, sheet_sum(marks, sheet.best_of, extra), extra)


def _points_of(sheet: _Sheet) -> Fraction:
    """What a sheet can come to: with the best of some, of those that are worth most."""
    full = [ExerciseMark(place.points, place.points) for place in sheet.places]
    return sheet_sum(full, sheet.best_of).points


def _class_total(book: _Book) -> Fraction:
    """What the total can come to by now."""
    full = [
        (SheetSum(Fraction(0), _points_of(sheet)), sheet.weight)
        for sheet in book.sheets
        if sheet.counts_now
    ]
    return total(full).points


def _sheets(book: _Book, course: Course, rows: Sequence[MarkRow]) -> list[MarkSheet]:
    found: list[MarkSheet] = []
    for at, own in enumerate(book.sheets):
        sheet = own.record
        columns = list(map(_column, sheet.entries, own.places))
        handed_in = any(one.right is not None for one in columns)
        found.append(
            MarkSheet(
                sheet.slug,
                sheet.title,
                rounded(_points_of(own), 0.01),
                sheet.weight,
                sheet.best_of,
                sheet.counting,
                own.standing,
                window_of(sheet, course, None).closes,
                sheet.published_at,
                sheet.published_by,
                own.counts_now,
                median(row.sums[at] for row in rows) if handed_in else None,
                columns,
            )
        )
    return found


def _column(entry: SheetEntry, place: _Place) -> MarkColumn:
    exercise = entry.exercise
    cells = place.cells.values()
    signs = [cell.sign for cell in cells]
    return MarkColumn(
        exercise.slug,
        exercise.title,
        place.points,
        signs.count("u"),
        signs.count("o"),
        signs.count("w"),
        sum(cell.right for cell in cells) / len(cells) if cells else None,
    )
