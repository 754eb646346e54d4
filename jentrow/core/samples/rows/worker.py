"""The process in which rows of samples and of private copies are looked at and changed.

What is run there, instructors and learners wrote: conditions, views, checks, generated columns. The
parent sends what is to be done and to which dataset; see :mod:`jentrow.core.samples.rows.reading_room`.
"""

from __future__ import annotations

import pickle
import resource
import threading
from collections.abc import Callable, Sequence
from dataclasses import replace
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, Final

import apsw
from cachetools import LRUCache

from jentrow.core.errors import UnusableInput
from jentrow.core.processes.bounds import bound_memory, leave_with_parent
from jentrow.core.processes.crossing import packed
from jentrow.core.samples.dataset import Dataset, Version
from jentrow.core.samples.exports import write_csv_folder, write_database, write_script
from jentrow.core.samples.fingerprint import fingerprint
from jentrow.core.samples.rows.edits import Edit, Edited, RefusedEdit, make_edits
from jentrow.core.samples.rows.pages import Page, RowReader
from jentrow.core.samples.rows.profile import follow, profile_table, referring_rows
from jentrow.core.samples.rows.reading_room import TableCount
from jentrow.core.samples.rows.showing import Showing, Wanted, what_rows_show
from jentrow.core.samples.rows.suggestions import suggest
from jentrow.core.samples.versiondifference import version_differences
from jentrow.core.shownrows import cut_rows
from jentrow.core.sql.text import quoted_name

MEMORY: Final = 512 << 20
OPEN_DATASETS: Final = 16


class _Opened:
    """A dataset with what was worked out about its rows."""

    def __init__(self, folder: Path) -> None:
        self.dataset = Dataset(folder)
        self.rows = RowReader(self.dataset)

    def page(self, table: str, **how: Any) -> Page:
        page = self.rows.page(table, **how)
        rows = zip(page.rows, cut_rows(row.values for row in page.rows), strict=True)
        return replace(page, rows=tuple(replace(row, values=values) for row, values in rows))

    def counts(self) -> list[TableCount]:
        with self.dataset.reading() as db:
            return [
                TableCount(
                    table.name,
                    next(db.execute(f"SELECT count(*) FROM {quoted_name(table.name)}"))[0],
                )
                for table in self.dataset.tables
            ]

    def showing(self, wanted: Sequence[Wanted]) -> list[Showing]:
        return what_rows_show(self.dataset, wanted, lambda name: profile_table(self.dataset, name))

    def edit(self, edits: Sequence[Edit]) -> Edited:
        return make_edits(self.dataset, edits)

    def undo(self) -> Version:
        return self.dataset.undo()

    def redo(self) -> Version:
        return self.dataset.redo()

    def restore(self, number: int) -> Version:
        return self.dataset.restore(number)

    def export(self, format: str, target: str, held_back: dict[str, str]) -> None:
        if format == "csv":
            others = {name: Dataset(Path(folder)) for name, folder in held_back.items()}
            write_csv_folder(self.dataset, others, Path(target))
        else:
            write = write_script if format == "script" else write_database
            write(self.dataset, Path(target))


_OF_DATASET: Final[dict[str, Callable[..., Any]]] = {
    "page": _Opened.page,
    "place": lambda opened, table, row, **how: opened.rows.place_of(table, row, **how),
    "counts": _Opened.counts,
    "profile": lambda opened, table: profile_table(opened.dataset, table),
    "parent": lambda opened, *given: follow(opened.dataset, *given),
    "children": lambda opened, *given: referring_rows(opened.dataset, *given),
    "showing": _Opened.showing,
    "suggest": lambda opened, showing: suggest(opened.dataset, showing),
    "differences": lambda opened, *given: version_differences(opened.dataset, *given),
    "edit": _Opened.edit,
    "undo": _Opened.undo,
    "redo": _Opened.redo,
    "restore": _Opened.restore,
    "export": _Opened.export,
}
_OF_FILE: Final[dict[str, Callable[..., Any]]] = {
    "fingerprint": fingerprint,
}


class _Datasets:
    def __init__(self) -> None:
        self._open: LRUCache[int, _Opened] = LRUCache(OPEN_DATASETS)

    def at(self, folder: str, serial: int) -> _Opened:
        if not serial:
            return _Opened(Path(folder))
        opened = self._open.get(serial)
        if opened is None:
            opened = self._open[serial] = _Opened(Path(folder))
        return opened


def _answer(datasets: _Datasets, request: bytes) -> tuple[Any, ...]:
    # The parent's own: it alone writes into this pipe.
    what, place, serial, given, how = pickle.loads(request)  # noqa: S301
    apsw.hard_heap_limit(MEMORY)
    bound_memory(MEMORY)
    try:
        if what in _OF_FILE:
            return "done", packed(_OF_FILE[what](Path(place), *given, **how))
        return "done", packed(_OF_DATASET[what](datasets.at(place, serial), *given, **how))
    except RefusedEdit as problem:
        return "failed", type(problem).__name__, str(problem), packed(problem.refusal)
    except UnusableInput as problem:
        return "failed", type(problem).__name__, str(problem), b""
    except (MemoryError, apsw.NoMemError, apsw.TooBigError):
        return "failed", "TooSlow", "looking at these rows needs too much memory.", b""
    except apsw.Error as problem:
        return "failed", "UnusableInput", f"the rows cannot be read: {problem}.", b""


def main(descriptor: int) -> None:
    """The process: one socket to the parent, until the parent goes away."""
    import marshal

    threading.Thread(target=leave_with_parent, daemon=True).start()
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    pipe = Connection(descriptor)
    datasets = _Datasets()
    while True:
        try:
            (request,) = marshal.loads(pipe.recv_bytes())
        except EOFError:
            return
        pipe.send_bytes(marshal.dumps([_answer(datasets, request)]))
