"""Samples as an instructor keeps them: listed, and one with its datasets."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.samples.tablenotes import TableNotes, noted, read_notes
from jentrow.records import models
from jentrow.records.exercises import course_of_session
from jentrow.records.samples import (
    exercise_counts,
    exercises_over,
    find_sample,
    list_samples,
)
from jentrow.services.errors import NotFound
from jentrow.services.runtime.open_datasets import OpenDataset
from jentrow.services.scope import CourseScope


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
    """A sample in a list; ``tables`` are the names of its tables."""

    name: str
    tables: list[str]
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


def sample_lines(scope: CourseScope) -> list[SampleLine]:
    """All samples of the course."""
    with scope.records.session() as session:
        course = course_of_session(session)
        if course is None:
            return []
        uses = exercise_counts(session, course.id)
        return [
            SampleLine(
                sample.name,
                [
                    table.name
                    for table in _opened(scope, sample).dataset.tables
                    if table.kind == "table"
                ],
                uses.get(sample.id, 0),
                _dataset_lines(scope, sample),
            )
            for sample in list_samples(session, course.id)
        ]


def sample_view(scope: CourseScope, name: str) -> SampleView:
    """One sample. Raises :class:`NotFound`."""
    with scope.records.session() as session:
        sample = sample_named(session, name)
        return SampleView(
            sample.name,
            noted(_opened(scope, sample).dataset.tables, table_notes_of(sample)),
            _dataset_lines(scope, sample),
            [exercise.title for exercise in exercises_over(session, sample.id)],
            sample.notes,
        )


def table_notes_of(sample: models.Sample) -> TableNotes:
    """What is noted on a sample's tables."""
    return read_notes(sample.table_notes, sample.name)


def notes_on(scope: CourseScope, name: str) -> TableNotes:
    """What is noted on the tables of the sample of this name. Raises :class:`NotFound`."""
    with scope.records.session() as session:
        return table_notes_of(sample_named(session, name))


def _dataset_lines(scope: CourseScope, sample: models.Sample) -> list[DatasetLine]:
    lines = []
    for at, record in enumerate(sample.datasets):
        opened = scope.runtime.datasets.open(record)
        last = opened.dataset.versions()[-1]
        rows = sum(one.rows for one in table_counts(opened))
        lines.append(DatasetLine(record.name, at == 0, last.number, last.made_at, rows))
    return lines


def table_counts(opened: OpenDataset) -> list[TableCount]:
    """How many rows each table of a dataset has."""
    counts: list[TableCount] = opened.looked_at("counts")
    return counts


def sample_named(session: Session, name: str) -> models.Sample:
    """A sample of the course in scope. Raises :class:`NotFound`."""
    course = course_of_session(session)
    sample = find_sample(session, course.id, name) if course else None
    if sample is None:
        raise NotFound(f"There is no sample {name!r}.")
    return sample


def _opened(scope: CourseScope, sample: models.Sample) -> OpenDataset:
    return scope.runtime.datasets.open(sample.datasets[0])


def dataset_named(sample: models.Sample, name: str) -> models.Dataset:
    """A dataset of a sample, the open one where the name is empty. Raises :class:`NotFound`."""
    for record in sample.datasets:
        if record.name == name:
            return record
    known = ", ".join(record.name for record in sample.datasets)
    raise NotFound(f"The sample {sample.name} has no dataset {name!r}; it has {known}.")


def open_dataset(scope: CourseScope, sample: str, dataset: str) -> OpenDataset:
    """A dataset by its names. Raises :class:`NotFound`."""
    return scope.runtime.datasets.open(record_of(scope, sample, dataset))


def record_of(scope: CourseScope, sample: str, dataset: str) -> models.Dataset:
    """The record of a dataset, of the open one where none is named. Raises :class:`NotFound`."""
    with scope.records.session() as session:
        found = sample_named(session, sample)
        return dataset_named(found, dataset) if dataset else found.datasets[0]


def open_datasets(scope: CourseScope, sample: str) -> dict[str, Dataset]:
    """A sample's datasets by name, the open one first. Raises :class:`NotFound`."""
    with scope.records.session() as session:
        found = sample_named(session, sample)
        return {
            record.name: scope.runtime.datasets.open(record).dataset for record in found.datasets
        }


def dataset_view(scope: CourseScope, sample: str, dataset: str) -> DatasetView:
    """The state of one dataset."""
    opened = open_dataset(scope, sample, dataset)
    undo, redo = opened.dataset.can()
    last = opened.dataset.versions()[-1]
    return DatasetView(opened.name, last.number, last.made_at, table_counts(opened), undo, redo)
