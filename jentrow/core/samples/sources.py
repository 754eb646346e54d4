"""Where the rows of a dataset come from: a script, or a folder of CSV files for a schema."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field
from pathlib import Path

from jentrow.core.errors import InvalidSample
from jentrow.core.samples.tablenotes import FILE, TableNotes, read_notes
from jentrow.core.textfiles import read_bytes, read_text
from jentrow.core.yamlfiles import NotYAML, read_yaml


@dataclass(frozen=True, slots=True)
class DatasetSource:
    """One dataset, not yet loaded into an engine.

    ``schema`` is a script of DDL. Its own INSERTs count only with ``keep_rows``; otherwise the
    rows are those of ``script`` (INSERTs) and of ``tables`` (pairs of table name and CSV file).
    ``database`` is an SQLite file that holds it all already; its name stands for its content.
    ``as_written`` says that only the engine's own dialect will do.
    """

    name: str
    schema: str
    keep_rows: bool = False
    script: str = ""
    tables: tuple[tuple[str, Path], ...] = ()
    database: Path | None = None
    as_written: bool = False

    @property
    def key(self) -> str:
        """A digest of the schema and the rows: the same key, the same data."""
        if self.database is not None:
            return self.database.stem
        digest = hashlib.sha256()
        for part in (self.schema, str(self.keep_rows), self.script):
            digest.update(part.encode() + b"\0")
        if self.as_written:
            digest.update(b"as written\0")
        for table, path in self.tables:
            digest.update(table.encode() + b"\0" + read_bytes(path) + b"\0")
        return digest.hexdigest()[:32]


@dataclass(frozen=True, slots=True)
class SampleSource:
    """A sample: its name and its datasets, the open one first, and what is noted on its tables."""

    name: str
    datasets: tuple[DatasetSource, ...]
    notes: TableNotes = field(default_factory=dict, compare=False)

    @property
    def open(self) -> DatasetSource:
        """The dataset that learners see."""
        return self.datasets[0]


def read_sample(path: Path) -> SampleSource:
    """Reads a sample from a ``.sql`` script or a folder (``schema.sql``, ``open/``, ``held-back/``).

    Raises :class:`InvalidSample` or :class:`UnreadableFile`.
    """
    if path.is_dir():
        return _read_sample_folder(path)
    return SampleSource(path.stem, (DatasetSource("open", read_text(path), keep_rows=True),))


def read_dataset(path: Path, schema: str) -> DatasetSource:
    """Reads a further dataset for a schema: a script of INSERTs, or a folder of CSV files."""
    if path.is_dir():
        return DatasetSource(path.name, schema, tables=_csv_files(path))
    return DatasetSource(path.stem, schema, script=read_text(path))


def _read_sample_folder(path: Path) -> SampleSource:
    schema = read_text(path / "schema.sql")
    opened = path / "open"
    if opened.is_dir():
        datasets = [DatasetSource("open", schema, tables=_csv_files(opened))]
    else:
        datasets = [DatasetSource("open", schema, keep_rows=True)]
    held_back = path / "held-back"
    if held_back.is_dir():
        for folder in sorted(held_back.iterdir()):
            if folder.is_dir():
                datasets.append(DatasetSource(folder.name, schema, tables=_csv_files(folder)))
    return SampleSource(path.name, tuple(datasets), _notes(path / FILE))


def _notes(file: Path) -> TableNotes:
    if not file.is_file():
        return {}
    try:
        return read_notes(read_yaml(file), str(file))
    except NotYAML as problem:
        raise InvalidSample(f"{file}: {problem}.") from problem


def _csv_files(folder: Path) -> tuple[tuple[str, Path], ...]:
    files = tuple((file.stem, file) for file in sorted(folder.glob("*.csv")))
    if not files:
        raise InvalidSample(f"{folder}: no CSV file in this folder; each table is one <table>.csv.")
    return files
