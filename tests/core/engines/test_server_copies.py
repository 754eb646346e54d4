"""Learners' own copies on a PostgreSQL server: what is in reach there, and what stays of them."""

from __future__ import annotations

import json
import os
import time
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.postgresql import private_copy
from jentrow.core.engines.postgresql.connection import connected
from jentrow.core.engines.postgresql.engine import PostgreSQLEngine, postgresql_address
from jentrow.core.engines.protocol import QueryFailure
from jentrow.core.engines.servers.engine import KEPT_DAYS, NOTED_SECONDS
from jentrow.core.errors import UnusableInput
from jentrow.core.samples.sources import DatasetSource
from tests.core.engines.test_copies import (
    HARBOUR,
    ROOM,
    Standing,
    all_of,
    changed,
    copied,
    left_standing,
    refused,
    rows_of,
)

KEYS = """
    CREATE TABLE piers (pier char(2) PRIMARY KEY, opened date, lit boolean DEFAULT true);
    CREATE TABLE rings (
        ring serial PRIMARY KEY, pier char(2) NOT NULL
            REFERENCES piers ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
        load_kg numeric(7, 1) CHECK (load_kg > 0), seen timestamptz, tags text[]
    );
    INSERT INTO piers VALUES ('N1', '2019-05-01', true), ('S1', NULL, false);
    INSERT INTO rings (pier, load_kg) VALUES ('N1', 250), ('N1', NULL), ('S1', 80.5);
"""


PIERS = DatasetSource("piers", KEYS, keep_rows=True)


@pytest.fixture(scope="module")
def server() -> Iterator[PostgreSQLEngine]:
    running = PostgreSQLEngine(postgresql_address(os.environ["JENTROW_POSTGRESQL_URL"]), workers=2)
    yield running
    running.close()


@pytest.fixture
def administrator(server: PostgreSQLEngine) -> Iterator[psycopg.Connection]:
    address = server._address
    db = connected(address, user=address.user, password=address.password)
    yield db
    db.close()


@pytest.fixture
def copy(server: PostgreSQLEngine, tmp_path: Path) -> Iterator[Path]:
    with copied(server, PIERS, tmp_path) as path:
        yield path


@pytest.fixture(scope="module")
def standing(
    server: PostgreSQLEngine, tmp_path_factory: pytest.TempPathFactory
) -> Iterator[Standing]:
    with left_standing(server, PIERS, tmp_path_factory.mktemp("standing")) as found:
        yield found


def names(administrator: psycopg.Connection, copy: Path) -> tuple[int, int, int]:
    """How many schemas, logins and notes a copy has on the server."""
    name = server_name(copy)
    found = administrator.execute(
        "SELECT (SELECT count(*) FROM pg_namespace WHERE nspname = %(name)s), "
        "(SELECT count(*) FROM pg_roles WHERE rolname = %(name)s), "
        "(SELECT count(*) FROM jentrow.datasets WHERE name = %(name)s)",
        {"name": name},
    ).fetchone()
    assert found is not None
    return int(found[0]), int(found[1]), int(found[2])


def server_name(copy: Path) -> str:
    return str(json.loads(copy.read_text())["name"])


def test_everything_of_a_schema_may_be_changed_in_the_engines_own_words(
    server: PostgreSQLEngine, copy: Path
) -> None:
    done = changed(
        server,
        copy,
        "CREATE UNIQUE INDEX one_each ON rings (pier, ring);\n"
        "CREATE TYPE state AS ENUM ('firm', 'loose'); ALTER TABLE rings ADD state state;\n"
        "INSERT INTO rings (pier, load_kg, tags) VALUES ('N1', 12.5, ARRAY['new', '50 %']);\n"
        "UPDATE rings SET load_kg = load_kg * 2 WHERE load_kg IS NOT NULL RETURNING ring, load_kg;\n"
        "ALTER TABLE piers ADD COLUMN depth_m real DEFAULT 3;\n"
        "CREATE OR REPLACE VIEW lit AS SELECT pier FROM piers WHERE lit;\n"
        "CREATE MATERIALIZED VIEW loads AS SELECT pier, sum(load_kg) FROM rings GROUP BY pier;\n"
        "CREATE SEQUENCE numbers START 40; SELECT nextval('numbers');\n"
        "SELECT pier INTO few FROM piers WHERE lit; TRUNCATE few;\n"
        "WITH gone AS (DELETE FROM rings WHERE load_kg IS NULL RETURNING ring) SELECT count(*) FROM gone;\n"
        "WITH gone AS (DELETE FROM piers WHERE pier = 'S1' RETURNING pier) INSERT INTO few SELECT pier FROM gone;",
    )
    assert [one.changed for one in done] == [0, 0, 0, 1, 3, 0, 0, 0, 0, 0, 0, 0, 1, 1]
    shown = [[list(row) for row in one.result.rows] for one in done if one.result]
    assert [len(rows) for rows in shown] == [3, 1, 1]
    tables = {one.table.name: one for one in server.copy_tables(copy)}
    assert {name: one.rows for name, one in tables.items()} == {
        "piers": 1, "rings": 2, "lit": None, "loads": None, "few": 1,
    }  # fmt: skip
    (key,) = tables["rings"].table.foreign_keys
    assert (key.columns, key.table, key.to, key.on_delete) == (
        ("pier",), "piers", ("pier",), "CASCADE",
    )  # fmt: skip
    assert rows_of(server, copy, "few") == [["S1"]]


def test_what_is_looked_at_at_the_end_undoes_all_of_it(
    server: PostgreSQLEngine, copy: Path
) -> None:
    late = "INSERT INTO rings (pier) VALUES ('X9'); SELECT 1"
    found = refused(server, copy, late)
    assert "rings_pier_fkey" in found.engine_words
    changed(server, copy, "INSERT INTO rings (pier) VALUES ('X9'); INSERT INTO piers VALUES ('X9')")
    waiting = refused(
        server, copy, "INSERT INTO rings (pier) VALUES ('N1'); ALTER TABLE rings ADD note text"
    )
    assert "put it first" in waiting.message


@pytest.mark.parametrize(
    "script",
    [
        "SET statement_timeout = 0",
        "SET search_path = public",
        "RESET ALL",
        "SELECT set_config('statement_timeout', '0', false)",
        "SELECT current_setting('data_directory')",
        "COPY piers TO '/tmp/piers'",
        "COPY piers FROM PROGRAM 'id'",
        "CREATE FUNCTION f() RETURNS int LANGUAGE sql AS 'SELECT 1'",
        "DO $$ BEGIN PERFORM pg_sleep(60); END $$",
        "SELECT pg_sleep(60)",
        "SELECT pg_read_file('/etc/passwd')",
        "CREATE TABLE stolen AS SELECT * FROM pg_stat_activity",
        "CREATE VIEW seen AS SELECT * FROM pg_roles",
        "CREATE TRIGGER t AFTER INSERT ON piers EXECUTE FUNCTION f()",
        "CREATE RULE r AS ON INSERT TO piers DO INSTEAD NOTHING",
        "CREATE EXTENSION dblink",
        "CREATE SCHEMA other",
        "CREATE ROLE other",
        "CREATE TEMPORARY TABLE passing (a int)",
        "ALTER TABLE piers OWNER TO postgres",
        "ALTER ROLE CURRENT_USER SET statement_timeout = 0",
        "ALTER DEFAULT PRIVILEGES GRANT ALL ON TABLES TO PUBLIC",
        "GRANT ALL ON piers TO PUBLIC",
        "LOCK TABLE piers",
        "VACUUM FULL",
        "PREPARE p AS SELECT 1",
        "LISTEN news",
        "CALL f()",
        "CREATE TABLE public.mine (a int)",
        "CREATE TABLE jentrow.mine (a int)",
        "DELETE FROM jentrow.datasets",
        "SELECT * FROM jentrow.datasets",
        'SELECT 1 AS a, 2 AS U&"\\0070g_roles"',
        "SELECT lo_import('/etc/passwd')",
        "DROP SCHEMA jentrow CASCADE",
    ],
)
def test_nothing_but_the_copy_is_in_reach(
    server: PostgreSQLEngine, standing: Standing, script: str
) -> None:
    found = refused(server, standing, script)
    assert found.verdict in ("refused", "error"), found
    assert "Nothing was changed" in found.message


def test_one_copy_knows_nothing_of_another_and_none_of_the_datasets(
    server: PostgreSQLEngine, copy: Path, tmp_path: Path
) -> None:
    other = tmp_path / "others" / "copy"
    other.parent.mkdir()
    server.make_copy(HARBOUR, other)
    loaded = server.load(HARBOUR)
    for schema in (server_name(other), loaded.location):
        for script in (f"SELECT * FROM {schema}.boats", f"DELETE FROM {schema}.boats"):
            found = server.change(copy, script, Limits(), ROOM)
            assert isinstance(found, QueryFailure)
            assert (
                found.message
                == "Something in this statement is not allowed here. Nothing was changed."
            )
    changed(server, other, "DROP VIEW long_boats; DROP TABLE boats; DROP TABLE berths")
    assert server.copy_tables(other) == []
    counted = server.run(loaded, "SELECT COUNT(*) FROM boats", Limits())
    assert not isinstance(counted, QueryFailure)
    assert [tuple(row) for row in counted.rows] == [(3,)]
    server.drop_copy(other)


def test_a_dropped_copy_leaves_nothing_and_a_used_one_stays(
    server: PostgreSQLEngine, administrator: psycopg.Connection, copy: Path, tmp_path: Path
) -> None:
    assert names(administrator, copy) == (1, 1, 1)

    def used(copy: Path, days_ago: int) -> None:
        administrator.execute(
            "UPDATE jentrow.datasets SET used_at = now() - make_interval(days => %s) WHERE name = %s",
            (days_ago, server_name(copy)),
        )

    def is_noted(copy: Path) -> bool:
        found = administrator.execute(
            "SELECT used_at > now() - interval '1 hour' FROM jentrow.datasets WHERE name = %s",
            (server_name(copy),),
        ).fetchone()
        return found == (True,)

    used(copy, KEPT_DAYS - 1)
    changed(server, copy, "DELETE FROM rings")
    assert not is_noted(copy), "once a day is enough"
    before = time.time() - NOTED_SECONDS - 10
    os.utime(copy, (before, before))
    changed(server, copy, "DELETE FROM rings")
    assert is_noted(copy)
    other, third = tmp_path / "other", tmp_path / "third"
    server.make_copy(HARBOUR, other)
    used(other, KEPT_DAYS + 1)
    for _ in range(20):
        server.make_copy(HARBOUR, third)  # which deletes what nobody uses, unless another is at it
        if names(administrator, other) == (0, 0, 0):
            break
        server.drop_copy(third)
    assert names(administrator, other) == (0, 0, 0)
    assert names(administrator, copy) == (1, 1, 1)
    found = server.change(other, "SELECT 1", Limits(), ROOM)
    assert isinstance(found, QueryFailure)
    assert "is gone" in found.message
    server.drop_copy(other)
    kept = third.read_text()
    server.drop_copy(third)
    assert not third.exists()
    third.write_text(kept)
    assert names(administrator, third) == (0, 0, 0)


def test_the_room_of_deleted_rows_is_given_back(
    server: PostgreSQLEngine, administrator: psycopg.Connection, copy: Path
) -> None:
    room = server.copy_bytes(copy) + (256 << 10)
    many = "INSERT INTO rings (pier, tags) SELECT 'N1', ARRAY[repeat(i::text, 9)] FROM generate_series(1, 40000) AS i"
    for _ in range(3):
        full = refused(server, copy, many, room=room, seconds=20.0)
        assert "is full" in full.message
    size = administrator.execute(
        "SELECT sum(pg_total_relation_size(oid)) FROM pg_class "
        "WHERE relnamespace = %s::regnamespace AND relkind = 'r'",
        (server_name(copy),),
    ).fetchone()
    assert size is not None
    assert size[0] < 4 * room
    few = many.replace("40000", "10")
    assert isinstance(server.change(copy, few, Limits(), room), list)
    assert len(all_of(server, copy)) == 2


@pytest.mark.parametrize(
    ("script", "said"),
    [
        (
            "INSERT INTO rings (pier) VALUES ('X9')",
            "refer to a row of piers that is not there: none has pier X9",
        ),
        ("DROP TABLE piers", "piers cannot go while something else rests on it"),
        ("DROP VIEW piers", "piers is no view"),
        ("DROP INDEX nothing", "There is no index nothing"),
        ("ALTER TABLE rings DROP CONSTRAINT nothing", "There is no constraint nothing"),
        ("INSERT INTO piers VALUES ('N1234', NULL, true)", "longer than character(2) takes"),
        ("INSERT INTO piers VALUES ('N2', NULL, true, 5)", "a value for each of its columns"),
        ("ALTER TABLE rings ALTER load_kg TYPE boolean", "cannot become boolean by themselves"),
        ("ALTER TABLE rings ALTER load_kg SET NOT NULL", "load_kg needs a value"),
        ("CREATE UNIQUE INDEX u ON rings (pier)", "pier must differ from row to row"),
        (
            "CREATE TABLE hooks (pier char(2) REFERENCES piers); INSERT INTO hooks VALUES ('S1');"
            "DELETE FROM piers",
            "Rows of hooks still refer to the row with pier S1",
        ),
        (
            "CREATE TABLE sums (a int, b int GENERATED ALWAYS AS (a * 2) STORED);"
            "INSERT INTO sums VALUES (1, 2)",
            "b is worked out from other columns",
        ),
        ("CREATE VIEW v AS SELECT count(*) AS n FROM piers; DELETE FROM v", "v is a view"),
    ],
)
def test_what_postgresql_rejects_of_changes_is_said_in_a_learners_words(
    server: PostgreSQLEngine, copy: Path, script: str, said: str
) -> None:
    found = refused(server, copy, script)
    assert said in found.message


def test_a_table_that_is_held_up_is_no_broken_copy(
    server: PostgreSQLEngine,
    administrator: psycopg.Connection,
    copy: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    name = json.loads(copy.read_text())["name"]
    monkeypatch.setattr(private_copy, "LOOKING_SECONDS", 0.2)
    with administrator.transaction():
        administrator.execute(f'LOCK TABLE "{name}".piers IN ACCESS EXCLUSIVE MODE')
        with pytest.raises(UnusableInput, match="look again in a moment"):
            private_copy.copy_rows(server._address.reading, name, "piers", 0, 10)
    assert private_copy.copy_rows(server._address.reading, name, "piers", 0, 10)
