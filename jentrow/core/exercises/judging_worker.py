"""The worker process that runs queries on SQLite and judges what they give."""

from __future__ import annotations

from jentrow.core.engines.sqlite.worker import run_process
from jentrow.core.exercises.judging_room import JudgingRoom


def main(descriptor: int) -> None:
    """The process, until the parent goes away."""
    run_process(descriptor, JudgingRoom)
