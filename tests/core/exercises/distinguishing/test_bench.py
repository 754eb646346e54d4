"""The bench: queries on made-up rows, and what is made of those that do not run."""

import pytest

from jentrow.core.engines.answers import failed
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from tests.core.exercises.distinguishing.benches import laboratory

REFERENCE = "SELECT name FROM huts WHERE beds > 20"


def test_a_query_that_was_halted_for_a_moment_is_asked_again(
    engine: SQLiteEngine, monkeypatch: pytest.MonkeyPatch
) -> None:
    bench = laboratory(engine, "huts", REFERENCE).bench
    made = bench.first_made(1)[0]
    bench.scratch.fill(made.rows)
    halted: list[str] = []
    run = bench.scratch.run

    def halting(sql, limits):
        halted.append(sql)
        return failed("stopped", "limit.time", "") if len(halted) % 2 else run(sql, limits)

    monkeypatch.setattr(bench.scratch, "run", halting)
    assert bench.is_right(bench.run(REFERENCE), made.due)
    # What the engine rejects is rejected, once.
    halted.clear()
    monkeypatch.setattr(bench.scratch, "run", lambda *asked: halted.append("") or run(*asked))
    assert bench.run("SELECT nothing FROM huts") is None
    assert len(halted) == 1
