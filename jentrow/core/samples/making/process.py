"""Asks a process of its own to make a dataset or to look at files, and watches it."""

from __future__ import annotations

import atexit
import json
import marshal
import threading
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any, Final

from jentrow.core.errors import JentrowError
from jentrow.core.processes.workers import Worker, WorkerLost
from jentrow.core.samples.csvfiles import CSVFormat
from jentrow.core.samples.making.proposals import (
    Proposal,
    ProposedColumn,
    ProposedKey,
    ProposedTable,
)
from jentrow.core.samples.making.unfinished import CannotMake
from jentrow.core.samples.recipes import Made, Problem, Recipe
from jentrow.core.samples.schema.coltypes import ColumnType

_MODULE: Final = "jentrow.core.samples.making.worker"
_LOOK_SECONDS: Final = 0.2


class Stopped(JentrowError):
    """Raised when the making of a dataset was stopped by whoever asked for it."""


Watch = Callable[[int, int], bool]
"""Told how far the work is, and of how much; answers whether it shall go on."""


def go_on(done: int, total: int) -> bool:
    """Watches nothing, and lets the work go on."""
    return True


def make(recipe: Recipe, target: Path, watch: Watch = go_on) -> Made:
    """Makes a dataset's file; removes what is half made where it does not come to an end.

    Raises :class:`~jentrow.core.samples.making.unfinished.CannotMake` or :class:`Stopped`.
    """
    asked = {"recipe": asdict(recipe), "target": str(target)}
    try:
        said = _ask("make", asked, watch)
    except BaseException:
        target.unlink(missing_ok=True)
        raise
    return Made(
        said["schema"],
        tuple((name, rows) for name, rows in said["table_rows"]),
        tuple(said["notes"]),
        tuple((line, text, why) for line, text, why in said["left_out"]),
        said["table_notes"],
    )


def propose_tables(
    files: list[Path], formats: dict[str, CSVFormat] | None = None, watch: Watch = go_on
) -> Proposal:
    """Looks at CSV files. Raises :class:`Stopped`, or :class:`CannotMake` where it fails."""
    asked = {
        "files": [str(file) for file in files],
        "formats": {name: asdict(format) for name, format in (formats or {}).items()},
    }
    said = _ask("propose", asked, watch)
    return Proposal(
        tuple(_table(one) for one in said["tables"]),
        tuple(Problem(**one) for one in said["problems"]),
    )


def _table(said: dict[str, Any]) -> ProposedTable:
    return ProposedTable(
        said["name"],
        said["file"],
        CSVFormat(**said["format"]),
        tuple(
            ProposedColumn(
                **{
                    **one,
                    "type": ColumnType(**one["type"]),
                    "examples": tuple(one["examples"]),
                }
            )
            for one in said["columns"]
        ),
        tuple(said["primary_key"]),
        said["rows"],
        said["whole"],
        tuple(ProposedKey(**one) for one in said["foreign_keys"]),
    )


_idle: list[Worker] = []
_idle_lock = threading.Lock()


def _take_worker() -> Worker:
    with _idle_lock:
        return _idle.pop() if _idle else Worker(_MODULE)


def _give_back(worker: Worker) -> None:
    """One process is kept for the next: starting one takes longer than most samples do."""
    with _idle_lock:
        if not _idle:
            _idle.append(worker)
            return
    worker.kill()


@atexit.register
def _end_idle() -> None:
    while _idle:
        _idle.pop().kill()


def _ask(what: str, asked: dict[str, Any], watch: Watch) -> Any:
    worker = _take_worker()
    at_rest = False
    try:
        worker.send(what, json.dumps(asked))
        done, total = 0, 0
        while True:
            if not watch(done, total):
                raise Stopped("stopped, and nothing was made.")
            if not worker.pipe.poll(_LOOK_SECONDS):
                continue
            kind, text = marshal.loads(worker.pipe.recv_bytes())
            said = json.loads(text)
            at_rest = kind != "progress"
            if kind == "progress":
                done, total = said
            elif kind == "problems":
                raise CannotMake([Problem(**one) for one in said[1]], said[0])
            else:
                return said
    except (EOFError, OSError, WorkerLost) as problem:
        lost = Problem("", 0, "", "the process that reads the files ended before it was done.")
        raise CannotMake([lost]) from problem
    finally:
        if at_rest:
            _give_back(worker)
        else:
            worker.kill()
