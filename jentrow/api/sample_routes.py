"""The routes about samples: looking at them, changing their rows, trying queries, keeping them."""

from __future__ import annotations

from collections.abc import Generator
from contextlib import AbstractContextManager
from pathlib import Path as FilePath
from typing import Annotated

from fastapi import Path, Query
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from jentrow.api import sample_schemas as schemas
from jentrow.api.access import Number, Teaching
from jentrow.api.routers import teaching_router
from jentrow.api.schemas import Problem
from jentrow.core.errors import UnusableInput
from jentrow.core.samples import edits as core_edits
from jentrow.core.samples.coltypes import ColumnType
from jentrow.core.samples.csvfiles import CSVFormat
from jentrow.core.samples.profile import Referring
from jentrow.core.samples.rows import Page, SortKey
from jentrow.core.samples.schema import ColumnSchema, ForeignKey, TableSchema
from jentrow.core.samples.versiondifference import typed
from jentrow.core.shownrows import WHOLE, shown_cell
from jentrow.services.runtime.sample_storage import scratch_folder
from jentrow.services.samples import (
    catalogue,
    engine_runs,
    library,
    new_samples,
    row_changes,
    row_views,
    table_changes,
    table_notes,
    tried_queries,
)
from jentrow.services.samples.catalogue import SampleLine
from jentrow.services.samples.planned_tables import FilledFrom, PlannedTable
from jentrow.services.samples.table_changes import ExerciseUse
from jentrow.services.samples.tried_queries import HistoryLine

router = teaching_router("/samples")

Sort = Annotated[
    list[str] | None, Query(description="Columns to sort by, a minus before one that falls.")
]
Where = Annotated[str, Query(max_length=10_000, description="An SQL condition on the columns.")]
SampleName = Annotated[str, Path(max_length=128)]


@router.get("")
def list_of_samples(scope: Teaching) -> list[SampleLine]:
    """All samples with their datasets."""
    return catalogue.sample_lines(scope)


@router.post("", status_code=201)
def make_by_hand(given: schemas.NewSample, scope: Teaching) -> schemas.NewName:
    """Makes a sample of empty tables."""
    tables = [table_of(table) for table in given.tables]
    return schemas.NewName(name=new_samples.make_by_hand(scope, given.name, tables))


def table_of(given: schemas.GivenTable) -> TableSchema:
    """A table as the core knows it."""
    return TableSchema(
        given.name.strip(),
        tuple(
            ColumnSchema(one.name.strip(), one.type.strip(), one.not_null, one.default)
            for one in given.columns
        ),
        primary_key=tuple(given.primary_key),
        uniques=tuple(tuple(names) for names in given.uniques),
        foreign_keys=tuple(
            ForeignKey(tuple(one.columns), one.table, tuple(one.to), one.on_delete, one.on_update)
            for one in given.foreign_keys
        ),
        checks=tuple(given.checks),
    )


def planned_table(given: schemas.PlannedTable) -> PlannedTable:
    """A table as an instructor planned it. Raises :class:`UnusableInput`."""
    if given.filled is None:
        return PlannedTable(table_of(given.table))
    count = len(given.table.columns)
    if len(given.filled.sources) != count or len(given.filled.types) != count:
        raise UnusableInput(
            f"{given.table.name}: {count} columns need {count} sources and {count} types."
        )
    filled = FilledFrom(
        given.filled.file,
        CSVFormat(**given.filled.format.model_dump()),
        tuple(given.filled.sources),
        tuple(ColumnType(one.name, one.form) if one else None for one in given.filled.types),
    )
    return PlannedTable(table_of(given.table), filled)


@router.post("/{sample}/uses", tags=["asks"])
def uses_of_changed_tables(
    sample: SampleName, given: schemas.ChangedTables, scope: Teaching
) -> list[ExerciseUse]:
    """The exercises that use what a change of tables would rename, retype or drop."""
    return table_changes.exercise_uses(scope, sample, list(map(planned_table, given.tables)))


@router.get("/{sample}")
def sample(sample: SampleName, scope: Teaching) -> schemas.Sample:
    """One sample with its tables."""
    return schemas.Sample.model_validate(catalogue.sample_view(scope, sample))


@router.put("/{sample}/notes", status_code=204)
def note_on_table(sample: SampleName, given: schemas.TableNote, scope: Teaching) -> None:
    """Notes something on a table or a column, for everybody who looks at it."""
    table_notes.note_on(scope, sample, given.table, given.column, given.note)


@router.patch("/{sample}")
def rename(sample: SampleName, given: schemas.NewName, scope: Teaching) -> schemas.NewName:
    """Gives a sample another name."""
    return schemas.NewName(name=library.rename_sample(scope, sample, given.name))


@router.delete("/{sample}", status_code=204)
def delete(sample: SampleName, scope: Teaching) -> None:
    """Deletes a sample that no exercise needs."""
    library.delete_sample(scope, sample)


@router.post("/{sample}/copies", status_code=201)
def copy(sample: SampleName, given: schemas.NewName, scope: Teaching) -> schemas.NewName:
    """Copies a sample with its datasets."""
    return schemas.NewName(name=library.copy_sample(scope, sample, given.name))


@router.get("/{sample}/export", response_class=FileResponse)
def export(
    sample: SampleName, format: new_samples.ExportFormat, scope: Teaching, dataset: str = "open"
) -> FileResponse:
    """A sample as a pack or a folder of CSV files (a ZIP), or a dataset as a script or SQLite file."""
    sent = held(scratch_folder(scope.runtime.folder))
    folder = next(sent)
    try:
        path, name = new_samples.export(scope, sample, dataset, format, folder)
    except BaseException:
        sent.close()
        raise
    return FileResponse(path, filename=name, background=BackgroundTask(sent.close))


def held(context: AbstractContextManager[FilePath]) -> Generator[FilePath, None, None]:
    """Keeps a context open until the generator is closed: a file is sent after the route is done."""
    with context as folder:
        yield folder


# datasets

_DATASET = "/{sample}/datasets/{dataset}"


@router.post("/{sample}/datasets", status_code=201)
def new_dataset(sample: SampleName, given: schemas.NewDataset, scope: Teaching) -> schemas.NewName:
    """Adds a held-back dataset."""
    name = library.new_dataset(scope, sample, given.name, given.copy_of, empty=given.empty)
    return schemas.NewName(name=name)


@router.get(_DATASET)
def dataset(sample: SampleName, dataset: str, scope: Teaching) -> schemas.Dataset:
    """The state of a dataset: its version, how many rows, what undo would take back."""
    return schemas.Dataset.model_validate(catalogue.dataset_view(scope, sample, dataset))


@router.delete(_DATASET, status_code=204)
def delete_dataset(sample: SampleName, dataset: str, scope: Teaching) -> None:
    """Deletes a held-back dataset."""
    library.delete_dataset(scope, sample, dataset)


def _sort_keys(sort: list[str] | None) -> list[SortKey]:
    return [SortKey(one.removeprefix("-"), one.startswith("-")) for one in sort or ()]


@router.get(_DATASET + "/tables/{table}/rows")
def rows(
    sample: SampleName,
    dataset: str,
    table: str,
    scope: Teaching,
    sort: Sort = None,
    where: Where = "",
    offset: Annotated[int, Query(ge=0)] = 0,
    limit: Annotated[int, Query(ge=0, le=500)] = 100,
) -> schemas.Rows:
    """A page of a table's rows."""
    shape, page = row_views.table_page(
        scope, sample, dataset, table,
        sort=_sort_keys(sort), where=where, offset=offset, limit=limit,
    )  # fmt: skip
    return _rows(shape, page)


def _rows(shape: TableSchema, page: Page) -> schemas.Rows:
    return schemas.Rows(
        version=page.version,
        total=page.total,
        matching=page.matching,
        offset=page.offset,
        rows=[
            schemas.Row(
                number=row.number,
                cells=[
                    shown_cell(typed(value, shape, at), WHOLE)
                    for at, value in enumerate(row.values)
                ],
            )
            for row in page.rows
        ],
    )


@router.get(_DATASET + "/tables/{table}/rows/{row}/place")
def place(
    sample: SampleName,
    dataset: str,
    table: str,
    row: Number,
    scope: Teaching,
    sort: Sort = None,
    where: Where = "",
) -> schemas.RowPlace:
    """How many rows come before a row."""
    keys = _sort_keys(sort)
    return schemas.RowPlace(
        place=row_views.place_of_row(scope, sample, dataset, table, row, keys, where)
    )


@router.get(_DATASET + "/tables/{table}/rows/{row}/parent")
def parent(
    sample: SampleName, dataset: str, table: str, row: Number, column: str, scope: Teaching
) -> schemas.ParentRow:
    """The row that a foreign key value refers to."""
    found = row_views.parent_of(scope, sample, dataset, table, row, column)
    table_name, number = found or (None, None)
    return schemas.ParentRow(table=table_name, row=number)


@router.get(_DATASET + "/tables/{table}/rows/{row}/children")
def children(
    sample: SampleName, dataset: str, table: str, row: Number, scope: Teaching
) -> list[Referring]:
    """The rows that refer to a row."""
    return row_views.children_of(scope, sample, dataset, table, row)


@router.get(_DATASET + "/tables/{table}/profile")
def profile(sample: SampleName, dataset: str, table: str, scope: Teaching) -> schemas.TableProfile:
    """What a table's columns hold."""
    found = row_views.profile(scope, sample, dataset, table)
    shape = catalogue.open_dataset(scope, sample, dataset).dataset.table(table)
    return schemas.TableProfile(
        name=found.name,
        rows=found.rows,
        columns=[
            schemas.ColumnProfile(
                name=one.name,
                different=one.different,
                nulls=one.nulls,
                empty=one.empty,
                blanks=one.blanks,
                case_variants=one.case_variants,
                smallest=shown_cell(typed(one.smallest, shape, at)),
                largest=shown_cell(typed(one.largest, shape, at)),
                commonest=[
                    schemas.CommonValue(value=shown_cell(typed(value, shape, at)), count=count)
                    for value, count in one.commonest
                ],
            )
            for at, one in enumerate(found.columns)
        ],
    )


@router.get(_DATASET + "/showing")
def showing(sample: SampleName, dataset: str, scope: Teaching) -> list[schemas.Showing]:
    """What the rows can show, and what they cannot."""
    found = row_views.showing(scope, sample, dataset)
    return [schemas.Showing.model_validate(one) for one in found]


@router.get(_DATASET + "/suggestion")
def suggestion(sample: SampleName, dataset: str, id: str, scope: Teaching) -> schemas.Suggestion:
    """Rows that would show what is missing."""
    return schemas.Suggestion.model_validate(row_views.suggestion(scope, sample, dataset, id))


# changes


def _core_edit(given: schemas.Insert | schemas.Update | schemas.Delete) -> core_edits.Edit:
    match given:
        case schemas.Insert():
            return core_edits.Insert(given.table, given.values)
        case schemas.Update():
            return core_edits.Update(given.table, given.row, given.values)
        case schemas.Delete():
            return core_edits.Delete(given.table, tuple(given.rows))


@router.post(_DATASET + "/edits", responses={422: {"model": schemas.Refused | Problem}})
def edit(sample: SampleName, dataset: str, given: schemas.Edits, scope: Teaching) -> schemas.Edited:
    """Changes rows as one new version, or nothing."""
    changes = [_core_edit(one) for one in given.edits]
    edited = row_changes.edit(scope, sample, dataset, changes)
    number = edited.version.number if edited.version else None
    return schemas.Edited(version=number, added=list(edited.added))


@router.post(_DATASET + "/undo")
def undo(sample: SampleName, dataset: str, scope: Teaching) -> schemas.Version:
    """Takes back the last change."""
    return schemas.Version.model_validate(row_changes.undo(scope, sample, dataset))


@router.post(_DATASET + "/redo")
def redo(sample: SampleName, dataset: str, scope: Teaching) -> schemas.Version:
    """Makes the last change that was undone once more."""
    return schemas.Version.model_validate(row_changes.redo(scope, sample, dataset))


@router.get(_DATASET + "/versions")
def versions(sample: SampleName, dataset: str, scope: Teaching) -> list[schemas.Version]:
    """All versions, the last first."""
    found = row_changes.versions(scope, sample, dataset)
    return [schemas.Version.model_validate(one) for one in found]


@router.get(_DATASET + "/versions/{older}/to/{newer}")
def difference(
    sample: SampleName, dataset: str, older: Number, newer: Number, scope: Teaching
) -> list[schemas.TableDifference]:
    """What was added, changed and removed between two versions."""
    found = tried_queries.compare_versions(scope, sample, dataset, older, newer)
    return [schemas.TableDifference.model_validate(one) for one in found]


@router.post(_DATASET + "/versions/{version}/restore")
def restore(sample: SampleName, dataset: str, version: Number, scope: Teaching) -> schemas.Version:
    """Brings the rows of a version back, as a new version."""
    return schemas.Version.model_validate(row_changes.restore(scope, sample, dataset, version))


# queries


@router.get("/{sample}/queries")
def history(sample: SampleName, scope: Teaching) -> list[HistoryLine]:
    """The queries tried on a sample, the last first."""
    return tried_queries.history(scope, sample)


@router.put("/{sample}/queries/{run_id}")
def name_run(
    sample: SampleName, run_id: Number, given: schemas.RunName, scope: Teaching
) -> HistoryLine:
    """Gives a query of the history a name, by which it is kept."""
    return tried_queries.name_run(scope, sample, run_id, given.name)


@router.post(_DATASET + "/queries")
def try_query(
    sample: SampleName, dataset: str, given: schemas.QueryOn, scope: Teaching
) -> schemas.Tried:
    """Runs a query; its rows, or what is wrong with it."""
    return schemas.Tried.model_validate(
        tried_queries.try_query(scope, sample, dataset, given.sql, given.engine)
    )


@router.post(_DATASET + "/queries/engines")
def run_on_engines(
    sample: SampleName, dataset: str, given: schemas.Query, scope: Teaching
) -> list[schemas.EngineRun]:
    """One query on every engine, each held against the first."""
    found = engine_runs.run_on_engines(scope, sample, dataset, given.sql)
    return [schemas.EngineRun.model_validate(one) for one in found]


@router.post(_DATASET + "/queries/comparison")
def compare_queries(
    sample: SampleName, dataset: str, given: schemas.TwoQueries, scope: Teaching
) -> schemas.Compared:
    """Two queries' results as one woven table."""
    found = tried_queries.compare_queries(scope, sample, dataset, given.first, given.second)
    return schemas.Compared.model_validate(found)
