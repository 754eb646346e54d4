"""An engine that lives in the worker processes and keeps each dataset in a file."""

from __future__ import annotations

import fcntl
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from jentrow.core.engines.copies.engine import CopyKeepingEngine
from jentrow.core.engines.pooled import parts_of
from jentrow.core.engines.protocol import DatasetParts, LoadedDataset
from jentrow.core.errors import JentrowError
from jentrow.core.processes.crossing import packed
from jentrow.core.samples.sources import DatasetSource


class EmbeddedEngine(CopyKeepingEngine):
    """A pooled engine whose datasets are files in its folder."""

    ending: str

    def _build(self, key: str, dataset: DatasetSource) -> LoadedDataset:
        path = self._folder / f"{key}{self.ending}"
        with _alone(path.with_suffix(".lock")):
            if path.exists():  # by another engine of this name
                said = self._built("look", str(path), dataset.name)
            else:
                unfinished = path.with_suffix(".unfinished")
                said = self._built_file(path, unfinished, dataset.name, parts_of(dataset))
        return self._is_loaded(key, str(path), said)

    def _built_file(self, path: Path, unfinished: Path, name: str, parts: DatasetParts) -> Any:
        """What a worker says of a dataset's file, which is at its path when all of it is."""
        unfinished.unlink(missing_ok=True)
        try:
            said = self._built("build", str(unfinished), name, packed(parts))
        except JentrowError:
            unfinished.unlink(missing_ok=True)
            raise
        unfinished.replace(path)
        return said

    # private copies

    def make_copy(self, source: DatasetSource, copy: Path) -> None:
        """Makes a learner's own copy of a dataset."""
        self._must_keep_copies()
        unfinished = copy.with_name(f"{copy.name}.unfinished")
        shutil.copyfile(self.load(source).location, unfinished)
        unfinished.replace(copy)

    def drop_copy(self, copy: Path) -> None:
        """Deletes a copy, with what a process left beside it that was killed."""
        for path in copy.parent.glob(f"{copy.name}*"):
            path.unlink(missing_ok=True)

    def copy_began(self, source: DatasetSource, copy: Path) -> int:
        """How large the dataset's own file is."""
        return Path(self.load(source).location).stat().st_size

    def copy_bytes(self, copy: Path) -> int:
        """How large the copy's file is."""
        return copy.stat().st_size


@contextmanager
def _alone(lock: Path) -> Iterator[None]:
    """Holds up whoever else would load the same dataset meanwhile."""
    with lock.open("w") as file:
        fcntl.flock(file, fcntl.LOCK_EX)
        yield
