"""The routes about samples and their datasets: looking at them, making, changing and exporting them."""

from __future__ import annotations

from collections.abc import Generator
from contextlib import AbstractContextManager
from pathlib import Path as FilePath

from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from jentrow.api import making_schemas
from jentrow.api import sample_schemas as schemas
from jentrow.api.access import SampleName, Teaching
from jentrow.api.routers import DATASET, teaching_router
from jentrow.core.errors import UnusableInput
from jentrow.core.samples.csvfiles import CSVFormat
from jentrow.core.samples.schema.coltypes import ColumnType
from jentrow.core.samples.schema.tables import ColumnSchema, ForeignKey, TableSchema
from jentrow.services.runtime.sample_storage import scratch_folder
from jentrow.services.samples import catalogue, library, new_samples, table_changes, table_notes
from jentrow.services.samples.catalogue import SampleLine
from jentrow.services.samples.planned_tables import FilledFrom, PlannedTable
from jentrow.services.samples.table_changes import ExerciseUse

router = teaching_router("/samples")


@router.get("")
def list_of_samples(scope: Teaching) -> list[SampleLine]:
    """All samples with their datasets."""
    return catalogue.sample_lines(scope)


@router.post("", status_code=201)
def make_by_hand(given: making_schemas.NewSample, scope: Teaching) -> schemas.NewName:
    """Makes a sample of empty tables."""
    tables = [table_of(table) for table in given.tables]
    return schemas.NewName(name=new_samples.make_by_hand(scope, given.name, tables))


def table_of(given: making_schemas.GivenTable) -> TableSchema:
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


def planned_table(given: making_schemas.PlannedTable) -> PlannedTable:
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
    sample: SampleName, given: making_schemas.ChangedTables, scope: Teaching
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


@router.post("/{sample}/datasets", status_code=201)
def new_dataset(sample: SampleName, given: schemas.NewDataset, scope: Teaching) -> schemas.NewName:
    """Adds a held-back dataset."""
    name = library.new_dataset(scope, sample, given.name, given.copy_of, empty=given.empty)
    return schemas.NewName(name=name)


@router.get(DATASET)
def dataset(sample: SampleName, dataset: str, scope: Teaching) -> schemas.Dataset:
    """The state of a dataset: its version, how many rows, what undo would take back."""
    return schemas.Dataset.model_validate(catalogue.dataset_view(scope, sample, dataset))


@router.delete(DATASET, status_code=204)
def delete_dataset(sample: SampleName, dataset: str, scope: Teaching) -> None:
    """Deletes a held-back dataset."""
    library.delete_dataset(scope, sample, dataset)
