"""The routes about a dataset's rows: looking at them, changing them, their versions."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query

from jentrow.api import row_schemas
from jentrow.api.access import Number, SampleName, Teaching
from jentrow.api.routers import DATASET, teaching_router
from jentrow.api.schemas import Problem
from jentrow.core.samples.rows import edits as core_edits
from jentrow.core.samples.rows.pages import Page, SortKey
from jentrow.core.samples.rows.profile import Referring
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.samples.versiondifference import typed
from jentrow.core.shownrows import WHOLE, shown_cell
from jentrow.services.samples import catalogue, row_changes, row_views, tried_queries

router = teaching_router("/samples")

Sort = Annotated[
    list[str] | None, Query(description="Columns to sort by, a minus before one that falls.")
]
Where = Annotated[str, Query(max_length=10_000, description="An SQL condition on the columns.")]


def _sort_keys(sort: list[str] | None) -> list[SortKey]:
    return [SortKey(one.removeprefix("-"), one.startswith("-")) for one in sort or ()]


@router.get(DATASET + "/tables/{table}/rows")
def rows(
    sample: SampleName,
    dataset: str,
    table: str,
    scope: Teaching,
    sort: Sort = None,
    where: Where = "",
    offset: Annotated[int, Query(ge=0)] = 0,
    limit: Annotated[int, Query(ge=0, le=500)] = 100,
) -> row_schemas.Rows:
    """A page of a table's rows."""
    shape, page = row_views.table_page(
        scope, sample, dataset, table,
        sort=_sort_keys(sort), where=where, offset=offset, limit=limit,
    )  # fmt: skip
    return _rows(shape, page)


def _rows(shape: TableSchema, page: Page) -> row_schemas.Rows:
    return row_schemas.Rows(
        version=page.version,
        total=page.total,
        matching=page.matching,
        offset=page.offset,
        rows=[
            row_schemas.Row(
                number=row.number,
                cells=[
                    shown_cell(typed(value, shape, at), WHOLE)
                    for at, value in enumerate(row.values)
                ],
            )
            for row in page.rows
        ],
    )


@router.get(DATASET + "/tables/{table}/rows/{row}/place")
def place(
    sample: SampleName,
    dataset: str,
    table: str,
    row: Number,
    scope: Teaching,
    sort: Sort = None,
    where: Where = "",
) -> row_schemas.RowPlace:
    """How many rows come before a row."""
    keys = _sort_keys(sort)
    return row_schemas.RowPlace(
        place=row_views.place_of_row(scope, sample, dataset, table, row, keys, where)
    )


@router.get(DATASET + "/tables/{table}/rows/{row}/parent")
def parent(
    sample: SampleName, dataset: str, table: str, row: Number, column: str, scope: Teaching
) -> row_schemas.ParentRow:
    """The row that a foreign key value refers to."""
    found = row_views.parent_of(scope, sample, dataset, table, row, column)
    table_name, number = found or (None, None)
    return row_schemas.ParentRow(table=table_name, row=number)


@router.get(DATASET + "/tables/{table}/rows/{row}/children")
def children(
    sample: SampleName, dataset: str, table: str, row: Number, scope: Teaching
) -> list[Referring]:
    """The rows that refer to a row."""
    return row_views.children_of(scope, sample, dataset, table, row)


@router.get(DATASET + "/tables/{table}/profile")
def profile(
    sample: SampleName, dataset: str, table: str, scope: Teaching
) -> row_schemas.TableProfile:
    """What a table's columns hold."""
    found = row_views.profile(scope, sample, dataset, table)
    shape = catalogue.open_dataset(scope, sample, dataset).dataset.table(table)
    return row_schemas.TableProfile(
        name=found.name,
        rows=found.rows,
        columns=[
            row_schemas.ColumnProfile(
                name=one.name,
                different=one.different,
                nulls=one.nulls,
                empty=one.empty,
                blanks=one.blanks,
                case_variants=one.case_variants,
                smallest=shown_cell(typed(one.smallest, shape, at)),
                largest=shown_cell(typed(one.largest, shape, at)),
                commonest=[
                    row_schemas.CommonValue(value=shown_cell(typed(value, shape, at)), count=count)
                    for value, count in one.commonest
                ],
            )
            for at, one in enumerate(found.columns)
        ],
    )


@router.get(DATASET + "/showing")
def showing(sample: SampleName, dataset: str, scope: Teaching) -> list[row_schemas.Showing]:
    """What the rows can show, and what they cannot."""
    found = row_views.showing(scope, sample, dataset)
    return [row_schemas.Showing.model_validate(one) for one in found]


@router.get(DATASET + "/suggestion")
def suggestion(
    sample: SampleName, dataset: str, id: str, scope: Teaching
) -> row_schemas.Suggestion:
    """Rows that would show what is missing."""
    return row_schemas.Suggestion.model_validate(row_views.suggestion(scope, sample, dataset, id))


# changes


def _core_edit(
    given: row_schemas.Insert | row_schemas.Update | row_schemas.Delete,
) -> core_edits.Edit:
    match given:
        case row_schemas.Insert():
            return core_edits.Insert(given.table, given.values)
        case row_schemas.Update():
            return core_edits.Update(given.table, given.row, given.values)
        case row_schemas.Delete():
            return core_edits.Delete(given.table, tuple(given.rows))


@router.post(DATASET + "/edits", responses={422: {"model": row_schemas.Refused | Problem}})
def edit(
    sample: SampleName, dataset: str, given: row_schemas.Edits, scope: Teaching
) -> row_schemas.Edited:
    """Changes rows as one new version, or nothing."""
    changes = [_core_edit(one) for one in given.edits]
    edited = row_changes.edit(scope, sample, dataset, changes)
    number = edited.version.number if edited.version else None
    return row_schemas.Edited(version=number, added=list(edited.added))


@router.post(DATASET + "/undo")
def undo(sample: SampleName, dataset: str, scope: Teaching) -> row_schemas.Version:
    """Takes back the last change."""
    return row_schemas.Version.model_validate(row_changes.undo(scope, sample, dataset))


@router.post(DATASET + "/redo")
def redo(sample: SampleName, dataset: str, scope: Teaching) -> row_schemas.Version:
    """Makes the last change that was undone once more."""
    return row_schemas.Version.model_validate(row_changes.redo(scope, sample, dataset))


@router.get(DATASET + "/versions")
def versions(sample: SampleName, dataset: str, scope: Teaching) -> list[row_schemas.Version]:
    """All versions, the last first."""
    found = row_changes.versions(scope, sample, dataset)
    return [row_schemas.Version.model_validate(one) for one in found]


@router.get(DATASET + "/versions/{older}/to/{newer}")
def difference(
    sample: SampleName, dataset: str, older: Number, newer: Number, scope: Teaching
) -> list[row_schemas.TableDifference]:
    """What was added, changed and removed between two versions."""
    found = tried_queries.compare_versions(scope, sample, dataset, older, newer)
    return [row_schemas.TableDifference.model_validate(one) for one in found]


@router.post(DATASET + "/versions/{version}/restore")
def restore(
    sample: SampleName, dataset: str, version: Number, scope: Teaching
) -> row_schemas.Version:
    """Brings the rows of a version back, as a new version."""
    return row_schemas.Version.model_validate(row_changes.restore(scope, sample, dataset, version))
