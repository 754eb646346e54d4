"""Learners' own copies, on each engine that keeps them: changed, looked at, and bounded."""

from __future__ import annotations

import re
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, NamedTuple

import apsw
import pytest

from jentrow.core.engines.labels import KEEPING_COPIES
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, QueryFailure, StatementDone
from jentrow.core.errors import UnusableInput
from jentrow.core.samples.sources import DatasetSource
from jentrow.services.runtime.engines import engine_named

ROOM = 4 << 20
SCHEMA = """
    CREATE TABLE boats (
        boat_id INTEGER PRIMARY KEY, name VARCHAR(20) NOT NULL UNIQUE, length_m DECIMAL(5, 2),
        CHECK (length_m > 0)
    );
    CREATE TABLE berths (berth VARCHAR(4) PRIMARY KEY, boat_id INTEGER);
    CREATE VIEW long_boats AS SELECT name FROM boats WHERE length_m > 10;
    INSERT INTO boats VALUES (1, 'Auk', 9.5), (2, 'Tern', 12.25), (3, 'Gull', NULL);
    INSERT INTO berths VALUES ('A1', 1), ('A2', 2), ('B1', NULL);
"""


HARBOUR = DatasetSource("harbour", SCHEMA, keep_rows=True)


@pytest.fixture(scope="module", params=KEEPING_COPIES)
def keeping(request: pytest.FixtureRequest) -> Iterator[Engine]:
    running = engine_named(request.param, workers=2)
    yield running
    running.close()


@contextmanager
def copied(engine: Engine, source: DatasetSource, folder: Path) -> Iterator[Path]:
    """A copy in a folder of its own, for the time of the context."""
    path = folder / "copy"
    engine.make_copy(source, path)
    yield path
    engine.drop_copy(path)
    assert not path.exists()


@pytest.fixture
def copy(keeping: Engine, tmp_path: Path) -> Iterator[Path]:
    with copied(keeping, HARBOUR, tmp_path) as path:
        yield path


class Standing(NamedTuple):
    """A copy for scripts of which nothing is done: each finds it as the last one did."""

    path: Path
    held: list[tuple[Any, Any]]


@contextmanager
def left_standing(engine: Engine, source: DatasetSource, folder: Path) -> Iterator[Standing]:
    with copied(engine, source, folder) as path:
        yield Standing(path, all_of(engine, path))


@pytest.fixture(scope="module")
def standing(keeping: Engine, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Standing]:
    with left_standing(keeping, HARBOUR, tmp_path_factory.mktemp("standing")) as found:
        yield found


def changed(engine: Engine, copy: Path, script: str, **limits: Any) -> list[StatementDone]:
    found = engine.change(copy, script, Limits(**limits), ROOM)
    assert isinstance(found, list), found
    return found


def refused(
    engine: Engine, where: Path | Standing, script: str, room: int = ROOM, **limits: Any
) -> QueryFailure:
    copy, before = where if isinstance(where, Standing) else (where, all_of(engine, where))
    found = engine.change(copy, script, Limits(**limits), room)
    assert isinstance(found, QueryFailure), found
    assert all_of(engine, copy) == before, "nothing was changed"
    assert [one.name for one in copy.parent.iterdir()] == [copy.name], "nothing is left behind"
    return found


def all_of(engine: Engine, copy: Path) -> list[tuple[Any, Any]]:
    return [
        (one, engine.copy_rows(copy, one.table.name, 0, 1_000)) for one in engine.copy_tables(copy)
    ]


def rows_of(engine: Engine, copy: Path, table: str) -> list[list[Any]]:
    found = engine.copy_rows(copy, table, 0, 50)
    assert found is not None
    assert found[1] == len(found[0])
    return found[0]


def test_statements_say_what_they_did(keeping: Engine, copy: Path) -> None:
    done = changed(
        keeping,
        copy,
        "INSERT INTO boats VALUES (4, 'Skua', 7), (5, 'Knot', 8);\n"
        "UPDATE boats SET length_m = 10 WHERE boat_id > 3;\n"
        "DELETE FROM berths WHERE boat_id IS NULL RETURNING berth;\n"
        "CREATE TABLE moorings (buoy INTEGER);\n"
        "ALTER TABLE moorings ADD COLUMN depth_m INTEGER;\n"
        "SELECT name FROM boats WHERE length_m = 10 ORDER BY name;\n"
        "SELECT name, boat_id FROM boats WHERE boat_id > 99",
    )
    assert [one.changed for one in done] == [2, 2, 1, 0, 0, 0, 0]
    shown = [one.result.rows if one.result else None for one in done]
    assert [shown[at] for at in (0, 1, 3, 4)] == [None] * 4
    assert list(map(list, shown[2] or ())) == [["B1"]]
    assert list(map(list, shown[5] or ())) == [["Knot"], ["Skua"]]
    assert [one.sql.split()[0] for one in done] == [
        "INSERT", "UPDATE", "DELETE", "CREATE", "ALTER", "SELECT", "SELECT",
    ]  # fmt: skip
    nothing = done[6].result
    assert nothing is not None
    assert ([one.name for one in nothing.columns], nothing.rows) == (["name", "boat_id"], [])


def test_a_copy_is_looked_at_with_its_keys(keeping: Engine, copy: Path) -> None:
    changed(keeping, copy, "DROP VIEW long_boats; CREATE VIEW all_boats AS SELECT name FROM boats")
    tables = {one.table.name: one for one in keeping.copy_tables(copy)}
    assert {name: one.rows for name, one in tables.items()} == {
        "boats": 3, "berths": 3, "all_boats": None,
    }  # fmt: skip
    boats = tables["boats"].table
    assert [one.name for one in boats.columns] == ["boat_id", "name", "length_m"]
    assert boats.columns[1].not_null
    assert boats.columns[2].type.replace(" ", "") in (
        "DECIMAL(5,2)",
        "numeric(5,2)",
        "decimal(5,2)",
    )
    assert (boats.primary_key, boats.uniques) == (("boat_id",), (("name",),))
    assert len(boats.checks) == 1
    assert [row[:2] for row in rows_of(keeping, copy, "boats")] == [
        [1, "Auk"],
        [2, "Tern"],
        [3, "Gull"],
    ]
    assert keeping.copy_rows(copy, "boats", 1, 1) == ([rows_of(keeping, copy, "boats")[1]], 3)
    assert keeping.copy_rows(copy, "nowhere", 0, 9) is None
    assert keeping.copy_rows(copy, "all_boats", 0, 9) is None, "a view is not run unasked"


@pytest.mark.parametrize(
    ("script", "said"),
    [
        ("BEGIN; DELETE FROM boats; COMMIT", "one transaction already"),
        ("DELETE FROM boats; ROLLBACK", "Statement 2: .*by the statements before it neither"),
        ("PRAGMA table_info('boats')", "not allowed|Settings"),
        ("ATTACH 'other.db' AS other", "Only this copy"),
        ("INSERT INTO boats VALUES (1, 'Auk', 1)", "Nothing was changed"),
        ("DELETE FROM boats; INSERT INTO boats VALUES (6, NULL, 1)", "Statement 2: "),
        ("DELETE FROM boots", "boots"),
        ("SELECT lenght_m FROM boats", "lenght_m"),
        ("  -- nothing", "no statement"),
        ("INSERT INTO boats VALUES (1, 'Rail', 5)", "boat_id must differ from row to row"),
        ("INSERT INTO boats VALUES (9, 'Auk', 5)", "name must differ from row to row"),
        ("INSERT INTO boats VALUES (9, NULL, 5)", "name needs a value: it must not be NULL"),
        ("INSERT INTO boats VALUES (9, 'Rail', -5)", "breaks the rule that the table makes"),
        ("CREATE TABLE boats (a INTEGER)", "There is (a table|something called) boats already"),
        ("CREATE VIEW boats AS SELECT 1 AS a", "There is (a table|something called) boats already"),
        ("CREATE TABLE moorings (a INTEGER, a INTEGER)", "Two columns are called a"),
        ("ALTER TABLE boats ADD COLUMN name INTEGER", "Two columns are called name"),
        ("DROP TABLE boots", "boots"),
        ("UPDATE boats SET lenght_m = 1", "lenght_m"),
        ("INSERT INTO boats (boat_id, nam) VALUES (9, 'Rail')", "nam"),
    ],
)
def test_nothing_is_done_of_a_script_that_fails(
    keeping: Engine, standing: Standing, script: str, said: str
) -> None:
    found = refused(keeping, standing, script)
    assert re.search(said, found.message), found.message
    assert "The engine says" not in found.message


def test_the_place_of_a_mistake_is_one_in_the_script(keeping: Engine, copy: Path) -> None:
    found = refused(keeping, copy, "DELETE FROM berths;\nSELECT name,\n  lenght_m FROM boats")
    assert found.place is not None
    assert (found.place.line, found.place.column) == (3, 3)


@pytest.mark.parametrize(
    "script",
    [
        "COPY boats TO 'boats.csv'",
        "COPY boats FROM '/etc/passwd'",
        "SET threads = 8",
        "SET memory_limit = '8GB'",
        "INSTALL json",
        "LOAD json",
        "EXPORT DATABASE 'out'",
        "CREATE SECRET s (TYPE s3)",
        "CREATE TABLE stolen AS SELECT * FROM read_csv('/etc/passwd')",
        "INSERT INTO berths SELECT content, 1 FROM read_text('/etc/passwd')",
        "CREATE TABLE stolen AS SELECT * FROM '/etc/passwd'",
        "CREATE VIEW seen AS SELECT current_setting('memory_limit') AS one",
        "CALL pragma_version()",
        "CHECKPOINT",
        "EXPLAIN SELECT 1",
        "ATTACH '/tmp/x.db'",
    ],
)
@pytest.mark.parametrize("keeping", ["duckdb"], indirect=True)
def test_nothing_but_the_copy_is_in_reach_of_duckdb(
    keeping: Engine, standing: Standing, script: str
) -> None:
    found = refused(keeping, standing, script)
    assert found.verdict in ("refused", "error"), found


def test_a_copy_has_bounds(keeping: Engine, copy: Path) -> None:
    endless = (
        "CREATE TABLE many AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) "
        "SELECT i FROM n"
    )
    stopped = refused(keeping, copy, endless, seconds=0.2)
    assert (stopped.verdict, stopped.code) in (
        ("stopped", "limit.time"),
        ("stopped", "limit.memory"),
    )
    counted = "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 60000) "
    full = refused(
        keeping,
        copy,
        f"CREATE TABLE many AS {counted} SELECT i, CONCAT('hull ', i * 7919, '-', i * 10477) AS t FROM n",
        room=keeping.copy_bytes(copy) + (64 << 10),
        seconds=20.0,
    )
    assert "is full" in full.message
    rows = refused(keeping, copy, f"{counted} SELECT i FROM n", rows=100)
    assert rows.code == "limit.rows"


def test_one_script_after_the_other_finds_what_the_last_one_did(
    keeping: Engine, copy: Path
) -> None:
    # Whichever process is asked: the workers share nothing but the file.
    for at in range(6):
        changed(keeping, copy, f"INSERT INTO berths VALUES ('C{at}', NULL)")
    assert len(rows_of(keeping, copy, "berths")) == 9
    looks: list[int] = []
    threads = [
        threading.Thread(target=lambda: looks.append(len(rows_of(keeping, copy, "berths"))))
        for _ in range(4)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert looks == [9] * 4


def test_what_is_no_copy_is_told_in_a_line(keeping: Engine, tmp_path: Path) -> None:
    spoilt = tmp_path / "copy"
    spoilt.write_bytes(b"no database" * 1_000)
    with pytest.raises(UnusableInput, match="begin again with a new one"):
        keeping.copy_tables(spoilt)
    found = keeping.change(tmp_path / "gone", "SELECT 1", Limits(), ROOM)
    assert isinstance(found, QueryFailure)
    assert "is gone" in found.message


def test_huge_values_of_a_copy_are_cut(tmp_path: Path) -> None:
    running = engine_named("sqlite", workers=1)
    path = tmp_path / "copy.db"
    db = apsw.Connection(str(path))
    db.execute(
        "CREATE TABLE t (a, big AS (hex(zeroblob(2000000)))); INSERT INTO t (a) VALUES (1), (2);"
        "CREATE VIEW v AS SELECT hex(zeroblob(400000000))"
    )
    db.close()
    found = [(one.table.name, one.rows) for one in running.copy_tables(path)]
    assert found == [("t", 2), ("v", None)]
    page = running.copy_rows(path, "t", 0, 10)
    assert page is not None
    rows, count = page
    assert (count, rows[0][1]["length"], len(rows[0][1]["cut"])) == (2, 4_000_000, 2_000)
    assert running.copy_rows(path, "v", 0, 10) is None
    running.close()
