"""Exercise sheets: seen, made, changed, deleted."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any, TypeAlias

from sqlalchemy.orm import Session

from jentrow.core.errors import InvalidSheet
from jentrow.core.exercises.files.sheetfile import sheet_from
from jentrow.core.exercises.sheets import Counting, Late
from jentrow.core.exercises.sheets import Sheet as CoreSheet
from jentrow.core.slugs import plain_name
from jentrow.records.additions import add_sheet
from jentrow.records.contents import put_sheet
from jentrow.records.exercises import find_sheet, list_exercises, list_sheets, verdict_counts
from jentrow.records.models import Course, Sheet
from jentrow.records.practice import count_handed_in
from jentrow.records.sheetless import only_on_sheet, put_on_sheet
from jentrow.services.errors import NotFound, NotTaken
from jentrow.services.scope import CourseScope, course_in_scope

VerdictsByExercise: TypeAlias = Mapping[int, Mapping[str, int]]


@dataclass(frozen=True)
class EntryView:
    """An exercise on a sheet: what it is worth there, and by itself."""

    slug: str
    title: str
    sample: str
    tags: list[str]
    points: float | None
    own_points: float
    answers: int


@dataclass(frozen=True)
class SheetView:
    """A sheet with its exercises; ``points`` is what all of them are worth together."""

    slug: str
    title: str
    opens: datetime | None
    closes: datetime | None
    attempts: int | None
    late: Late
    counting: Counting
    best_of: int | None
    weight: float | None
    points: float
    entries: list[EntryView]


def sheets(scope: CourseScope) -> list[SheetView]:
    """All sheets, in their order."""
    with scope.records.session() as session:
        course = course_in_scope(session)
        counts = verdict_counts(session, course.id)
        return [_view(counts, sheet) for sheet in list_sheets(session, course.id)]


def _view(counts: VerdictsByExercise, sheet: Sheet) -> SheetView:
    entries = [
        EntryView(
            one.exercise.slug,
            one.exercise.title,
            one.exercise.sample.name,
            one.exercise.tags,
            one.points,
            one.exercise.points,
            sum(counts.get(one.exercise_id, {}).values()),
        )
        for one in sheet.entries
    ]
    points = sum(one.own_points if one.points is None else one.points for one in entries)
    return SheetView(
        sheet.slug, sheet.title, sheet.opens, sheet.closes, sheet.attempts, Late(**sheet.late),
        sheet.counting, sheet.best_of, sheet.weight,  # type: ignore[arg-type]
        round(points, 2), entries,
    )  # fmt: skip


def _read(session: Session, course: Course, slug: str, mapping: Mapping[str, Any]) -> CoreSheet:
    problems: list[str] = []
    known = {one.slug: one.points for one in list_exercises(session, course.id)}
    sheet = sheet_from(slug, mapping, known, problems)
    if problems:
        raise InvalidSheet("; ".join(problems) + ".")
    return sheet


def new_sheet(scope: CourseScope, mapping: Mapping[str, Any]) -> SheetView:
    """Makes a sheet behind the others. Raises :class:`InvalidSheet` with every problem.

    Answers to its exercises that were on no sheet are on it from now on, unless another one has
    the exercise too: nobody can tell which of them they belong to.
    """
    with scope.records.writing() as session:
        course = course_in_scope(session)
        taken = {sheet.slug for sheet in list_sheets(session, course.id)}
        slug = plain_name(str(mapping.get("title") or ""), taken, "sheet")
        exercises = {one.slug: one for one in list_exercises(session, course.id)}
        record = add_sheet(session, course.id, _read(session, course, slug, mapping), exercises)
        record.origin = ""
        put_on_sheet(session, only_on_sheet(session, record.id), record.id)
        return _view(verdict_counts(session, course.id), record)


def change_sheet(scope: CourseScope, slug: str, mapping: Mapping[str, Any]) -> SheetView:
    """Changes a sheet. Raises :class:`InvalidSheet` with every problem.

    Answers to exercises that are new on it are put on it as :func:`new_sheet` does.
    """
    with scope.records.writing() as session:
        course = course_in_scope(session)
        record = sheet_named(session, slug)
        exercises = {one.slug: one for one in list_exercises(session, course.id)}
        before = {entry.exercise_id for entry in record.entries}
        put_sheet(session, record, _read(session, course, slug, mapping), exercises)
        session.flush()
        put_on_sheet(session, only_on_sheet(session, record.id) - before, record.id)
        return _view(verdict_counts(session, course.id), record)


def delete_sheet(scope: CourseScope, slug: str) -> None:
    """Deletes a sheet; its exercises stay.

    Raises :class:`NotTaken` where learners have handed in to it: they would not find it again.
    """
    with scope.records.writing() as session:
        sheet = sheet_named(session, slug)
        answers = count_handed_in(session, sheet.id)
        if answers:
            raise NotTaken(
                f"{answers} answers were handed in to {sheet.title}: it stays with them."
            )
        session.delete(sheet)


def sheet_named(session: Session, slug: str) -> Sheet:
    """The record of a sheet. Raises :class:`NotFound`."""
    sheet = find_sheet(session, course_in_scope(session).id, slug)
    if sheet is None:
        raise NotFound(f"There is no sheet {slug!r}.")
    return sheet
