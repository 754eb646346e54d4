"""Scratch databases: made-up rows come and go, queries see these and no others."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest

from jentrow.core.engines.duckdb.engine import DuckDBEngine
from jentrow.core.engines.duckdb.room import DuckDBRoom
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.scratch import Scratch
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.engines.sqlite.room import SQLiteRoom
from jentrow.core.samples.sources import DatasetSource, read_sample
from jentrow.core.values import Interval
from tests.demo_course import DEMO

HUTS = (
    (1, "Ried", "North", 2000, 20),
    (2, "Kell", "South", 1500, 30),
)
STAYS = ((1, 2, "Gant", "2026-03-01", 3, None, None),)
LIMITS = Limits(seconds=0.5)


@pytest.fixture(scope="module", params=["sqlite", "duckdb"])
def scratch(request: pytest.FixtureRequest) -> Iterator[Scratch]:
    engine, room = {
        "sqlite": (SQLiteEngine, SQLiteRoom), "duckdb": (DuckDBEngine, DuckDBRoom),
    }[request.param]  # fmt: skip
    running = engine(workers=1)
    loaded = running.load(read_sample(DEMO / "samples" / "huts").open)
    yield room().scratch(loaded.location)
    running.close()


def rows(scratch: Scratch, sql: str) -> Any:
    answer = scratch.run(sql, LIMITS)
    return [tuple(row) for row in answer[2]] if answer[0] == "rows" else answer[2]


def test_it_knows_the_schema_with_every_constraint(scratch: Scratch) -> None:
    tables = {one.name: one for one in scratch.schema}
    assert set(tables) == {"huts", "trails", "wardens", "stays"}
    assert tables["huts"].primary_key == ("hut_id",)
    assert tables["huts"].uniques == (("name",),)
    (key,) = tables["stays"].foreign_keys
    assert (key.columns, key.table, key.to) == (("hut_id",), "huts", ("hut_id",))
    assert tables["stays"].column("guest").not_null
    assert not tables["stays"].column("paid_on").not_null


def test_rows_come_and_go(scratch: Scratch) -> None:
    assert scratch.fill({"huts": HUTS, "stays": STAYS})
    assert rows(scratch, "SELECT name FROM huts ORDER BY hut_id") == [("Ried",), ("Kell",)]
    joined = "SELECT h.name, s.nights FROM stays s JOIN huts h ON h.hut_id = s.hut_id"
    assert rows(scratch, joined) == [("Kell", 3)]
    assert scratch.fill({"huts": HUTS[:1]})
    assert rows(scratch, "SELECT (SELECT COUNT(*) FROM huts), COUNT(*) FROM stays") == [(1, 0)]


def test_backwards_rows_that_nobody_sorts_come_in_another_sequence(scratch: Scratch) -> None:
    scratch.fill({"huts": HUTS})
    forwards = rows(scratch, "SELECT name FROM huts")
    scratch.fill({"huts": HUTS}, backwards=True)
    assert rows(scratch, "SELECT name FROM huts") == forwards[::-1]
    assert rows(scratch, "SELECT name FROM huts ORDER BY name") == [("Kell",), ("Ried",)]


@pytest.mark.parametrize(
    "sql", ["SELECT nme FROM huts", "SELECT name FROM", "SELECT CAST('x' AS INTEGER) / 0 FROM huts"]
)
def test_a_query_that_fails_takes_no_rows_along(scratch: Scratch, sql: str) -> None:
    scratch.fill({"huts": HUTS})
    scratch.run(sql, LIMITS)
    assert rows(scratch, "SELECT COUNT(*) FROM huts") == [(2,)]


def test_rows_that_break_a_key_are_refused(scratch: Scratch) -> None:
    assert not scratch.fill({"huts": (HUTS[0], (1, "Moor", "East", 1, 1))})
    assert scratch.fill({"huts": HUTS})


def test_checks_are_asked_beforehand(scratch: Scratch) -> None:
    table = next(one for one in scratch.schema if one.name == "huts")
    assert scratch.allows(table, HUTS[0])
    assert not scratch.allows(table, (3, "Moor", "East", 1800, 0))


def test_nothing_but_queries_runs(scratch: Scratch) -> None:
    scratch.fill({"huts": HUTS})
    for sql in ("DELETE FROM huts", "DROP TABLE huts", "SELECT 1; SELECT 2"):
        assert scratch.run(sql, LIMITS)[0] != "rows"
    assert rows(scratch, "SELECT COUNT(*) FROM huts") == [(2,)]


def test_a_query_without_an_end_is_stopped(scratch: Scratch) -> None:
    endless = "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT max(i) FROM n"
    scratch.fill({"huts": HUTS})
    assert scratch.run(endless, Limits(seconds=0.02))[1] == "stopped"
    assert rows(scratch, "SELECT COUNT(*) FROM huts") == [(2,)]


def test_intervals_keep_their_months_on_duckdb() -> None:
    running = DuckDBEngine(workers=1)
    script = "CREATE TABLE leases (hut TEXT, runs INTERVAL);"
    loaded = running.load(DatasetSource("open", script, keep_rows=True))
    one = DuckDBRoom().scratch(loaded.location)
    running.close()
    assert one is not None
    given = Interval(14, -1, 5_000_000), Interval(0, 0, -500_000)
    assert one.fill({"leases": [("Ried", given[0]), ("Kell", given[1]), ("Ost", None)]})
    # The sequence is the query's own, comments and all.
    sorting = "SELECT runs, hut FROM leases ORDER BY hut DESC; -- longest first"
    found = rows(one, sorting)
    assert found == [(given[0], "Ried"), (None, "Ost"), (given[1], "Kell")]
    assert found[0][0].months == 14
    assert found[0][0].whole_days == -1
    assert rows(one, "VALUES (INTERVAL 1 YEAR)") == [(Interval(12, 0, 0),)]
    assert one.run("SELECT runs FROM lease", LIMITS)[0] != "rows"
