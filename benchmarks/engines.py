"""Each engine beside its own driver: grading a thousand submissions, loading 43,000 rows.

The servers are those that the settings name, or that answer at the standard local addresses.
"""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory
from typing import Any
from uuid import uuid4

import duckdb
import psycopg
import pymysql

from jentrow.core.engines.mariadb.connection import connected_to_dataset
from jentrow.core.engines.mariadb.engine import mariadb_address
from jentrow.core.engines.postgresql import connection as postgresql
from jentrow.core.engines.postgresql.engine import postgresql_address
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.grader import Grader
from jentrow.core.samples.sources import DatasetSource, SampleSource, read_sample
from jentrow.services.runtime.engines import engine_named
from tests.servers import MARIADB, POSTGRESQL, name_local_servers

COUNT = 1_000
ROUNDS = 3
DEMO = Path(__file__).resolve().parents[1] / "demo"
READINGS = DEMO / "samples" / "gauges" / "open" / "readings.csv"

REFERENCE = (
    "SELECT h.name, COUNT(s.stay_id) AS stays, COALESCE(SUM(s.nights), 0) AS nights FROM huts h "
    "LEFT JOIN stays s ON s.hut_id = h.hut_id GROUP BY h.hut_id, h.name"
)
WORDINGS = (
    "SELECT h.name, COUNT(s.stay_id) AS stays, COALESCE(SUM(s.nights), 0) AS n{n} FROM huts h LEFT JOIN stays s ON s.hut_id = h.hut_id GROUP BY h.hut_id, h.name",
    "SELECT h.name, COUNT(*), SUM(s.nights) + {n} - {n} FROM huts h JOIN stays s ON s.hut_id = h.hut_id GROUP BY h.hut_id, h.name",
    "SELECT h.name, (SELECT COUNT(*) FROM stays s WHERE s.hut_id = h.hut_id AND {n} > 0), (SELECT COALESCE(SUM(nights), 0) FROM stays s WHERE s.hut_id = h.hut_id) FROM huts h",
    "WITH p AS (SELECT hut_id, COUNT(*) AS n, SUM(nights) AS t FROM stays GROUP BY hut_id) SELECT h.name, COALESCE(p.n, 0), COALESCE(p.t, {n} - {n}) FROM huts h LEFT JOIN p ON p.hut_id = h.hut_id",
)
MEANT = {"duckdb": 1.5, "postgresql": 2.0, "mariadb": 2.0}

SCHEMA = "CREATE TABLE readings (sensor_id INTEGER NOT NULL, taken_at TIMESTAMP NOT NULL, value DECIMAL(8,2), quality VARCHAR(12) NOT NULL, PRIMARY KEY (sensor_id, taken_at))"


def run() -> Iterator[str]:
    name_local_servers()
    for name in MEANT:
        for explained in (False, True):
            yield _graded(name, explained=explained)
    for name, loaded in (("duckdb", _duckdb), ("postgresql", _postgresql), ("mariadb", _mariadb)):
        yield _loaded(name, loaded)


def _plain(name: str, location: str) -> Callable[[str], Any]:
    """Runs and fetches a query in one open connection, as the same login."""
    if name == "duckdb":
        db = duckdb.connect(location, read_only=True, config={"threads": "1"})
        return lambda sql: db.execute(sql).fetchall()
    if name == "postgresql":
        address = postgresql_address(os.environ[POSTGRESQL]).reading
        server = postgresql.connected_to_dataset(address, location, f"-c search_path={location}")
        return lambda sql: server.execute(sql).fetchall()
    maria = connected_to_dataset(mariadb_address(os.environ[MARIADB]).reading, location)
    cursor = maria.cursor(pymysql.cursors.Cursor)

    def fetched(sql: str) -> Any:
        cursor.execute(sql)
        return cursor.fetchall()

    return fetched


def _graded(name: str, *, explained: bool) -> str:
    sample = read_sample(DEMO / "samples" / "huts")
    alone = SampleSource(sample.name, sample.datasets[:1])
    exercise = Exercise("nights", "", "", "huts", REFERENCE, name)
    queries = [WORDINGS[at % len(WORDINGS)].format(n=at + 1) for at in range(COUNT)]
    ratios = []
    for _ in range(ROUNDS):
        engine = engine_named(name)
        grader = Grader(engine, exercise, alone)
        grader = grader if explained else grader.unexplained()
        dict(grader.grade_many([f"SELECT {at}" for at in range(200)]))
        plain = _plain(name, grader.datasets[0].location)
        plain(queries[0])
        start = time.perf_counter()
        for sql in queries:
            plain(sql)
        alone_seconds = time.perf_counter() - start
        start = time.perf_counter()
        outcomes = dict(grader.grade_many(queries))
        ratios.append((time.perf_counter() - start) / alone_seconds)
        engine.close()
    assert {one.verdict for one in outcomes.values()} == {"correct", "incorrect"}
    shown = ", ".join(f"{ratio:.2f}" for ratio in sorted(ratios))
    what = "explained" if explained else "verdicts"
    return (
        f"{name}: grading {COUNT:,} different submissions, {what}: {shown} times running and fetching them in one "
        f"open connection, {alone_seconds / COUNT * 1e6:.0f} us each (meant: at most {MEANT[name]:g})"
    )


def _loaded(name: str, bulk: Callable[[], float]) -> str:
    ratios, seconds = [], []
    for _ in range(ROUNDS):
        engine = engine_named(name, workers=1)
        warm = DatasetSource("warm", f"CREATE TABLE t (a INTEGER) -- {uuid4()}", keep_rows=True)
        engine.load(warm)
        source = DatasetSource(
            "readings", f"{SCHEMA} -- {uuid4()}", tables=(("readings", READINGS),)
        )
        own = bulk()
        start = time.perf_counter()
        engine.load(source)
        seconds.append(time.perf_counter() - start)
        ratios.append(seconds[-1] / own)
        engine.close()
    shown = ", ".join(f"{ratio:.2f}" for ratio in sorted(ratios))
    return (
        f"{name}: loading 43,559 rows: {shown} times the engine's own bulk load, "
        f"{median(seconds) * 1000:.0f} ms (meant: at most 2)"
    )


def _duckdb() -> float:
    with TemporaryDirectory() as folder:
        start = time.perf_counter()
        with duckdb.connect(f"{folder}/bulk.duckdb") as db:
            db.execute(SCHEMA)
            db.execute(f"COPY readings FROM '{READINGS}' (HEADER true)")
        return time.perf_counter() - start


def _postgresql() -> float:
    name = f"bulk_{uuid4().hex}"
    with closing(psycopg.connect(os.environ[POSTGRESQL], autocommit=True)) as db:
        start = time.perf_counter()
        db.execute(f"CREATE SCHEMA {name}")
        db.execute(f"SET search_path = {name}")
        db.execute(SCHEMA)
        with (
            db.cursor() as cursor,
            cursor.copy("COPY readings FROM STDIN (FORMAT csv, HEADER)") as out,
        ):
            out.write(READINGS.read_bytes())
        db.execute("ANALYZE readings")
        taken = time.perf_counter() - start
        db.execute(f"DROP SCHEMA {name} CASCADE")
    return taken


def _mariadb() -> float:
    address = mariadb_address(os.environ[MARIADB])
    name = f"bulk_{uuid4().hex}"
    db = pymysql.connect(
        host=address.host, port=address.port, user=address.user, password=address.password,
        local_infile=True, autocommit=True,
    )  # fmt: skip
    with closing(db), db.cursor() as cursor:
        cursor.execute(f"CREATE DATABASE {name}")
        try:
            start = time.perf_counter()
            cursor.execute(f"USE {name}")
            cursor.execute(SCHEMA)
            cursor.execute(
                f"LOAD DATA LOCAL INFILE '{READINGS}' INTO TABLE readings FIELDS TERMINATED BY ',' "
                "OPTIONALLY ENCLOSED BY '\"' IGNORE 1 LINES (sensor_id, taken_at, @value, quality) "
                "SET value = NULLIF(@value, '')"
            )
            cursor.execute("ANALYZE TABLE readings")
            return time.perf_counter() - start
        finally:
            cursor.execute(f"DROP DATABASE {name}")
