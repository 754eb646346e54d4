"""The process that makes datasets: what comes from outside is read and run here, not in the server.

It is asked once, tells how far it is, and answers in the end; whoever asked may kill it before.
"""

from __future__ import annotations

import gc
import json
import marshal
import os
import resource
import threading
import time
from collections.abc import Callable
from dataclasses import asdict
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, Final

import apsw

from jentrow.core.errors import JentrowError
from jentrow.core.samples.csvfiles import CSVFormat
from jentrow.core.samples.making.dataset_files import make_dataset
from jentrow.core.samples.making.proposals import propose
from jentrow.core.samples.making.unfinished import CannotMake
from jentrow.core.samples.recipes import Carried, ColumnSource, CSVSource, Problem, RanTable, Recipe
from jentrow.core.samples.schema.coltypes import ColumnType

HEAP_BYTES: Final = 2 << 30
REPORT_SECONDS: Final = 0.1


def main(descriptor: int) -> None:
    """Answers requests until the other side goes away."""
    threading.Thread(target=_leave_with_parent, daemon=True).start()
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_AS, (8 << 30, resource.RLIM_INFINITY))
    apsw.hard_heap_limit(HEAP_BYTES)
    gc.disable()  # rows make no cycles, and looking for some among millions of them takes long
    pipe = Connection(descriptor)
    while True:
        try:
            what, asked = marshal.loads(pipe.recv_bytes())
        except EOFError:
            return
        said = _answer(what, json.loads(asked), _reporter(pipe))
        pipe.send_bytes(marshal.dumps([said[0], json.dumps(said[1])]))


def _leave_with_parent() -> None:
    while os.read(0, 1):
        pass
    os._exit(0)


def _reporter(pipe: Connection) -> Callable[[int, int], None]:
    last = [0.0]

    def report(done: int, total: int) -> None:
        now = time.monotonic()
        if now - last[0] >= REPORT_SECONDS:
            last[0] = now
            pipe.send_bytes(marshal.dumps(["progress", json.dumps([done, total])]))

    return report


def _answer(what: str, asked: Any, report: Callable[[int, int], None]) -> tuple[str, Any]:
    try:
        if what == "propose":
            return "proposed", asdict(propose([Path(path) for path in asked["files"]], asked))
        made = make_dataset(_recipe(asked["recipe"]), Path(asked["target"]), report)
        return "made", asdict(made)
    except CannotMake as problem:
        return "problems", [problem.count, [asdict(one) for one in problem.problems]]
    except JentrowError as problem:
        return "problems", [1, [asdict(Problem("", 0, "", str(problem)))]]
    except (MemoryError, apsw.NoMemError):
        said = Problem("", 0, "", "it needs more memory than there is for making a sample.")
        return "problems", [1, [asdict(said)]]
    except apsw.Error as problem:
        return "problems", [1, [asdict(Problem("", 0, "", f"SQLite: {problem}."))]]


def _recipe(asked: dict[str, Any]) -> Recipe:
    return Recipe(
        asked["kind"],
        asked["schema"],
        tuple(
            CSVSource(
                one["table"], one["path"], _columns(one["columns"]), CSVFormat(**one["format"])
            )
            for one in asked["csv"]
        ),
        asked["path"],
        asked["dialect"],
        tuple(
            Carried(one["table"], one["source"], _columns(one["columns"]))
            for one in asked["carried"]
        ),
        tuple(
            RanTable(one["name"], tuple(map(tuple, one["columns"])), one["path"])
            for one in asked["ran"]
        ),
    )


def _columns(asked: list[dict[str, Any]]) -> tuple[ColumnSource, ...]:
    return tuple(
        ColumnSource(one["source"], one["name"], ColumnType(**one["type"]) if one["type"] else None)
        for one in asked
    )
