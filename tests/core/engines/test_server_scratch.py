"""Made-up rows on a server: temporary tables of one connection, on PostgreSQL and MariaDB."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

import psycopg
import pytest

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.mariadb.connection import asked
from jentrow.core.engines.mariadb.connection import connected as to_mariadb
from jentrow.core.engines.postgresql.connection import connected as to_postgresql
from jentrow.core.engines.protocol import Engine
from jentrow.core.engines.rooms import Rooms
from jentrow.core.engines.servers.engine import ServerAddress
from jentrow.core.engines.servers.scratch import OPEN_SCRATCHES, ServerScratch
from jentrow.core.samples.sources import DatasetSource
from jentrow.services.runtime.engines import engine_named

SERVERS = ("postgresql", "mariadb")
ALL = {
    "postgresql": """
        CREATE TYPE state AS ENUM ('wild', 'calm');
        CREATE TABLE piers (
            pier integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY, name text NOT NULL, opened timestamptz,
            state state DEFAULT 'calm', tags text[], facts jsonb, walk interval, code uuid, stamp bytea,
            twice integer GENERATED ALWAYS AS (length(name) * 2) STORED
        );
        CREATE TABLE "Old Rings" (ring integer REFERENCES piers, load_kg numeric(7, 1) CHECK (load_kg > 0));
        INSERT INTO piers (name, opened, tags, facts, walk, code, stamp) VALUES ('North', now(), '{a}', '{"deep": 1.5}',
            '1 mon 2 days 03:00', '5b0c3f7e-2d41-4c8a-9f06-1e7a8d2b6c90', '\\x48af'), ('South', NULL, NULL, '[1]', NULL, NULL, NULL);
        INSERT INTO "Old Rings" VALUES (1, 5.5);
    """,
    "mariadb": """
        CREATE TABLE piers (
            pier INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(20) NOT NULL, opened DATETIME,
            state ENUM('wild', 'calm') DEFAULT 'calm', facts JSON, walk TIME, stamp BLOB,
            twice INT AS (LENGTH(name) * 2) STORED
        );
        CREATE TABLE `Old Rings` (ring INT REFERENCES piers (pier), load_kg DECIMAL(7, 1) CHECK (load_kg > 0));
        INSERT INTO piers (name, opened, facts, walk, stamp) VALUES ('North', NOW(), '{"deep": 1.5}', '36:00:00', x'48AF'),
            ('South', NULL, '[1]', NULL, NULL);
        INSERT INTO `Old Rings` VALUES (1, 5.5);
    """,
}  # fmt: skip


@pytest.fixture(scope="module", params=SERVERS)
def engine(request: pytest.FixtureRequest) -> Iterator[Engine]:
    running = engine_named(request.param, workers=1)
    yield running
    running.close()


@pytest.fixture
def administrator(engine: Any) -> Iterator[Any]:
    """Runs a statement as the administrator."""
    address: ServerAddress = engine._address
    connect = to_postgresql if engine.name == "postgresql" else to_mariadb
    with closing(connect(address, user=address.user, password=address.password)) as db:
        yield (db.execute if isinstance(db, psycopg.Connection) else lambda sql: asked(db, sql))


@pytest.fixture
def scratch_of(engine: Any) -> Iterator[Callable[[str], ServerScratch]]:
    """Opens the scratch databases of one process."""
    room = Rooms().get(engine.name, engine._address.reading.to_url())
    made: list[ServerScratch] = []

    def opened(script: str) -> ServerScratch:
        loaded = engine.load(DatasetSource("piers", script, keep_rows=True))
        found = room.scratch(loaded.location)
        assert isinstance(found, ServerScratch)
        made.append(found)
        return found

    yield opened
    for one in made:
        one.close()


@pytest.fixture
def scratch(engine: Engine, scratch_of: Callable[[str], ServerScratch]) -> ServerScratch:
    return scratch_of(ALL[engine.name])


def rows(scratch: ServerScratch, sql: str) -> list[Any]:
    answer = scratch.run(sql, Limits())
    assert answer[0] == "rows", answer
    return list(answer[2])


def test_rows_of_every_type_go_in_as_they_came_out(engine: Engine, scratch: ServerScratch) -> None:
    table = next(one for one in scratch.schema if one.name == "piers")
    names = ", ".join(one.name for one in table.writable)
    loaded = engine.load(DatasetSource("piers", ALL[engine.name], keep_rows=True))
    held = engine.run(loaded, f"SELECT {names} FROM piers ORDER BY pier", Limits()).rows  # type: ignore[union-attr]
    assert scratch.fill({"piers": held})
    assert rows(scratch, f"SELECT {names} FROM piers ORDER BY pier") == list(map(tuple, held))
    assert rows(scratch, "SELECT twice FROM piers") == [(10,), (10,)]
    assert scratch.fill({"piers": held[:1], "Old Rings": [(1, 7)]})
    quote = "`" if engine.name == "mariadb" else '"'
    assert rows(scratch, f"SELECT load_kg * 2 FROM {quote}Old Rings{quote}") == [(14,)]
    assert rows(scratch, "SELECT COUNT(*) FROM piers AS a JOIN piers AS b ON a.pier = b.pier") == [
        (1,)
    ]


def test_what_a_constraint_refuses_is_not_held(engine: Engine, scratch: ServerScratch) -> None:
    rings = next(one for one in scratch.schema if one.name == "Old Rings")
    assert scratch.allows(rings, (1, 2.5))
    assert not scratch.allows(rings, (1, -2.5))
    assert not scratch.fill({"Old Rings": [(1, -2.5)]})
    assert scratch.fill({"Old Rings": [(1, 2.5)]})
    piers = next(one for one in scratch.schema if one.name == "piers")
    state = [one.name for one in piers.writable].index("state")
    row: list[Any] = [None] * len(piers.writable)
    row[0], row[1], row[state] = 1, "North", "calm"
    assert scratch.allows(piers, tuple(row))
    row[state] = "odd"
    assert not scratch.allows(piers, tuple(row))


def test_nobody_else_sees_made_up_rows_and_no_query_writes_any(
    engine: Engine, scratch: ServerScratch
) -> None:
    script = ALL[engine.name]
    assert scratch.fill({"Old Rings": []})
    loaded = engine.load(DatasetSource("piers", script, keep_rows=True))
    quote = "`" if engine.name == "mariadb" else '"'
    count = f"SELECT COUNT(*) FROM {quote}Old Rings{quote}"
    assert engine.run(loaded, count, Limits()).rows == [(1,)]  # type: ignore[union-attr]
    for sql in (
        f"DELETE FROM {quote}Old Rings{quote}",
        "CREATE TEMPORARY TABLE more (a INT)",
        "SELECT pier INTO TEMPORARY few FROM piers",
        "SET SESSION sql_mode = ''",
        "BEGIN READ WRITE",
    ):
        assert scratch.run(sql, Limits())[0] != "rows", sql
    assert rows(scratch, count) == [(0,)]


def test_a_connection_that_breaks_is_made_anew_with_the_rows_that_were_held(
    engine: Engine, scratch: ServerScratch, administrator: Any
) -> None:
    assert scratch.fill({"Old Rings": [(1, 2.5)]})
    if engine.name == "postgresql":
        number = scratch._db.info.backend_pid  # type: ignore[attr-defined]
        administrator(f"SELECT pg_terminate_backend({number}, 5000)")
    else:
        number = scratch._db.thread_id()  # type: ignore[attr-defined]
        administrator(f"KILL CONNECTION {number}")
    quote = "`" if engine.name == "mariadb" else '"'
    assert rows(scratch, f"SELECT ring FROM {quote}Old Rings{quote}") == [(1,)]


def test_rows_that_nobody_waits_for_do_not_stand_in_the_way(
    engine: Engine, scratch: ServerScratch
) -> None:
    assert scratch.fill({"Old Rings": [(1, at) for at in range(1, 60)]})
    quote = "`" if engine.name == "mariadb" else '"'
    rings = f"{quote}Old Rings{quote}"
    many = f"SELECT a.ring FROM {rings} AS a, {rings} AS b, {rings} AS c"
    assert scratch.run(many, Limits(rows=100))[0] == "failed"
    assert rows(scratch, f"SELECT COUNT(*) FROM {rings}") == [(59,)]
    endless = (
        f"SELECT COUNT(*) FROM {rings} AS a, {rings} AS b, {rings} AS c, {rings} AS d, {rings} AS e"
    )
    assert scratch.run(endless, Limits(seconds=0.02))[0] == "failed"
    assert rows(scratch, f"SELECT COUNT(*) FROM {rings}") == [(59,)]


def test_few_connections_are_open_at_a_time(
    scratch_of: Callable[[str], ServerScratch],
) -> None:
    made = [
        scratch_of(f"CREATE TABLE t{at} (a INTEGER); INSERT INTO t{at} VALUES ({at});")
        for at in range(OPEN_SCRATCHES + 2)
    ]
    for at, one in enumerate(made):
        assert one.fill({f"t{at}": [(at,), (at + 1,)]})
    assert [one.is_open for one in made] == [False] * 2 + [True] * OPEN_SCRATCHES
    assert rows(made[0], "SELECT SUM(a) FROM t0") == [(1,)]


def test_where_no_temporary_table_may_be_made_there_is_no_scratch(
    engine: Any, administrator: Any, tmp_path: Path
) -> None:
    loaded = engine.load(DatasetSource("piers", f"CREATE TABLE {engine.name}_alone (a INTEGER);"))
    if engine.name == "postgresql":
        # As the printed script sets a database up: not everybody makes temporary tables in it.
        database = f'DATABASE "{engine._address.database}"'
        administrator(f"REVOKE TEMPORARY ON {database} FROM PUBLIC")
        administrator(f'REVOKE TEMPORARY ON {database} FROM "{loaded.location}"')
    else:
        name = loaded.location.replace("_", "\\_")
        administrator(f"REVOKE CREATE TEMPORARY TABLES ON `{name}`.* FROM '{loaded.location}'@'%'")
    room = Rooms().get(engine.name, engine._address.reading.to_url())
    assert room.scratch(loaded.location) is None
