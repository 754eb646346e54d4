"""Samples as an instructor keeps them: listed, looked at, changed, copied, taken away."""

from __future__ import annotations

import re
import shutil
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any, Final

from sqlalchemy.orm import Session

from jentrow.core.errors import UnusableInput
from jentrow.core.samples.dataset import Dataset, Version, empty_tables
from jentrow.core.samples.edits import Edit, Edited
from jentrow.core.samples.profile import (
    Referring,
    TableProfile,
)
from jentrow.core.samples.recipes import Made
from jentrow.core.samples.rows import Page, SortKey
from jentrow.core.samples.schema import TableSchema
from jentrow.core.samples.showing import Showing, Wanted
from jentrow.core.samples.suggesting import Suggestion
from jentrow.core.sql.boundaries import boundaries_in
from jentrow.records import models
from jentrow.records.exercises import the_course
from jentrow.records.samples import (
    exercise_counts,
    exercises_over,
    find_sample,
    list_samples,
)
from jentrow.records.tasks import renew_sample
from jentrow.services.desk import Desk
from jentrow.services.errors import NotFound
from jentrow.services.keeping import (
    MadeDataset,
    add_dataset,
    keep_sample,
    scratch_folder,
    undone_on_error,
)
from jentrow.services.shelf import Shelved
from jentrow.services.views import the_open_course


@dataclass(frozen=True)
class DatasetLine:
    """A dataset in a list. The first is the open one; the others are held back."""

    name: str
    is_open: bool
    version: int
    changed_at: datetime
    rows: int


@dataclass(frozen=True)
class SampleLine:
    """A sample in a list."""

    name: str
    tables: int
    exercises: int
    datasets: list[DatasetLine]


@dataclass(frozen=True)
class SampleView:
    """A sample's tables and datasets, and what is to be known of how it was made."""

    name: str
    tables: tuple[TableSchema, ...]
    datasets: list[DatasetLine]
    exercises: list[str]
    notes: list[dict[str, Any]]


@dataclass(frozen=True)
class TableCount:
    """How many rows a table has."""

    name: str
    rows: int


@dataclass(frozen=True)
class DatasetView:
    """The state of a dataset; ``undo`` and ``redo`` say what they would do, empty where nothing."""

    name: str
    version: int
    changed_at: datetime
    tables: list[TableCount]
    undo: str
    redo: str


def sample_lines(desk: Desk) -> list[SampleLine]:
    """All samples of the course."""
    with desk.records.session() as session:
        course = the_course(session)
        if course is None:
            return []
        uses = exercise_counts(session, course.id)
        return [
            SampleLine(
                sample.name,
                sum(table.kind == "table" for table in _opened(desk, sample).dataset.tables),
                uses.get(sample.id, 0),
                _dataset_lines(desk, sample),
            )
            for sample in list_samples(session, course.id)
        ]


def sample_view(desk: Desk, name: str) -> SampleView:
    """One sample. Raises :class:`NotFound`."""
    with desk.records.session() as session:
        sample = _sample(session, name)
        return SampleView(
            sample.name,
            _opened(desk, sample).dataset.tables,
            _dataset_lines(desk, sample),
            [exercise.title for exercise in exercises_over(session, sample.id)],
            sample.notes,
        )


def _dataset_lines(desk: Desk, sample: models.Sample) -> list[DatasetLine]:
    lines = []
    for at, record in enumerate(sample.datasets):
        shelved = desk.shelf.open(record)
        last = shelved.dataset.versions()[-1]
        rows = sum(one.rows for one in table_counts(shelved))
        lines.append(DatasetLine(record.name, at == 0, last.number, last.made_at, rows))
    return lines


def table_counts(shelved: Shelved) -> list[TableCount]:
    """How many rows each table of a dataset has."""
    counts: list[TableCount] = shelved.looked_at("counts")
    return counts


def _sample(session: Session, name: str) -> models.Sample:
    course = the_course(session)
    sample = find_sample(session, course.id, name) if course else None
    if sample is None:
        raise NotFound(f"There is no sample {name!r}.")
    return sample


def _opened(desk: Desk, sample: models.Sample) -> Shelved:
    return desk.shelf.open(sample.datasets[0])


def _record(sample: models.Sample, name: str) -> models.Dataset:
    for record in sample.datasets:
        if record.name == name:
            return record
    known = ", ".join(record.name for record in sample.datasets)
    raise NotFound(f"The sample {sample.name} has no dataset {name!r}; it has {known}.")


def shelved_dataset(desk: Desk, sample: str, dataset: str) -> Shelved:
    """A dataset by its names. Raises :class:`NotFound`."""
    return desk.shelf.open(record_of(desk, sample, dataset))


def record_of(desk: Desk, sample: str, dataset: str) -> models.Dataset:
    """The record of a dataset, of the open one where none is named. Raises :class:`NotFound`."""
    with desk.records.session() as session:
        found = _sample(session, sample)
        return _record(found, dataset) if dataset else found.datasets[0]


def open_datasets(desk: Desk, sample: str) -> dict[str, Dataset]:
    """A sample's datasets by name, the open one first. Raises :class:`NotFound`."""
    with desk.records.session() as session:
        found = _sample(session, sample)
        return {record.name: desk.shelf.open(record).dataset for record in found.datasets}


def dataset_view(desk: Desk, sample: str, dataset: str) -> DatasetView:
    """The state of one dataset."""
    shelved = shelved_dataset(desk, sample, dataset)
    undo, redo = shelved.dataset.can()
    last = shelved.dataset.versions()[-1]
    return DatasetView(shelved.name, last.number, last.made_at, table_counts(shelved), undo, redo)


# looking


def table_page(
    desk: Desk,
    sample: str,
    dataset: str,
    table: str,
    *,
    sort: Sequence[SortKey],
    where: str,
    offset: int,
    limit: int,
) -> tuple[TableSchema, Page]:
    """Rows of a table, with what the table is."""
    shelved = shelved_dataset(desk, sample, dataset)
    shape = shelved.dataset.table(table)
    return shape, shelved.look(
        "page", table, sort=tuple(sort), where=where, offset=offset, limit=limit
    )


def place_of_row(
    desk: Desk, sample: str, dataset: str, table: str, row: int, sort: Sequence[SortKey], where: str
) -> int | None:
    """How many rows come before a row."""
    found: int | None = shelved_dataset(desk, sample, dataset).look(
        "place", table, row, sort=tuple(sort), where=where
    )
    return found


def profile(desk: Desk, sample: str, dataset: str, table: str) -> TableProfile:
    """What the columns of a table hold."""
    shelved = shelved_dataset(desk, sample, dataset)
    found: TableProfile = shelved.looked_at("profile", shelved.dataset.table(table).name)
    return found


def parent_of(
    desk: Desk, sample: str, dataset: str, table: str, row: int, column: str
) -> tuple[str, int] | None:
    """The row that a foreign key value refers to."""
    found: tuple[str, int] | None = shelved_dataset(desk, sample, dataset).look(
        "parent", table, column, row
    )
    return found


def children_of(desk: Desk, sample: str, dataset: str, table: str, row: int) -> list[Referring]:
    """The rows that refer to a row."""
    found: list[Referring] = shelved_dataset(desk, sample, dataset).look("children", table, row)
    return found


def showing(desk: Desk, sample: str, dataset: str) -> list[Showing]:
    """What the rows can show and what they cannot, the exercises' own boundaries among it."""
    with desk.records.session() as session:
        record = _sample(session, sample)
        shelved = desk.shelf.open(_record(record, dataset))
        columns = [
            (table.name, [column.name for column in table.columns])
            for table in shelved.dataset.tables
        ]
        wanted = [
            Wanted(boundary, exercise.title)
            for exercise in exercises_over(session, record.id)
            for boundary in boundaries_in(exercise.reference, columns, exercise.engine)
        ]
    found: list[Showing] = shelved.looked_at("showing", tuple(wanted))
    return found


def suggestion(desk: Desk, sample: str, dataset: str, id: str) -> Suggestion:
    """Rows that would show what is missing. Raises :class:`NotFound`."""
    for one in showing(desk, sample, dataset):
        if one.id == id:
            found: Suggestion = shelved_dataset(desk, sample, dataset).look("suggest", one)
            return found
    raise NotFound(f"There is nothing called {id!r} that these rows could show.")


# changing


def edit(desk: Desk, sample: str, dataset: str, edits: Sequence[Edit]) -> Edited:
    """Changes rows as one new version. Raises :class:`RefusedEdit`."""
    edited: Edited = _changed(desk, sample, dataset, "edit", tuple(edits))
    return edited


def undo(desk: Desk, sample: str, dataset: str) -> Version:
    """Takes back the last change."""
    version: Version = _changed(desk, sample, dataset, "undo")
    return version


def redo(desk: Desk, sample: str, dataset: str) -> Version:
    """Makes the change that was undone last once more."""
    version: Version = _changed(desk, sample, dataset, "redo")
    return version


def restore(desk: Desk, sample: str, dataset: str, version: int) -> Version:
    """Brings the rows of a version back."""
    made: Version = _changed(desk, sample, dataset, "restore", version)
    return made


def _changed(desk: Desk, sample: str, dataset: str, what: str, *given: Any) -> Any:
    """What came of a change of rows; answers that wait over them are graded by the new ones."""
    record = record_of(desk, sample, dataset)
    found = desk.shelf.open(record).change(what, *given)
    with desk.records.writing() as session:
        renew_sample(session, record.sample_id)
    desk.queue.wake()
    return found


def versions(desk: Desk, sample: str, dataset: str) -> list[Version]:
    """All versions of a dataset's rows, the last first."""
    return shelved_dataset(desk, sample, dataset).dataset.versions()[::-1]


# keeping

_NAME: Final = re.compile(r"[^\W_](?:[\w .-]{0,62}[\w-])?\Z")


def check_name(name: str, what: str) -> str:
    """A name that files can have too. Raises :class:`UnusableInput`."""
    name = name.strip()
    if not _NAME.match(name):
        raise UnusableInput(
            f"{name!r} is no name for a {what}: letters, digits, blanks, dots, hyphens, up to 64."
        )
    return name


@contextmanager
def new_sample(
    desk: Desk, name: str, datasets: Callable[[Session], Iterator[MadeDataset]]
) -> Iterator[models.Sample]:
    """A sample in the making: kept where the context ends well. Raises :class:`UnusableInput`."""
    name = check_name(name, "sample")
    with undone_on_error() as made, desk.records.writing() as session:
        course = the_open_course(session)
        if any(one.name.lower() == name.lower() for one in list_samples(session, course.id)):
            raise UnusableInput(f"there is a sample {name} already; choose another name.")
        yield keep_sample(session, desk.folder, course.id, name, datasets(session), made)


def add_sample(desk: Desk, name: str, datasets: Sequence[MadeDataset]) -> str:
    """Keeps a sample of datasets that were made; gives its name."""
    with new_sample(desk, name, lambda _: iter(datasets)) as sample:
        return sample.name


def copy_sample(desk: Desk, name: str, new_name: str) -> str:
    """Copies a sample with all its datasets, as they are now; their versions begin anew."""

    def copies(session: Session) -> Iterator[MadeDataset]:
        source = _sample(session, name)
        for record in source.datasets:
            yield _copy(desk, record, scratch, f"copied from {name}, {record.name}", record.name)

    with (
        scratch_folder(desk.folder) as scratch,
        new_sample(desk, new_name, copies) as sample,
    ):
        return sample.name


def _copy(
    desk: Desk, record: models.Dataset, scratch: Path, summary: str, name: str
) -> MadeDataset:
    dataset = desk.shelf.open(record).dataset
    file = scratch / f"{record.id}.db"
    dataset.copy_to(file)
    return MadeDataset(name, file, Made("", ()), summary)


def rename_sample(desk: Desk, name: str, new_name: str) -> str:
    """Gives a sample another name. Raises :class:`UnusableInput`."""
    new_name = check_name(new_name, "sample")
    with desk.records.writing() as session:
        sample = _sample(session, name)
        for one in list_samples(session, sample.course_id):
            if one is not sample and one.name.lower() == new_name.lower():
                raise UnusableInput(f"there is a sample {new_name} already; choose another name.")
        sample.name = new_name
    return new_name


def delete_sample(desk: Desk, name: str) -> None:
    """Deletes a sample. Raises :class:`UnusableInput` where exercises need it."""
    with desk.records.writing() as session:
        sample = _sample(session, name)
        uses = exercises_over(session, sample.id)
        if uses:
            titles = ", ".join(exercise.title for exercise in uses)
            raise UnusableInput(f"{name} is needed by exercises: {titles}.")
        folder = desk.folder / sample.folder
        for record in sample.datasets:
            desk.shelf.forget(record.id)
        session.delete(sample)
    shutil.rmtree(folder, ignore_errors=True)


def new_dataset(desk: Desk, sample: str, name: str, copy_of: str, *, empty: bool) -> str:
    """Adds a held-back dataset: a copy of another one, or with its tables empty."""
    name = check_name(name, "dataset")
    with (
        scratch_folder(desk.folder) as scratch,
        undone_on_error() as made,
        desk.records.writing() as session,
    ):
        record = _sample(session, sample)
        if any(one.name.lower() == name.lower() for one in record.datasets):
            raise UnusableInput(f"there is a dataset {name} already; choose another name.")
        source = _record(record, copy_of)
        summary = "begun empty" if empty else f"copied from {copy_of}"
        one = _copy(desk, source, scratch, summary, name)
        if empty:
            empty_tables(one.file)
        add_dataset(session, desk.folder, record, one, made)
    return name


def delete_dataset(desk: Desk, sample: str, name: str) -> None:
    """Deletes a held-back dataset. Raises :class:`UnusableInput` for the open one."""
    with desk.records.writing() as session:
        record = _sample(session, sample)
        dataset = _record(record, name)
        if dataset is record.datasets[0]:
            raise UnusableInput("the open dataset is what learners see; it cannot be deleted.")
        folder = desk.folder / dataset.folder
        desk.shelf.forget(dataset.id)
        record.datasets.remove(dataset)
    shutil.rmtree(folder, ignore_errors=True)
