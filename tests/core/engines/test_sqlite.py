"""The SQLite engine with real worker processes: what it gives, rejects, refuses and stops."""

from __future__ import annotations

import os
import shutil
import signal
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import LoadedDataset, QueryFailure
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.errors import EngineInterrupted, InvalidSample
from jentrow.core.processes.workers import Worker
from jentrow.core.results import ResultSet
from jentrow.core.samples.sources import DatasetSource, read_dataset
from jentrow.core.values import to_json

TIGHT = Limits(seconds=0.2, rows=1000, memory_mb=64)
ENDLESS = "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) "
A_LOT = "replace(hex(zeroblob({})), '0', '{}')"
HANGS = f"SELECT like('%' || {A_LOT.format(10_000, 'a')} || 'b', {A_LOT.format(4_000_000, 'a')})"


def rows_of(engine: SQLiteEngine, dataset: LoadedDataset, sql: str) -> list[Any]:
    outcome = engine.run(dataset, sql, Limits())
    assert isinstance(outcome, ResultSet), outcome
    return list(outcome.rows)


def failure(
    engine: SQLiteEngine, dataset: LoadedDataset, sql: str, limits: Limits = TIGHT
) -> QueryFailure:
    outcome = engine.run(dataset, sql, limits)
    assert isinstance(outcome, QueryFailure), outcome
    return outcome


@pytest.mark.parametrize(
    ("sql", "rows"),
    [
        (
            "SELECT 9007199254740993, x'00ff', 1.5, NULL, 'a'",
            [(2**53 + 1, b"\x00\xff", 1.5, None, "a")],
        ),
        ("VALUES (1), (2)", [(1,), (2,)]),
        ("\ufeffSELECT 1", [(1,)]),
        ("-- before\n/* and before */ SELECT 1; -- after\n;;", [(1,)]),
        ("; ; SELECT 1", [(1,)]),
        ("SELECT\r\n1\r\n", [(1,)]),
        ('SELECT "name" FROM "huts" WHERE [hut_id] = 1', [("Silberhorn",)]),
        ("SELECT name FROM huts WHERE 1 = 0", []),
        (
            "WITH RECURSIVE n(i) AS (VALUES (1) UNION ALL SELECT i + 1 FROM n WHERE i < 9) SELECT COUNT(*) FROM n",
            [(9,)],
        ),
        ("SELECT COUNT(*) FROM (SELECT 1 AS one FROM huts)", [(12,)]),
        ("SELECT name FROM pragma_table_info('trails') LIMIT 1", [("from_hut",)]),
        ("SELECT COUNT(*) FROM sqlite_schema WHERE type = 'table'", [(4,)]),
        ("SELECT value FROM json_each('[7]')", [(7,)]),
        ("SELECT " + "+".join(["1"] * 900), [(900,)]),
        (
            "SELECT COUNT(*) FROM huts WHERE hut_id IN (" + ",".join(map(str, range(9000))) + ")",
            [(12,)],
        ),
        ("SELECT * FROM " + "(SELECT * FROM " * 40 + "(SELECT 1)" + ")" * 40, [(1,)]),
    ],
)
def test_reading_queries_run(
    engine: SQLiteEngine, huts: LoadedDataset, sql: str, rows: list[Any]
) -> None:
    assert rows_of(engine, huts, sql) == rows


def test_an_empty_result_has_its_columns(engine: SQLiteEngine, huts: LoadedDataset) -> None:
    outcome = engine.run(huts, "SELECT name, COUNT(*) AS n FROM huts WHERE 0 GROUP BY 1", Limits())
    assert isinstance(outcome, ResultSet)
    assert (outcome.names, list(outcome.rows)) == (("name", "n"), [])


def test_values_survive_all_the_way_to_json(engine: SQLiteEngine, huts: LoadedDataset) -> None:
    sql = "SELECT 9223372036854775807, -9007199254740992, 12, x'00ff', 2.0, 2.5, 9e999, NULL, ''"
    (row,) = rows_of(engine, huts, sql)
    assert [to_json(value) for value in row] == [
        {"integer": "9223372036854775807"},
        {"integer": "-9007199254740992"},
        12,
        {"blob": "00ff"},
        {"float": "2.0"},
        2.5,
        {"float": "Infinity"},
        None,
        "",
    ]


@pytest.mark.parametrize(
    ("sql", "code", "words", "place"),
    [
        ("", "sql.syntax", "no query", None),
        (" -- nothing\n;", "sql.syntax", "no query", None),
        ("SELCT 1", "sql.syntax", "'SELCT'", (1, 1)),
        ("SELECT name\nFROM hutts", "sql.object", "Did you mean huts?", (2, 6)),
        ("SELECT name\xa0FROM huts", "sql.object", "no-break space (U+00A0) after name", (1, 12)),
        ("SELECT\u200b name FROM huts", "sql.syntax", "zero width space", (1, 7)),
        ("\u2060SELECT 'a\xa0b'", "sql.syntax", "word joiner (U+2060) at the beginning", (1, 1)),
        ("SELECT name FROM huts\u3000", "sql.object", "ideographic space", (1, 22)),
        ("SELECT nane, '\xa0' FROM huts -- \xa0", "sql.object", "Did you mean name?", (1, 8)),
        ("SELECT nane FROM huts", "sql.object", "Did you mean name?", (1, 8)),
        ("SELECT nights FROM huts", "sql.object", "column of stays", (1, 8)),
        ("SELECT h.nights FROM huts h, stays s", "sql.object", "h has no column nights", (1, 8)),
        ("SELECT 'é', hut_id FROM huts, stays", "sql.object", "ambiguous", (1, 13)),
        (
            'SELECT name FROM huts WHERE region = "North"',
            "sql.object",
            "single quotes: 'North'",
            (1, 38),
        ),
        ("SELECT NVL(name, '') FROM huts", "sql.object", "COALESCE", (1, 8)),
        ("SELECT YEAR(arrival) FROM stays", "sql.object", "STRFTIME", (1, 8)),
        ("SELECT SUBSTR(name) FROM huts", "sql.object", "number of arguments", (1, 8)),
        ("SELECT TOP 3 name FROM huts", "sql.syntax", "LIMIT", (1, 12)),
        ("SELECT name FROM huts FETCH FIRST 3 ROWS ONLY", "sql.syntax", "LIMIT", None),
        ("SELECT name FROM huts MINUS SELECT name FROM huts", "sql.syntax", "EXCEPT", None),
        ("SELECT EXTRACT(year FROM arrival) FROM stays", "sql.syntax", "STRFTIME", None),
        ("SELECT name FROM huts ORDER BY name WHERE 1", "sql.syntax", "wrong place", (1, 37)),
        ("SELECT SUM(IF(1, 2) FROM huts", "sql.syntax", "1 closing parenthesis", (1, 21)),
        ("SELECT (1", "sql.syntax", "1 closing parenthesis", None),
        ("SELECT 'abc", "sql.syntax", "never closed", (1, 8)),
        ("SELECT 1 UNION SELECT 1, 2", "sql.runtime", "same number of columns", None),
        ("SELECT name FROM huts WHERE COUNT(*) > 1", "sql.runtime", "HAVING", (1, 29)),
        ("SELECT 1 ORDER BY 1 UNION SELECT 2", "sql.runtime", "after the last", None),
        ("SELECT 1 AS a UNION SELECT 2 ORDER BY b", "sql.runtime", "sort key", None),
        ("SELECT name FROM huts ORDER BY 2", "sql.runtime", "outside the select list", None),
        ("SELECT (SELECT 1, 2)", "sql.runtime", "2 columns where 1 is due", None),
        ("SELECT ROW_NUMBER() FROM huts", "sql.runtime", "OVER", None),
        ("SELECT ABS(-9223372036854775808)", "sql.runtime", "whole number", None),
        ("SELECT CAST(x'ff' AS TEXT)", "sql.runtime", "not UTF-8", None),
        ("SELECT " + "+".join(["1"] * 5000), "sql.runtime", "nested too deep", None),
    ],
)
def test_rejections_say_what_is_wrong_and_where(
    engine: SQLiteEngine,
    huts: LoadedDataset,
    sql: str,
    code: str,
    words: str,
    place: tuple[int, int] | None,
) -> None:
    found = failure(engine, huts, sql)
    assert (found.verdict, found.code) == ("error", code), found
    assert words in found.message
    if place is not None:
        assert found.place is not None
        assert (found.place.line, found.place.column) == place


@pytest.mark.parametrize(
    "sql",
    [
        "INSERT INTO huts VALUES (99, 'x', 'x', 1, 1)",
        "DELETE FROM nowhere",
        "WITH x AS (SELECT 1) DELETE FROM huts",
        "DROP TABLE huts",
        "CREATE TABLE x (a)",
        "CREATE TEMP TABLE x AS SELECT 1",
        "PRAGMA query_only = off",
        "ATTACH '/tmp/elsewhere.db' AS other",
        "VACUUM INTO '/tmp/elsewhere.db'",
        "EXPLAIN SELECT 1",
        "EXPLAIN QUERY PLAN SELECT 1",
        "BEGIN",
        "SELECT 1; SELECT 2",
        "SELECT 1; nonsense",
        "SHOW TABLES",
        "SELECT * FROM pragma_compile_options",
        "SELECT COUNT(*) FROM dbstat",
        "SELECT * FROM pragma_database_list",
        "SELECT 'a\0b'",
        "SELECT '\ud800'",
        "SELECT '" + "a" * 300_000 + "'",
    ],
)
def test_what_does_not_just_read_the_sample_is_refused(
    engine: SQLiteEngine, huts: LoadedDataset, sql: str
) -> None:
    found = failure(engine, huts, sql)
    assert (found.verdict, found.code) == ("refused", "policy.statement"), found


@pytest.mark.parametrize("name", ["load_extension", "sqlite_compileoption_get", "fts3_tokenizer"])
def test_functions_that_reach_outside_are_refused(
    engine: SQLiteEngine, huts: LoadedDataset, name: str
) -> None:
    found = failure(engine, huts, f"SELECT {name}(1)")
    if found.verdict == "error":  # this build of SQLite does not even have it
        assert found.code == "sql.object"
    else:
        assert (found.verdict, found.code) == ("refused", "policy.function")


@pytest.mark.parametrize(
    ("sql", "code"),
    [
        (ENDLESS + "SELECT COUNT(*) FROM n", "limit.time"),
        (ENDLESS + "SELECT i FROM n", "limit.rows"),
        ("SELECT zeroblob(500000000)", "limit.memory"),
        ("SELECT group_concat(hex(randomblob(500000)), '') FROM huts, trails", "limit.memory"),
        ("SELECT hex(zeroblob(2000000)) FROM huts, trails", "limit.memory"),
        (HANGS, "limit.time"),
    ],
)
def test_whatever_overruns_is_stopped(
    engine: SQLiteEngine, huts: LoadedDataset, sql: str, code: str
) -> None:
    found = failure(engine, huts, sql)
    assert (found.verdict, found.code) == ("stopped", code), found
    assert rows_of(engine, huts, "SELECT COUNT(*) FROM huts") == [(12,)]


def test_patience_stops_what_the_limits_would_allow(
    engine: SQLiteEngine, huts: LoadedDataset, tmp_path: Path
) -> None:
    allowed = Limits(seconds=600)
    hurried = replace(allowed, patience=0.2)
    found = engine.show(huts, HANGS, hurried, 10)
    assert isinstance(found, QueryFailure)
    assert found.code == "limit.time"
    copy = tmp_path / "copy.db"
    shutil.copyfile(huts.location, copy)
    script = f"DELETE FROM stays; {HANGS}"
    undone = engine.change(copy, script, hurried, 2**30)
    assert isinstance(undone, QueryFailure)
    assert undone.code == "limit.time"
    counted = engine.change(copy, "SELECT count(*) > 0 FROM stays", allowed, 2**30)
    assert not isinstance(counted, QueryFailure)
    assert counted[0].result is not None
    assert counted[0].result.rows[0][0] == 1


def test_one_query_that_hangs_costs_only_itself(engine: SQLiteEngine, huts: LoadedDataset) -> None:
    queries = [f"SELECT {at}" for at in range(40)]
    queries[13] = HANGS
    outcomes = dict(engine.run_many(huts, queries, replace(TIGHT, patience=0.4)))
    assert len(outcomes) == len(queries)
    hung = outcomes.pop(13)
    assert isinstance(hung, QueryFailure)
    assert hung.verdict == "stopped"
    assert all(one.rows == [(at,)] for at, one in outcomes.items())  # type: ignore[union-attr]


def test_a_worker_that_is_killed_is_replaced() -> None:
    running = SQLiteEngine(workers=1)
    try:
        dataset = running.load(DatasetSource("one", "CREATE TABLE t (a)", keep_rows=True))
        (worker,) = running._pool._idle
        os.kill(worker.pid, signal.SIGKILL)
        assert worker._has_ended(None)
        # It had died before it was asked: no query has to pay for that.
        assert rows_of(running, dataset, "SELECT 1") == [(1,)]
        (worker,) = running._pool._idle
        os.kill(worker.pid, signal.SIGKILL)
        outcomes = dict(running.run_many(dataset, ["SELECT 1", "SELECT 2"], Limits()))
        assert [outcomes[at].rows for at in range(2)] == [[(1,)], [(2,)]]  # type: ignore[union-attr]
    finally:
        running.close()


def test_a_death_of_workers_is_never_a_verdict(monkeypatch: pytest.MonkeyPatch) -> None:
    running = SQLiteEngine(workers=1)
    try:
        dataset = running.load(DatasetSource("one", "CREATE TABLE t (a)", keep_rows=True))
        killed: list[int] = []
        receive = Worker.receive

        def kill_first(worker: Worker, seconds: float) -> list[Any]:
            os.kill(worker.pid, signal.SIGKILL)
            killed.append(worker.pid)
            return receive(worker, seconds)

        monkeypatch.setattr(Worker, "receive", kill_first)
        with pytest.raises(EngineInterrupted, match="nothing is known of the query"):
            running.run(dataset, HANGS, Limits(seconds=60))
        monkeypatch.undo()
        assert len(set(killed)) == 2
        assert rows_of(running, dataset, "SELECT 2") == [(2,)]
    finally:
        running.close()


def test_a_verdict_by_steps_does_not_depend_on_the_clock(
    engine: SQLiteEngine, huts: LoadedDataset
) -> None:
    heavy = ENDLESS.replace("FROM n)", "FROM n WHERE i < {}) SELECT COUNT(*) FROM n")
    fits, overruns = heavy.format(20_000), heavy.format(2_000_000)
    for _ in range(3):
        assert isinstance(engine.run(huts, fits, TIGHT), ResultSet)
        assert failure(engine, huts, overruns).code == "limit.time"


def test_the_engine_carries_its_own_sqlite(engine: SQLiteEngine, huts: LoadedDataset) -> None:
    assert rows_of(engine, huts, "SELECT sqlite_version()") == [(engine.version,)]


@pytest.mark.parametrize(
    ("schema", "words"),
    [
        ("CREATE TABLE t (a", "incomplete input"),
        ("CREATE TABLE t (a);\nINSERT INTO u VALUES (1)", "no such table: u"),
        ("ATTACH '/tmp/x.db' AS x", "not authorized"),
        (
            "CREATE TABLE t (a); "
            + ENDLESS.strip()
            + " INSERT INTO t SELECT i FROM n LIMIT 1 OFFSET 99999999999",
            "too long",
        ),
    ],
)
def test_a_schema_that_does_not_load_says_why(
    engine: SQLiteEngine, schema: str, words: str
) -> None:
    with pytest.raises(InvalidSample, match=words):
        engine.load(DatasetSource("broken", schema, keep_rows=True))


SCHEMA = (
    "CREATE TABLE gauges (name TEXT NOT NULL, level REAL); INSERT INTO gauges VALUES ('Auwehr', 1);"
)


@pytest.mark.parametrize(
    ("file", "text", "words"),
    [
        ("gauges.csv", "name,level\nBrugg,2,3\n", "line 2: 3 fields"),
        ("gauges.csv", "name,depth\nBrugg,2\n", "no column 'depth'"),
        ("gauges.csv", 'name,level\n"Brugg"x,2\n', "line 2: a quote out of place"),
        ("gauges.csv", "name,level\nBrugg,2\n,3\n", "line 3, name: NULL, where the table wants"),
        ("gauges.csv", "name,name\nBrugg,2\n", "a different name in every column"),
        ("gauges.csv", "", "empty"),
        ("rivers.csv", "name\nLind\n", "no table 'rivers'"),
    ],
)
def test_a_csv_file_that_does_not_fit_says_where(
    engine: SQLiteEngine, tmp_path: Path, file: str, text: str, words: str
) -> None:
    (tmp_path / file).write_text(text)
    with pytest.raises(InvalidSample, match=words):
        engine.load(read_dataset(tmp_path, SCHEMA))


def test_a_script_may_set_what_makes_no_difference(engine: SQLiteEngine) -> None:
    script = (
        "PRAGMA foreign_keys = OFF; PRAGMA journal_mode = WAL; BEGIN TRANSACTION;"
        "CREATE TABLE p (id INTEGER PRIMARY KEY); CREATE TABLE c (p REFERENCES p (id));"
        "INSERT INTO c VALUES (7); CREATE VIEW v AS SELECT p FROM c; COMMIT;"
    )
    dataset = engine.load(DatasetSource("dump", script, keep_rows=True))
    assert rows_of(engine, dataset, "SELECT p FROM v") == [(7,)]
    assert dict(dataset.columns) == {"p": ("id",), "c": ("p",), "v": ("p",)}


def test_csv_tells_null_from_empty_text(engine: SQLiteEngine, tmp_path: Path) -> None:
    (tmp_path / "gauges.csv").write_bytes(
        b'\xef\xbb\xbfname,level\r\n"",\r\n"two\r\nlines, ""quoted""",2\r\n'
    )
    dataset = engine.load(read_dataset(tmp_path, SCHEMA))
    assert rows_of(engine, dataset, "SELECT * FROM gauges") == [
        ("", None),
        ('two\nlines, "quoted"', 2.0),
    ]


def test_a_further_dataset_fills_what_it_fills_and_nothing_else(
    engine: SQLiteEngine, tmp_path: Path
) -> None:
    script = tmp_path / "more.sql"
    script.write_text("INSERT INTO gauges VALUES ('Brugg', 2);")
    dataset = engine.load(read_dataset(script, SCHEMA + " CREATE TABLE empty (a);"))
    assert rows_of(engine, dataset, "SELECT name FROM gauges") == [("Brugg",)]
    assert rows_of(engine, dataset, "SELECT * FROM empty") == []
    assert dict(dataset.table_rows) == {"gauges": 1, "empty": 0}
