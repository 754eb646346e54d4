"""The worker process that runs queries on an engine and judges what they give."""

from __future__ import annotations

from typing import Final

from jentrow.core.engines.labels import ENGINES, STAND_INS
from jentrow.core.engines.rooms import ROOM_MODULES
from jentrow.core.engines.worker import run_process
from jentrow.core.exercises.judging_room import JudgingRoom

LOADED_AHEAD: Final = (
    "numpy",
    "scipy.optimize",
    "scipy.sparse.csgraph",
    *(f"jentrow.core.engines.{engine}.words" for engine in ENGINES if engine not in STAND_INS),
    *ROOM_MODULES,
    "jentrow.core.engines.duckdb.scratch",
    "jentrow.core.exercises.distinguishing.analyst",
)
"""What a worker loads when it first meets an engine, or an answer that differs or is rejected, which
takes longer than most judging does: a server has it loaded before its workers are made, a single
command only where it is needed."""


def main(descriptor: int) -> None:
    """The process, until the parent goes away."""
    run_process(descriptor, JudgingRoom)
