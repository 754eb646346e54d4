"""The marks of a course as files."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Final, Literal, TypeAlias

from jentrow.core.marks.result_files import (
    Field,
    LineItem,
    MarkTable,
    ResultLine,
    as_csv,
    as_one_roster,
    as_xlsx,
)
from jentrow.records.exercises import list_sheets
from jentrow.records.models import Course, Sheet
from jentrow.services.marking.gradebook import Gradebook, MarkRow, gradebook
from jentrow.services.scope import CourseScope, course_in_scope

ExportFormat: TypeAlias = Literal["csv", "xlsx", "oneroster"]

_STATUS: Final = {
    " ": "not submitted",
    "-": "not submitted",
    "d": "fully graded",
    "l": "fully graded",
    "u": "partially graded",
    "o": "partially graded",
    "w": "submitted",
    "e": "exempt",
}
"""OneRoster's words for the signs of the page of marks."""


@dataclass(frozen=True)
class ExportedFile:
    """A file to be saved."""

    name: str
    media_type: str
    content: bytes


def export_marks(scope: CourseScope, kind: ExportFormat) -> ExportedFile:
    """The marks as the page of marks shows them."""
    book = gradebook(scope)
    with scope.records.session() as session:
        course = course_in_scope(session)
        sheets = list(list_sheets(session, course.id))
    return _WRITERS[kind](scope, course, sheets, book)


def _csv(scope: CourseScope, course: Course, sheets: list[Sheet], book: Gradebook) -> ExportedFile:
    return ExportedFile(f"{course.slug}-marks.csv", "text/csv", as_csv(_table(book)))


def _xlsx(scope: CourseScope, course: Course, sheets: list[Sheet], book: Gradebook) -> ExportedFile:
    kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    content = as_xlsx(_table(book), course.title)
    return ExportedFile(f"{course.slug}-marks.xlsx", kind, content)


def _one_roster(
    scope: CourseScope, course: Course, sheets: list[Sheet], book: Gradebook
) -> ExportedFile:
    now = scope.runtime.now()
    items = [
        LineItem(
            f"{sheet.slug}-{one.slug}",
            one.title,
            sheet.title,
            record.opens or now,
            record.closes or now,
            one.points,
        )
        for sheet, record in zip(book.sheets, sheets, strict=True)
        for one in sheet.exercises
    ]
    results = [line for row in book.rows for line in _results(items, row, now)]
    content = as_one_roster(course.slug, items, results, now)
    return ExportedFile(f"{course.slug}-oneroster.zip", "application/zip", content)


def _results(items: list[LineItem], row: MarkRow, now: datetime) -> Iterator[ResultLine]:
    for item, mark, sign in zip(items, row.marks, row.signs, strict=True):
        if sign != " ":
            score = 0.0 if sign == "-" else None if sign == "e" else mark
            yield ResultLine(item.id, row.code, _STATUS[sign], score, now, "")


def _table(book: Gradebook) -> MarkTable:
    """A column an exercise, a sheet's sum after its exercises, and the total at the end."""
    headings = ["learner id", "name"]
    for sheet in book.sheets:
        headings += [
            f"{sheet.title}: {one.title} (of {one.points:g})" for one in sheet.exercises
        ]  # fmt: skip
        headings.append(f"{sheet.title}: sum (of {sheet.points:g})")
    headings += ["total so far", "of"]
    return MarkTable(headings, [_fields(book, row) for row in book.rows])


def _fields(book: Gradebook, row: MarkRow) -> list[Field]:
    fields: list[Field] = [row.code, row.name]
    at = 0
    for place, sheet in enumerate(book.sheets):
        until = at + len(sheet.exercises)
        fields += [
            "excused" if sign == "e" else mark
            for mark, sign in zip(row.marks[at:until], row.signs[at:until], strict=True)
        ]
        fields.append(row.sums[place])
        at = until
    return [*fields, row.total, row.total_points]


_WRITERS: Final[
    dict[ExportFormat, Callable[[CourseScope, Course, list[Sheet], Gradebook], ExportedFile]]
] = {"csv": _csv, "xlsx": _xlsx, "oneroster": _one_roster}
