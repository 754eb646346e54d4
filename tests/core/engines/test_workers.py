"""Many callers, few workers, and queries of every kind: each gets its own answer, once."""

from __future__ import annotations

import random
import socket
import threading
from pathlib import Path
from typing import Any

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import LoadedDataset, QueryFailure
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.processes.nursery import Nursery
from tests.core.engines.test_sqlite import ENDLESS, HANGS

LIMITS = Limits(seconds=0.05, rows=1000, memory_mb=64, patience=0.4)
OTHERS = {
    "nonsense": "error",
    "SELECT nome FROM huts": "error",
    "SELECT 1; SELECT 2": "refused",
    ENDLESS + "SELECT COUNT(*) FROM n": "stopped",
    "SELECT hex(zeroblob(300000)) || 'x'": None,
    "SELECT '" + "x" * 40_000 + "'": None,
}


def run_some(engine: SQLiteEngine, dataset: LoadedDataset, seed: int, hang: bool) -> list[Any]:
    """Runs some rounds of queries; returns what was not as it ought to be."""
    source = random.Random(seed)
    wrong: list[Any] = []
    for round_ in range(8):
        count = source.randint(1, 30)
        queries = [
            source.choice([f"SELECT {at}"] * 9 + [source.choice(list(OTHERS))])
            for at in range(count)
        ]
        if hang and round_ == 3:
            queries[0] = HANGS
        outcomes = list(engine.run_many(dataset, queries, LIMITS))
        if sorted(at for at, _ in outcomes) != list(range(count)):
            wrong.append([at for at, _ in outcomes])
        for at, outcome in outcomes:
            sql = queries[at]
            if isinstance(outcome, QueryFailure):
                got: Any = outcome.verdict
            else:
                got = outcome.rows if sql not in OTHERS else None
            due = "stopped" if sql == HANGS else OTHERS.get(sql, [(at,)])
            if got != due:
                wrong.append((sql[:60], got))
    return wrong


def test_callers_share_the_workers_and_nothing_is_lost_or_mixed_up(
    engine: SQLiteEngine, huts: LoadedDataset
) -> None:
    found: list[Any] = []
    threads = [
        threading.Thread(
            target=lambda seed=seed: found.extend(run_some(engine, huts, seed, seed == 1))
        )
        for seed in range(3)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert found == []


def test_a_caller_that_leaves_early_costs_nobody(engine: SQLiteEngine, huts: LoadedDataset) -> None:
    for _ in range(3):
        left_early = engine.run_many(huts, [f"SELECT {at}" for at in range(200)], LIMITS)
        next(left_early)
        left_early.close()  # type: ignore[attr-defined]
    outcomes = dict(engine.run_many(huts, ["SELECT 1", "SELECT 2"], LIMITS))
    assert [outcomes[at].rows for at in range(2)] == [[(1,)], [(2,)]]  # type: ignore[union-attr]


def test_workers_are_made_again_when_what_makes_them_was_ended() -> None:
    nursery = Nursery()
    for _ in range(2):
        ours, theirs = socket.socketpair()
        pid = nursery.fork("jentrow.core.exercises.judging_worker", theirs)
        theirs.close()
        assert Path(f"/proc/{pid}").exists()
        assert nursery._process is not None
        nursery._process.kill()
        nursery._process.wait()
        ours.close()
    nursery.close()
