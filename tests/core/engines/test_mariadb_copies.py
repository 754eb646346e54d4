"""Learners' own copies on a MariaDB server, which does each change of a table for good."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from uuid import uuid4

import pymysql
import pytest
from pymysql.connections import Connection

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.mariadb import private_copy
from jentrow.core.engines.mariadb.connection import asked, connected
from jentrow.core.engines.mariadb.datasets import before
from jentrow.core.engines.mariadb.engine import MariaDBEngine, mariadb_address
from jentrow.core.engines.mariadb.private_copy import _alone
from jentrow.core.engines.protocol import QueryFailure
from jentrow.core.errors import EngineUnavailable, UnusableInput
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
    CREATE TABLE piers (pier CHAR(2) PRIMARY KEY, opened DATE, lit BOOLEAN DEFAULT TRUE);
    CREATE TABLE rings (
        ring INT AUTO_INCREMENT PRIMARY KEY, pier CHAR(2) NOT NULL, load_kg DECIMAL(7, 1),
        load_t DECIMAL(7, 4) AS (load_kg / 1000) STORED, note VARCHAR(9) DEFAULT 'none',
        CHECK (load_kg > 0), UNIQUE KEY one_each (pier, load_kg),
        FOREIGN KEY (pier) REFERENCES piers (pier)
    );
    INSERT INTO piers VALUES ('N1', '2019-05-01', TRUE), ('S1', NULL, FALSE);
    INSERT INTO rings (ring, pier, load_kg) VALUES (7, 'N1', 250), (8, 'N1', NULL), (9, 'S1', 80.5);
    CREATE VIEW heavy AS SELECT * FROM rings WHERE load_kg > 100;
    CREATE VIEW a_few AS SELECT pier FROM heavy;
"""


PIERS = DatasetSource("piers", KEYS, keep_rows=True)


@pytest.fixture(scope="module")
def server() -> Iterator[MariaDBEngine]:
    running = MariaDBEngine(mariadb_address(os.environ["JENTROW_MARIADB_URL"]), workers=2)
    yield running
    running.close()


@pytest.fixture
def administrator(server: MariaDBEngine) -> Iterator[Connection[Any]]:
    address = server._address
    db = connected(address, user=address.user, password=address.password)
    yield db
    db.close()


@pytest.fixture
def copy(server: MariaDBEngine, tmp_path: Path) -> Iterator[Path]:
    with copied(server, PIERS, tmp_path) as path:
        yield path


@pytest.fixture(scope="module")
def standing(server: MariaDBEngine, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Standing]:
    with left_standing(server, PIERS, tmp_path_factory.mktemp("standing")) as found:
        yield found


def server_name(copy: Path) -> str:
    return str(json.loads(copy.read_text())["name"])


def left_of(db: Connection[Any], name: str) -> int:
    """How many databases, logins and notes there are of a copy."""
    ((found,),) = asked(
        db,
        "SELECT (SELECT COUNT(*) FROM information_schema.schemata WHERE schema_name IN (%s, %s)) "
        "+ (SELECT COUNT(*) FROM mysql.user WHERE user = %s) "
        "+ (SELECT COUNT(*) FROM jentrow.datasets WHERE name = %s)",
        name, before(name), name, name,
    )  # fmt: skip
    return int(found)


def test_everything_of_a_schema_may_be_changed_in_the_engines_own_words(
    server: MariaDBEngine, copy: Path
) -> None:
    done = changed(
        server,
        copy,
        "ALTER TABLE rings ADD COLUMN state ENUM('firm', 'loose') DEFAULT 'firm', MODIFY note TEXT;\n"
        "INSERT INTO rings (pier, load_kg) VALUES ('N1', 12.5) RETURNING ring, load_t;\n"
        "SELECT LAST_INSERT_ID() AS ring;\n"
        "UPDATE rings SET state = 'firm' WHERE pier = 'N1';\n"
        "REPLACE INTO piers VALUES ('W1', NULL, NULL);\n"
        "INSERT INTO piers (pier) VALUES ('W1') ON DUPLICATE KEY UPDATE lit = TRUE;\n"
        "CREATE OR REPLACE VIEW lit AS SELECT pier FROM piers WHERE lit;\n"
        "CREATE UNIQUE INDEX by_day ON piers (opened, pier); DROP INDEX by_day ON piers;\n"
        "CREATE TABLE few AS SELECT pier FROM piers WHERE lit; TRUNCATE few;\n"
        "RENAME TABLE few TO none_left; DROP VIEW a_few;\n"
        "WITH n AS (SELECT COUNT(*) AS n FROM rings) SELECT n FROM n",
    )
    assert [one.changed for one in done] == [0, 1, 0, 3, 1, 2, 0, 0, 0, 0, 0, 0, 0, 0]
    shown = [[list(row) for row in one.result.rows] for one in done if one.result]
    assert shown[1:] == [[[10]], [[4]]]
    tables = {one.table.name: one for one in server.copy_tables(copy)}
    assert {name: one.rows for name, one in tables.items()} == {
        "heavy": None, "lit": None, "none_left": 0, "piers": 3, "rings": 4,
    }  # fmt: skip
    rings = tables["rings"].table
    assert [key.table for key in rings.foreign_keys] == ["piers"]
    assert rings.uniques == (("pier", "load_kg"),)
    assert (rings.column("load_t").generated or "").replace(" ", "") == "`load_kg`/1000"
    assert [one for one in rings.checks if "load_kg" in one]
    assert rows_of(server, copy, "piers")[2] == ["W1", None, 1]


@pytest.mark.parametrize(
    "change",
    [
        "DROP VIEW a_few; DROP VIEW heavy; DROP TABLE rings; DROP TABLE piers",
        "ALTER TABLE rings DROP COLUMN load_t; INSERT INTO rings VALUES (99, 'N1', 5, 'new')",
        "TRUNCATE rings; CREATE TABLE hooks (a INT); ALTER TABLE piers ADD COLUMN deep INT",
        "CREATE TABLE kept (a INT) ENGINE=MyISAM; INSERT INTO kept VALUES (1)",
        "INSERT INTO rings (pier, load_kg) VALUES ('S1', 1); DELETE FROM piers WHERE pier = 'X'",
    ],
)
def test_a_script_that_fails_leaves_all_as_it_was(
    server: MariaDBEngine, copy: Path, change: str
) -> None:
    refused(server, copy, f"{change}; SELECT * FROM nothing")
    refused(server, copy, f"{change}; WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) "
            "SELECT MAX(i) FROM n", seconds=0.5)  # fmt: skip
    done = changed(
        server, copy, "INSERT INTO rings (pier) VALUES ('S1'); SELECT COUNT(*) FROM a_few"
    )
    assert done[1].result is not None
    assert [list(row) for row in done[1].result.rows] == [[1]]


def test_what_a_script_left_that_was_ended_is_made_good(server: MariaDBEngine, copy: Path) -> None:
    was = all_of(server, copy)
    name = server_name(copy)
    with _alone(server._address.reading, name) as saved:
        saved.save()
        asked(saved.db, "DROP VIEW a_few")
        asked(saved.db, "DROP TABLE rings")
    # Nobody has undone it: its process is no more.
    assert all_of(server, copy) == was
    with _alone(server._address.reading, name) as saved:
        saved.save()
        saved.forget()
        asked(saved.db, "DELETE FROM rings")
    assert len(rows_of(server, copy, "rings")) == 0


def test_a_copy_that_somebody_else_is_at_is_not_called_gone(
    server: MariaDBEngine, copy: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    reading, name = server._address.reading, server_name(copy)
    # The server gives a lock back when it notices that its session ended: that is waited for before
    # and after, and only in between is nothing.
    with _alone(reading, name), monkeypatch.context() as impatient:
        impatient.setattr(private_copy, "WAITING_SECONDS", 0)
        for look in (
            lambda: private_copy.run_on_copy(reading, name, "DELETE FROM rings", Limits(), ROOM),
            lambda: private_copy.copy_tables(reading, name),
        ):
            with pytest.raises(EngineUnavailable, match="still at work on your copy"):
                look()
    assert len(rows_of(server, copy, "rings")) == 3


@pytest.mark.parametrize(
    "script",
    [
        "SET max_statement_time = 0",
        "SET GLOBAL general_log = 1",
        "SELECT @@datadir",
        "SELECT @a := 1",
        "SELECT * FROM piers INTO OUTFILE '/tmp/piers'",
        "SELECT COUNT(*) FROM piers INTO @a",
        "LOAD DATA LOCAL INFILE '/etc/passwd' INTO TABLE piers",
        "SELECT LOAD_FILE('/etc/passwd')",
        "CREATE FUNCTION f() RETURNS INT RETURN 1",
        "CREATE TRIGGER t BEFORE INSERT ON piers FOR EACH ROW SET NEW.lit = 1",
        "CREATE DEFINER=root@localhost VIEW v AS SELECT 1",
        "CREATE EVENT e ON SCHEDULE EVERY 1 DAY DO DELETE FROM piers",
        "CREATE TEMPORARY TABLE passing (a INT)",
        "CREATE TABLE kept (a INT) ENGINE = MyISAM",
        "ALTER TABLE piers ENGINE Aria",
        "CREATE DATABASE other",
        "CREATE USER other",
        "DROP DATABASE jentrow",
        "GRANT ALL ON *.* TO other",
        "USE mysql",
        "SELECT * FROM mysql.user",
        "SELECT * FROM information_schema.processlist",
        "DELETE FROM jentrow.datasets",
        "CREATE TABLE jentrow.mine (a INT)",
        "RENAME TABLE piers TO jentrow.piers",
        "LOCK TABLES piers WRITE",
        "SELECT GET_LOCK('a', 1)",
        "SELECT SLEEP(60)",
        "PREPARE p FROM 'SELECT 1'",
        "EXECUTE IMMEDIATE 'DROP TABLE piers'",
        "CALL f()",
        "DO SLEEP(5)",
        "KILL 1",
        "FLUSH TABLES",
        "/*!50000 SET max_statement_time = 0 */",
        "SELECT 1 /*M! , SLEEP(5) */ AS a",
        "XA START 'a'",
        "CREATE TABLE t (a INT) DATA DIRECTORY='/tmp'",
        "ALTER TABLE rings DATA DIRECTORY '/tmp'",
        "CREATE TABLE t (a INT) PARTITION BY HASH (a) (PARTITION p0 DATA DIRECTORY='/tmp')",
    ],
)
def test_nothing_but_the_copy_is_in_reach(
    server: MariaDBEngine, standing: Standing, script: str
) -> None:
    found = refused(server, standing, script)
    assert found.verdict in ("refused", "error"), found
    assert "Nothing was changed" in found.message or "no statement" in found.message


def test_one_copy_knows_nothing_of_another_and_none_of_the_datasets(
    server: MariaDBEngine, copy: Path, tmp_path: Path
) -> None:
    other = tmp_path / "others" / "copy"
    other.parent.mkdir()
    server.make_copy(HARBOUR, other)
    loaded = server.load(HARBOUR)
    for name in (server_name(other), loaded.location, before(server_name(copy))):
        for script in (f"SELECT * FROM {name}.boats", f"DELETE FROM `{name}`.boats"):
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


def test_the_login_of_a_copy_reaches_no_further_than_its_policy(
    server: MariaDBEngine, copy: Path
) -> None:
    name = server_name(copy)
    with _alone(server._address.reading, name) as saved:
        for sql in (
            "SELECT * FROM mysql.user", "CREATE DATABASE jentrow_other", "CREATE USER other",
            "CREATE FUNCTION f() RETURNS INT RETURN 1", "SELECT * FROM jentrow.datasets",
            f"CREATE TRIGGER t BEFORE INSERT ON {name}.piers FOR EACH ROW SET NEW.lit = 1",
            "SET GLOBAL max_statement_time = 1", "SELECT 1 INTO OUTFILE '/tmp/jentrow-one'",
        ):  # fmt: skip
            with pytest.raises(pymysql.Error):
                asked(saved.db, sql)


@pytest.mark.parametrize("before", ["", "SET sql_mode = 'NO_AUTO_VALUE_ON_ZERO'; "])
@pytest.mark.parametrize(
    "where",
    [
        "DATA DIRECTORY='{}'",
        "PARTITION BY HASH (a) PARTITIONS 1 (PARTITION p0 DATA DIRECTORY='{}')",
    ],
)
def test_a_sample_makes_its_files_where_the_server_has_all_others(
    server: MariaDBEngine, where: str, before: str
) -> None:
    # Where all may write, so that the server would find no reason not to.
    with TemporaryDirectory(prefix="elsewhere-") as folder:
        Path(folder).chmod(0o777)
        script = f"{before}CREATE TABLE t (a INT) {where.format(folder)}"
        server.load(DatasetSource("elsewhere", script, keep_rows=True))
        assert list(Path(folder).iterdir()) == []


def test_a_sample_does_nothing_by_itself(
    server: MariaDBEngine, administrator: Connection[Any]
) -> None:
    script = """
        CREATE TABLE tides (tide INT);
        CREATE EVENT ebb ON SCHEDULE EVERY 1 SECOND DO DELETE FROM tides;
        CREATE OR REPLACE DEFINER=`root`@`localhost` EVENT flood ON SCHEDULE EVERY 1 DAY DO SELECT 1;
        DROP EVENT IF EXISTS ebb;
        INSERT INTO tides VALUES (1);
    """
    loaded = server.load(DatasetSource("tides", f"{script} -- {uuid4()}", keep_rows=True))
    assert loaded.table_rows == (("tides", 1),)
    found = asked(
        administrator,
        "SELECT event_name FROM information_schema.events WHERE event_schema = %s",
        loaded.location,
    )
    assert found == []


def test_a_dropped_copy_leaves_nothing(
    server: MariaDBEngine, administrator: Connection[Any], copy: Path, tmp_path: Path
) -> None:
    other = tmp_path / "other"
    server.make_copy(HARBOUR, other)
    name = server_name(other)
    assert left_of(administrator, name) == 4
    kept = other.read_text()
    server.drop_copy(other)
    assert left_of(administrator, name) == 0
    assert not other.exists()
    other.write_text(kept)
    found = server.change(other, "SELECT 1", Limits(), ROOM)
    assert isinstance(found, QueryFailure)
    assert "is gone" in found.message
    other.unlink()
    assert left_of(administrator, server_name(copy)) == 4


@pytest.mark.parametrize(
    ("script", "said"),
    [
        ("INSERT INTO piers VALUES ('N1', NULL, TRUE)", "pier must differ from row to row"),
        ("INSERT INTO rings (pier, load_kg) VALUES ('N1', 250)", "pier, load_kg must differ"),
        ("INSERT INTO rings (load_kg) VALUES (5)", "pier needs a value"),
        ("UPDATE rings SET load_kg = -1", "breaks the rule that the table makes: `load_kg` > 0"),
        ("INSERT INTO rings (pier) VALUES ('X9')", "refer to a row of piers that is not there"),
        ("DELETE FROM piers", "Rows of rings still refer to a row"),
        ("TRUNCATE piers", "TRUNCATE cannot empty what rings refers to"),
        ("DROP TABLE piers", "A foreign key of another table refers to it"),
        ("INSERT INTO piers VALUES ('N1234', NULL, TRUE)", "longer than pier takes"),
        ("INSERT INTO piers VALUES ('N2', NULL, TRUE, 5)", "a value for each of its columns"),
        ("INSERT INTO piers VALUES ('N2', 'soon', TRUE)", "soon"),
        ("INSERT INTO rings (pier, load_kg) VALUES ('N1', 12345678)", "too large or too small for load_kg"),
        ("INSERT INTO rings (pier, load_t) VALUES ('N1', 1)", "load_t is worked out from other columns"),
        ("DROP VIEW piers", "There is no view piers"),
        ("DROP VIEW nothing", "There is no view nothing"),
        ("ALTER TABLE rings DROP COLUMN nothing", "There is no column nothing"),
        ("DROP INDEX nothing ON rings", "There is no index nothing"),
        ("CREATE INDEX one_each ON rings (pier)", "something called one_each already"),
        ("CREATE INDEX i ON rings (nothing)", "The table has no column nothing"),
        ("ALTER TABLE piers ADD PRIMARY KEY (opened)", "has a primary key already"),
        ("CREATE TABLE hooks (a INT, FOREIGN KEY (a) REFERENCES piers (pier))", "column by column"),
        ("CREATE TABLE hooks (a INT AUTO_INCREMENT)", "that one is a key"),
        ("CREATE TABLE hooks (a TEXT PRIMARY KEY)", "how much of it counts"),
        ("CREATE VIEW v AS SELECT COUNT(*) AS n FROM piers; DELETE FROM v", "v is a view"),
        ("UPDATE nothing SET a = 1", "nothing"),
    ],
)  # fmt: skip
def test_what_mariadb_rejects_of_changes_is_said_in_a_learners_words(
    server: MariaDBEngine, copy: Path, script: str, said: str
) -> None:
    found = refused(server, copy, script)
    assert said in found.message, found
    assert "jentrow_" not in found.message
    assert "The engine says" not in found.message


def test_a_server_that_is_slow_is_no_broken_copy(
    server: MariaDBEngine, copy: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    reading, name = server._address.reading, server_name(copy)

    def held_up(db: Connection[Any], database: str) -> None:
        asked(db, "SELECT SLEEP(60)")  # is interrupted when the time is over

    with monkeypatch.context() as patched:
        patched.setattr(private_copy, "LOOKING_SECONDS", 0.2)
        patched.setattr(private_copy, "schema_of", held_up)
        with pytest.raises(UnusableInput, match="look again in a moment"):
            private_copy.copy_rows(reading, name, "piers", 0, 10)
    assert private_copy.copy_rows(reading, name, "piers", 0, 10)
