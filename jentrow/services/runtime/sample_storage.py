"""Keeping samples: what was made as files becomes a sample of the records, whole or not at all."""

from __future__ import annotations

import secrets
import shutil
import tempfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from jentrow.core.samples.csvfiles import read_header
from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.making.process import Watch, go_on, make
from jentrow.core.samples.recipes import ColumnSource, CSVSource, Made, Recipe
from jentrow.core.samples.scripts.reasons import is_lost
from jentrow.core.samples.sources import DatasetSource, SampleSource, read_sample
from jentrow.core.samples.tablenotes import TableNotes, notes_mapping, read_notes, unknown_names
from jentrow.records import models
from jentrow.services.runtime.data_folder import COPIES, SAMPLES, set_aside


@dataclass(frozen=True, slots=True)
class MadeDataset:
    """A dataset's file that was made, not kept yet; the first of a sample's is the open one."""

    name: str
    file: Path
    made: Made
    summary: str


def recipe_of(source: DatasetSource, scratch: Path) -> Recipe:
    """How a dataset of a pack or a sample folder is made; ``scratch`` holds scripts meanwhile."""
    if source.keep_rows or source.script:
        script = scratch / f"{source.name}.sql"
        script.write_text(source.schema if source.keep_rows else source.script, encoding="utf-8")
        return Recipe("script", "" if source.keep_rows else source.schema, path=str(script))
    return Recipe(
        "tables",
        source.schema,
        tuple(
            CSVSource(
                table, str(path), tuple(ColumnSource(name, name) for name in read_header(path))
            )
            for table, path in source.tables
        ),
    )


def datasets_of(source: SampleSource, folder: Path, watch: Watch = go_on) -> Iterator[MadeDataset]:
    """Makes the datasets of a sample that lies in files, one after the other.

    Raises :class:`~jentrow.core.samples.making.dataset_files.CannotMake`.
    """
    with scratch_folder(folder) as scratch:
        for at, dataset in enumerate(source.datasets):
            file = scratch / f"{at}.db"
            made = make(recipe_of(dataset, scratch), file, watch)
            yield MadeDataset(dataset.name, file, made, f"made from the files of {source.name}")


@contextmanager
def scratch_folder(folder: Path) -> Iterator[Path]:
    """A folder for what is half made, on the same file system as what it becomes."""
    scratch = folder / "scratch"
    scratch.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=scratch) as name:
        yield Path(name)


@contextmanager
def undone_on_error() -> Iterator[list[Path]]:
    """A list of folders that are removed where an error leaves the context."""
    made: list[Path] = []
    try:
        yield made
    except BaseException:
        for folder in made:
            shutil.rmtree(folder, ignore_errors=True)
        raise


def keep_sample(
    session: Session,
    folder: Path,
    course_id: int,
    name: str,
    datasets: Iterable[MadeDataset],
    made: list[Path],
    table_notes: TableNotes | None = None,
) -> models.Sample:
    """Adds a sample with its datasets; folders that were made are added to ``made``.

    What is noted on a table that is not there is told among the sample's own notes.
    """
    sample = models.Sample(course_id=course_id, name=name, folder="", notes=[])
    session.add(sample)
    session.flush()
    sample.folder = f"{SAMPLES}/{sample.id}"
    made.append(folder / sample.folder)
    notes: list[dict[str, Any]] = []
    for one in datasets:
        add_dataset(session, folder, sample, one, made)
        notes += notes_of(one.made)
        table_notes = table_notes or read_notes(one.made.table_notes, name)
    if table_notes:
        sample.table_notes = notes_mapping(table_notes)
        tables = Dataset(folder / sample.datasets[0].folder).tables
        notes += [
            {"line": 0, "text": "", "why": f"there are notes on {name}, which is not there"}
            for name in unknown_names(tables, table_notes)
        ]
    sample.notes = [note for at, note in enumerate(notes) if note not in notes[:at]]
    session.flush()
    return sample


def notes_of(made: Made) -> list[dict[str, Any]]:
    """What is to be known of how a dataset was made, for the records."""
    return [
        *({"line": 0, "text": "", "why": note} for note in made.notes),
        *(
            {"line": line, "text": text, "why": why, "is_lost": is_lost(why)}
            for line, text, why in sorted(made.left_out)
        ),
    ]


def add_dataset(
    session: Session, folder: Path, sample: models.Sample, one: MadeDataset, made: list[Path]
) -> models.Dataset:
    """Keeps one more dataset of a sample."""
    record = models.Dataset(
        sample_id=sample.id, name=one.name, position=len(sample.datasets), folder=""
    )
    sample.datasets.append(record)
    session.flush()
    record.folder = new_folder(sample, record)
    made.append(folder / record.folder)
    Dataset.adopt(folder / record.folder, one.file, one.summary)
    return record


def new_folder(sample: models.Sample, record: models.Dataset) -> str:
    """A folder for a dataset's files, of a name that was never used and never will be again."""
    return f"{sample.folder}/{record.id}-{secrets.token_hex(4)}"


def put_in_order(session: Session, folder: Path) -> None:
    """At the start: datasets are made of samples kept as CSV, and what nobody knows is set aside."""
    samples = list(session.scalars(select(models.Sample)))
    for sample in samples:
        if sample.datasets:
            continue
        source = read_sample(folder / sample.folder)
        with undone_on_error() as made:
            sample.folder = f"{SAMPLES}/{sample.id}"
            for one in datasets_of(source, folder):
                add_dataset(session, folder, sample, one, made)
    known = {folder / dataset.folder for sample in samples for dataset in sample.datasets}
    kept = {folder / sample.folder for sample in samples}
    for place in (folder / SAMPLES).glob("*"):
        if place not in kept:
            set_aside(folder, place)
            continue
        for inner in place.iterdir():
            if inner not in known:
                set_aside(folder, inner)
    learners = {str(id) for id in session.scalars(select(models.Learner.id))}
    for copy in (folder / COPIES).glob("*.*"):
        if copy.name.partition("-")[0] not in learners:
            set_aside(folder, copy)
