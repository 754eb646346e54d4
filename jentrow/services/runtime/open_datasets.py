"""The datasets that are open: their files, their readers, and the copies that queries run on."""

from __future__ import annotations

import shutil
import threading
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from hashlib import sha256
from itertools import count
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, Final

from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.rows.edits import Insert
from jentrow.core.samples.rows.reading_room import ReadingRoom
from jentrow.core.samples.sources import DatasetSource, SampleSource
from jentrow.records import models

SNAPSHOTS: Final = "snapshots"
_KEPT_SNAPSHOTS: Final = 3
_KEPT_WITH_ROWS: Final = 20


class Once:
    """Something that is worked out once; who comes meanwhile waits for it, and for nothing else."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._found: list[Any] = []

    def get(self, work: Callable[[], Any]) -> Any:
        """What ``work`` gives; it is done again only where it failed before."""
        with self._lock:
            if not self._found:
                self._found.append(work())
            return self._found[0]


@dataclass
class OpenDataset:
    """An open dataset, with what was worked out about a version of it."""

    id: int
    name: str
    dataset: Dataset
    reading: ReadingRoom
    serial: int
    copying: threading.Lock = field(default_factory=threading.Lock)
    _version: int = 0
    _known: dict[Any, Once] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def look(self, what: str, *given: Any, **how: Any) -> Any:
        """What there is to see of the rows: see :class:`ReadingRoom`."""
        return self.reading.look(what, self.dataset.folder, *given, serial=self.serial, **how)

    def change(self, what: str, *given: Any) -> Any:
        """Changes the rows: see :class:`ReadingRoom`."""
        return self.reading.change(what, self.dataset.folder, *given)

    def looked_at(self, what: str, *given: Any) -> Any:
        """The same as :meth:`look`, worked out once for each version."""
        return self._remembered((what, *given), lambda: self.look(what, *given))

    def _remembered(self, key: Any, work: Callable[[], Any]) -> Any:
        version = self.dataset.version
        with self._lock:
            if self._version != version:
                self._version, self._known = version, {}
            once = self._known.setdefault(key, Once())
        return once.get(work)


class OpenDatasets:
    """The datasets of a data folder. Safe to share between threads."""

    def __init__(self, folder: Path, reading: ReadingRoom) -> None:
        self._folder = folder
        self._reading = reading
        self._open: dict[str, OpenDataset] = {}
        self._lock = threading.Lock()
        self._serials = count(1)
        self._snapshots = folder / SNAPSHOTS
        shutil.rmtree(self._snapshots, ignore_errors=True)

    def open(self, record: models.Dataset) -> OpenDataset:
        """The dataset of a record. Raises :class:`InvalidSample` where its files are gone.

        It is known by its folder, whose name is never used again: who still looks at the records as
        they were before a change opens what was, and leaves it to nobody else.
        """
        with self._lock:
            if record.folder not in self._open:
                dataset = Dataset(self._folder / record.folder)
                self._open[record.folder] = OpenDataset(
                    record.id, record.name, dataset, self._reading, next(self._serials)
                )
            opened = self._open[record.folder]
            opened.name = record.name
            return opened

    def remove(self, folders: Iterable[str]) -> None:
        """Lets go of datasets that are in the records no more, and removes their files."""
        for folder in folders:
            with self._lock:
                self._open.pop(folder, None)
            shutil.rmtree(self._folder / folder, ignore_errors=True)

    def source(self, record: models.Dataset) -> DatasetSource:
        """A dataset as it is now, for an engine: a copy that no later change touches."""
        opened = self.open(record)
        with opened.copying:
            version = opened.dataset.version
            path = self._snapshots / f"dataset-{opened.serial}-{version}.db"
            if not path.exists():
                self._snapshots.mkdir(exist_ok=True)
                opened.dataset.copy_to(path)
                self._drop_old(f"dataset-{opened.serial}", _KEPT_SNAPSHOTS)
        return DatasetSource(record.name, "", database=path)

    def source_with_rows(self, record: models.Dataset, rows: Sequence[Insert]) -> DatasetSource:
        """The same with rows that somebody adds for a moment; nobody else ever sees them.

        Raises :class:`RefusedEdit` where a constraint does not take one.
        """
        plain = self.source(record)
        if not rows or plain.database is None:
            return plain
        said = repr([(one.table, sorted(one.values.items())) for one in rows])
        digest = sha256(f"{plain.database.name} {said}".encode()).hexdigest()[:24]
        path = self._snapshots / f"with-rows-{digest}.db"
        if not path.exists():
            with TemporaryDirectory(dir=self._snapshots) as scratch:
                copy, folder = Path(scratch) / "copy.db", Path(scratch) / "dataset"
                shutil.copyfile(plain.database, copy)
                dataset = Dataset.adopt(folder, copy, "with rows added")
                self._reading.change("edit", folder, tuple(rows))
                dataset.copy_to(path)
            self._drop_old("with-rows", _KEPT_WITH_ROWS)
        return DatasetSource(record.name, "", database=path)

    def _drop_old(self, prefix: str, kept: int) -> None:
        found = self._snapshots.glob(f"{prefix}-*.db")
        for path in sorted(found, key=lambda one: one.stat().st_mtime)[:-kept]:
            path.unlink(missing_ok=True)

    def versions(self, sample: models.Sample) -> Iterator[tuple[str, str]]:
        """Each dataset of a sample by name, with the name of its folder and its version.

        A record's number would not do: that of a deleted dataset is used again.
        """
        for record in sample.datasets:
            yield record.name, f"{Path(record.folder).name}.{self.open(record).dataset.version}"

    def sample_source(self, sample: models.Sample) -> SampleSource:
        """A sample with all its datasets, the open one first."""
        return SampleSource(sample.name, tuple(map(self.source, sample.datasets)))
