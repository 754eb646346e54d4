"""The bench: queries on made-up rows, and what is made of those that do not run."""

import pytest

from jentrow.core.engines.answers import failed
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from tests.core.exercises.distinguishing.benches import laboratory

REFERENCE = "SELECT name FROM huts WHERE beds > 20"


def test_a_query_that_was_halted_for_a_moment_is_asked_again_with_more_time(
    engine: SQLiteEngine, monkeypatch: pytest.MonkeyPatch
) -> None:
    bench = laboratory(engine, "huts", REFERENCE).bench
    made = bench.first_made(1)[0]
    bench.scratch.fill(made.rows)
    allowed: list[float] = []
    run = bench.scratch.run

    def halting(sql, limits):
        allowed.append(limits.seconds)
        # Whoever allows no more time than before is halted once more.
        return (
            run(sql, limits)
            if limits.seconds > 2 * allowed[0]
            else failed("stopped", "limit.time", "")
        )

    monkeypatch.setattr(bench.scratch, "run", halting)
    assert bench.is_right(bench.run(REFERENCE), made.due)
    assert len(allowed) == 2
    # What the engine rejects is rejected, once.
    allowed.clear()
    monkeypatch.setattr(bench.scratch, "run", lambda *asked: allowed.append(0) or run(*asked))
    assert bench.run("SELECT nothing FROM huts") is None
    assert len(allowed) == 1
