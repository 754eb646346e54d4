"""Samples and their datasets: added, copied, renamed, deleted."""

from __future__ import annotations

import re
import shutil
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Final

from sqlalchemy.orm import Session

from jentrow.core.errors import UnusableInput
from jentrow.core.samples.dataset import empty_tables
from jentrow.core.samples.recipes import Made
from jentrow.core.samples.tablenotes import TableNotes
from jentrow.records import models
from jentrow.records.samples import (
    exercises_over,
    list_samples,
)
from jentrow.services.runtime.sample_storage import (
    MadeDataset,
    add_dataset,
    keep_sample,
    scratch_folder,
    undone_on_error,
)
from jentrow.services.samples.catalogue import dataset_named, notes_on, sample_named
from jentrow.services.scope import CourseScope, course_in_scope

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
    scope: CourseScope,
    name: str,
    datasets: Callable[[Session], Iterator[MadeDataset]],
    notes: TableNotes | None = None,
) -> Iterator[models.Sample]:
    """A sample in the making: kept where the context ends well. Raises :class:`UnusableInput`."""
    name = check_name(name, "sample")
    with undone_on_error() as made, scope.records.writing() as session:
        course = course_in_scope(session)
        if any(one.name.lower() == name.lower() for one in list_samples(session, course.id)):
            raise UnusableInput(f"there is a sample {name} already; choose another name.")
        yield keep_sample(
            session, scope.runtime.folder, course.id, name, datasets(session), made, notes
        )


def add_sample(
    scope: CourseScope, name: str, datasets: Sequence[MadeDataset], notes: TableNotes | None = None
) -> str:
    """Keeps a sample of datasets that were made; gives its name."""
    with new_sample(scope, name, lambda _: iter(datasets), notes) as sample:
        return sample.name


def copy_sample(scope: CourseScope, name: str, new_name: str) -> str:
    """Copies a sample with all its datasets, as they are now; their versions begin anew."""

    def copies(session: Session) -> Iterator[MadeDataset]:
        source = sample_named(session, name)
        for record in source.datasets:
            yield _copy(scope, record, scratch, f"copied from {name}, {record.name}", record.name)

    with (
        scratch_folder(scope.runtime.folder) as scratch,
        new_sample(scope, new_name, copies, notes_on(scope, name)) as sample,
    ):
        return sample.name


def _copy(
    scope: CourseScope, record: models.Dataset, scratch: Path, summary: str, name: str
) -> MadeDataset:
    dataset = scope.runtime.datasets.open(record).dataset
    file = scratch / f"{record.id}.db"
    dataset.copy_to(file)
    return MadeDataset(name, file, Made("", ()), summary)


def rename_sample(scope: CourseScope, name: str, new_name: str) -> str:
    """Gives a sample another name. Raises :class:`UnusableInput`."""
    new_name = check_name(new_name, "sample")
    with scope.records.writing() as session:
        sample = sample_named(session, name)
        for one in list_samples(session, sample.course_id):
            if one is not sample and one.name.lower() == new_name.lower():
                raise UnusableInput(f"there is a sample {new_name} already; choose another name.")
        sample.name = new_name
    return new_name


def delete_sample(scope: CourseScope, name: str) -> None:
    """Deletes a sample. Raises :class:`UnusableInput` where exercises need it."""
    with scope.records.writing() as session:
        sample = sample_named(session, name)
        uses = exercises_over(session, sample.id)
        if uses:
            titles = ", ".join(exercise.title for exercise in uses)
            raise UnusableInput(f"{name} is needed by exercises: {titles}.")
        folders = [one.folder for one in sample.datasets]
        session.delete(sample)
    scope.runtime.datasets.remove(folders)
    shutil.rmtree(scope.runtime.folder / sample.folder, ignore_errors=True)


def new_dataset(scope: CourseScope, sample: str, name: str, copy_of: str, *, empty: bool) -> str:
    """Adds a held-back dataset: a copy of another one, or with its tables empty."""
    name = check_name(name, "dataset")
    with (
        scratch_folder(scope.runtime.folder) as scratch,
        undone_on_error() as made,
        scope.records.writing() as session,
    ):
        record = sample_named(session, sample)
        if any(one.name.lower() == name.lower() for one in record.datasets):
            raise UnusableInput(f"there is a dataset {name} already; choose another name.")
        source = dataset_named(record, copy_of)
        summary = "begun empty" if empty else f"copied from {copy_of}"
        one = _copy(scope, source, scratch, summary, name)
        if empty:
            empty_tables(one.file)
        add_dataset(session, scope.runtime.folder, record, one, made)
    return name


def delete_dataset(scope: CourseScope, sample: str, name: str) -> None:
    """Deletes a held-back dataset. Raises :class:`UnusableInput` for the open one."""
    with scope.records.writing() as session:
        record = sample_named(session, sample)
        dataset = dataset_named(record, name)
        if dataset is record.datasets[0]:
            raise UnusableInput("the open dataset is what learners see; it cannot be deleted.")
        record.datasets.remove(dataset)
    scope.runtime.datasets.remove([dataset.folder])
