"""Marks as files: CSV, XLSX, and the result files of OneRoster 1.1 in a ZIP.

OneRoster: https://www.imsglobal.org/oneroster-v11-final-csv-tables (manifest, categories,
lineItems, results).
"""

from __future__ import annotations

import csv
import io
import zipfile
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Final, TypeAlias

from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell
from openpyxl.styles import Font

Field: TypeAlias = str | float | int | None
_FORMULA: Final = ("=", "+", "-", "@", "\t", "\r")
"""What a spreadsheet takes for the beginning of a formula."""


@dataclass(frozen=True, slots=True)
class MarkTable:
    """Marks as a plain table: a heading a column, a row a learner."""

    headings: Sequence[str]
    rows: Sequence[Sequence[Field]]


@dataclass(frozen=True, slots=True)
class LineItem:
    """Something that is marked: a sheet's exercise, with the most that it can come to."""

    id: str
    title: str
    category: str
    opens: datetime
    closes: datetime
    most: float


@dataclass(frozen=True, slots=True)
class ResultLine:
    """What a learner got for a line item; ``status`` is one of OneRoster's words."""

    item: str
    learner: str
    status: str
    score: float | None
    at: datetime
    comment: str


def as_csv(table: MarkTable) -> bytes:
    """The table as CSV in UTF-8, with a mark at its head by which spreadsheets know that."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow([_harmless(one) for one in table.headings])
    writer.writerows([_harmless(one) for one in row] for row in table.rows)
    return out.getvalue().encode("utf-8-sig", "replace")


def as_xlsx(table: MarkTable, title: str) -> bytes:
    """The table as a workbook of one sheet, its headings and names kept in view."""
    book = Workbook(write_only=True)
    page = book.create_sheet(_sheet_name(title))
    page.freeze_panes = "C2"
    for at, row in enumerate([table.headings, *table.rows]):
        cells = []
        for field in row:
            cell = WriteOnlyCell(page, _printable(field))
            if isinstance(field, str):
                cell.data_type = "s"  # a name that begins with = is a name
            if at == 0:
                cell.font = Font(bold=True)
            cells.append(cell)
        page.append(cells)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def as_one_roster(
    course: str, items: Sequence[LineItem], results: Iterable[ResultLine], now: datetime
) -> bytes:
    """The result files of OneRoster 1.1: manifest, categories, line items and results, zipped."""
    stamp = now.strftime("%Y-%m-%dT%H:%M:%S.000Z")
    categories = list(dict.fromkeys(item.category for item in items))
    files = {
        "manifest.csv": [["propertyName", "value"], *_manifest(course)],
        "categories.csv": [
            ["sourcedId", "status", "dateLastModified", "title"],
            *([f"{course}-{one}", "active", stamp, one] for one in categories),
        ],
        "lineItems.csv": [
            [
                "sourcedId", "status", "dateLastModified", "title", "description", "assignDate",
                "dueDate", "classSourcedId", "categorySourcedId", "gradingPeriodSourcedId",
                "resultValueMin", "resultValueMax",
            ],
            *(
                [
                    item.id, "active", stamp, item.title, "", f"{item.opens:%Y-%m-%d}",
                    f"{item.closes:%Y-%m-%d}", course, f"{course}-{item.category}", "", "0.0",
                    f"{item.most:g}",
                ]
                for item in items
            ),
        ],
        "results.csv": [
            [
                "sourcedId", "status", "dateLastModified", "lineItemSourcedId", "studentSourcedId",
                "scoreStatus", "score", "scoreDate", "comment",
            ],
            *(
                [
                    f"{one.item}-{one.learner}", "active", stamp, one.item, one.learner, one.status,
                    "" if one.score is None else f"{one.score:g}", f"{one.at:%Y-%m-%d}", one.comment,
                ]
                for one in results
            ),
        ],
    }  # fmt: skip
    return _zipped(files)


def _zipped(files: Mapping[str, Sequence[Sequence[str]]]) -> bytes:
    """CSV files in an archive."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, rows in files.items():
            text = io.StringIO()
            csv.writer(text, lineterminator="\r\n").writerows(rows)
            archive.writestr(name, text.getvalue().encode("utf-8", "replace"))
    return out.getvalue()


def _manifest(course: str) -> list[list[str]]:
    given = {"categories": "bulk", "lineItems": "bulk", "results": "bulk"}
    others = (
        "academicSessions", "classes", "classResources", "courses", "courseResources",
        "demographics", "enrollments", "orgs", "resources", "users",
    )  # fmt: skip
    return [
        ["manifest.version", "1.0"],
        ["oneroster.version", "1.1"],
        *([f"file.{name}", given.get(name, "absent")] for name in sorted([*given, *others])),
        ["source.systemName", "Jentrow"],
        ["source.systemCode", course],
    ]


def _harmless(field: Field) -> Field:
    """A text that no spreadsheet runs: one that begins like a formula gets an apostrophe."""
    if isinstance(field, str) and field.startswith(_FORMULA):
        return "'" + field
    return field


def _printable(field: Field) -> Field:
    """A text without the signs that a workbook cannot hold."""
    if not isinstance(field, str):
        return field
    return "".join(sign for sign in field if sign >= " " or sign in "\n\t")


def _sheet_name(title: str) -> str:
    return "".join(sign for sign in title if sign not in "[]:*?/\\")[:31].strip() or "Marks"
