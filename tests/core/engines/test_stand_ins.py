"""Dialects whose engines cannot run here: what is run in their place, and what is left undecided."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest

from jentrow.core.engines.labels import STAND_INS
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset, QueryFailure
from jentrow.core.exercises.exercise import Exercise, NamedQuery
from jentrow.core.exercises.expectations import expect
from jentrow.core.exercises.grading import Grader
from jentrow.core.results import ResultSet
from jentrow.core.samples.sources import DatasetSource, SampleSource
from jentrow.core.sql.stand_ins import stood_in
from jentrow.services.runtime.engines import engine_named

BUOYS = DatasetSource(
    "buoys",
    """
    CREATE TABLE buoys (buoy_id INTEGER PRIMARY KEY, name TEXT NOT NULL, bay TEXT, depth_m INTEGER);
    INSERT INTO buoys VALUES
        (1, 'Gull', 'North', 7), (2, 'gull', '', 4), (3, 'Tern', NULL, 9), (4, 'Auk', 'North', 4);
    """,
    keep_rows=True,
)


@pytest.fixture(scope="module")
def running() -> Iterator[dict[str, tuple[Engine, LoadedDataset]]]:
    engines = {name: engine_named(name, workers=1) for name in STAND_INS}
    yield {name: (one, one.load(BUOYS)) for name, one in engines.items()}
    for one in engines.values():
        one.close()


SAME: list[tuple[str, str, list[Any]]] = [
    ("tsql", "SELECT TOP 2 name FROM dbo.buoys ORDER BY depth_m DESC", [("Tern",), ("Gull",)]),
    ("tsql", "SELECT 7 / 2, 7 / 2.0", [(3, 3.5)]),
    ("tsql", "SELECT AVG(depth_m) FROM buoys WHERE buoy_id < 3", [(5,)]),
    ("tsql", "SELECT COUNT(*) FROM buoys WHERE name = 'GULL'", [(2,)]),
    ("tsql", "SELECT COUNT(DISTINCT name) FROM buoys", [(3,)]),
    ("tsql", "SELECT COUNT(*) FROM buoys WHERE name LIKE 'g%'", [(2,)]),
    ("tsql", "SELECT [name] + ' buoy' FROM buoys WHERE buoy_id = 3", [("Tern buoy",)]),
    ("tsql", "SELECT depth_m + 1 FROM buoys WHERE buoy_id = 3", [(10,)]),
    ("tsql", "SELECT ISNULL(bay, N'none') FROM buoys WHERE buoy_id = 3", [("none",)]),
    ("tsql", "SELECT TOP 1 bay FROM buoys ORDER BY bay", [(None,)]),
    (
        "tsql",
        "SELECT name FROM buoys ORDER BY buoy_id OFFSET 1 ROWS FETCH NEXT 2 ROWS ONLY",
        [("gull",), ("Tern",)],
    ),
    ("oracle", "SELECT 7 / 2 FROM dual", [(3.5,)]),
    ("oracle", "SELECT COUNT(*) FROM buoys WHERE bay IS NULL", [(2,)]),
    ("oracle", "SELECT COUNT(*) FROM buoys WHERE bay = ''", [(0,)]),
    ("oracle", "SELECT name || bay FROM buoys WHERE buoy_id = 3", [("Tern",)]),
    ("oracle", "SELECT NVL(bay, 'none') FROM buoys WHERE buoy_id = 2", [("none",)]),
    (
        "oracle",
        "SELECT DECODE(depth_m, 9, 'deep', 'flat') FROM buoys WHERE buoy_id = 3",
        [("deep",)],
    ),
    ("oracle", "SELECT COUNT(*) FROM (SELECT name FROM buoys WHERE ROWNUM <= 3)", [(3,)]),
    (
        "oracle",
        "SELECT name FROM (SELECT name FROM buoys ORDER BY depth_m DESC) WHERE ROWNUM <= 2",
        [("Tern",), ("Gull",)],
    ),
    (
        "oracle",
        "SELECT name FROM buoys MINUS SELECT name FROM buoys WHERE buoy_id > 1",
        [("Gull",)],
    ),
    ("oracle", "SELECT bay FROM buoys ORDER BY bay FETCH FIRST 1 ROW ONLY", [("North",)]),
    ("db2", "SELECT 7 / 2 FROM SYSIBM.SYSDUMMY1", [(3,)]),
    ("db2", "SELECT name FROM buoys ORDER BY depth_m DESC FETCH FIRST 1 ROWS ONLY", [("Tern",)]),
    ("db2", "SELECT COUNT(*) FROM buoys WHERE bay = ''", [(1,)]),
]


@pytest.mark.parametrize(("name", "sql", "rows"), SAME, ids=[f"{a} {b}" for a, b, _ in SAME])
def test_what_is_the_same(
    running: dict[str, tuple[Engine, LoadedDataset]], name: str, sql: str, rows: list[Any]
) -> None:
    engine, buoys = running[name]
    outcome = engine.run(buoys, sql, Limits())
    assert isinstance(outcome, ResultSet), outcome
    assert list(outcome.rows) == rows
    assert not stood_in(engine.dialect, sql, buoys.texts).notes


@pytest.mark.parametrize(
    ("name", "sql", "note"),
    [
        ("tsql", "SELECT TOP 10 PERCENT name FROM buoys", "PERCENT"),
        ("tsql", "SELECT TOP 1 WITH TIES name FROM buoys ORDER BY depth_m", "WITH TIES"),
        ("tsql", "SELECT name FROM buoys WHERE name LIKE '[A-G]%'", "set of letters"),
        ("tsql", "SELECT CAST(name AS VARCHAR(2)) FROM buoys", "cut off"),
        ("tsql", "SELECT AVG(depth_m) OVER (ORDER BY buoy_id) FROM buoys", "OVER"),
        ("oracle", "SELECT ROWNUM, name FROM buoys", "ROWNUM"),
        ("oracle", "SELECT name FROM buoys WHERE ROWNUM <= 1 ORDER BY depth_m", "ROWNUM"),
        ("oracle", "SELECT a.name FROM buoys a, buoys b WHERE a.buoy_id = b.buoy_id (+)", "(+)"),
    ],
)
def test_what_is_not_kept_is_noted(name: str, sql: str, note: str) -> None:
    made = stood_in(name, sql)
    assert any(note in one for one in made.notes), made


@pytest.mark.parametrize(
    ("name", "sql", "code", "words"),
    [
        ("tsql", "SELECT name FROM buoys LIMIT 1", "sql.syntax", "LIMIT"),
        ("tsql", "SELECT nmae FROM buoys", "sql.object", "Did you mean name?"),
        ("tsql", "SELECT 1 / 0", "sql.runtime", "divided by zero"),
        ("tsql", "SELECT name, COUNT(*) FROM buoys", "sql.runtime", "GROUP BY"),
        ("oracle", "SELECT name FROM buoys LIMIT 1", "sql.syntax", "LIMIT"),
        ("oracle", "SELECT 1 / 0 FROM dual", "sql.runtime", "divided by zero"),
        ("db2", "SELECT name FROM", "sql.syntax", "breaks off"),
        ("oracle", "DELETE FROM buoys", "policy.statement", "Not a query"),
        ("tsql", "SELECT current_setting('threads')", "policy.function", "current_setting"),
    ],
)
def test_what_does_not_run_says_why(
    running: dict[str, tuple[Engine, LoadedDataset]], name: str, sql: str, code: str, words: str
) -> None:
    engine, buoys = running[name]
    outcome = engine.run(buoys, sql, Limits())
    assert isinstance(outcome, QueryFailure)
    assert (outcome.code, words in outcome.message) == (code, True), outcome


def test_ties_are_told_by_what_runs(running: dict[str, tuple[Engine, LoadedDataset]]) -> None:
    engine, buoys = running["tsql"]
    sql = "SELECT TOP 1 name FROM buoys ORDER BY depth_m"
    found = expect(engine, buoys, sql, Limits(), "the reference answer")
    assert found.ordered
    assert found.cuts_a_tie
    assert found.result.columns[0].named


def test_answers_are_graded_and_left_undecided_where_the_meaning_may_be_lost(
    running: dict[str, tuple[Engine, LoadedDataset]],
) -> None:
    engine, _ = running["tsql"]
    exercise = Exercise(
        "deep", "", "", "buoys", "SELECT TOP 2 name FROM buoys ORDER BY depth_m DESC", "tsql",
        alternatives=(
            NamedQuery("offset", "SELECT name FROM buoys ORDER BY depth_m DESC OFFSET 0 ROWS FETCH NEXT 2 ROWS ONLY"),
        ),
    )  # fmt: skip
    grader = Grader(engine, exercise, SampleSource("buoys", (BUOYS,)))
    standing = [
        grader.grade(sql).standing
        for sql in (
            "SELECT TOP (2) [name] FROM dbo.buoys ORDER BY depth_m DESC",
            "SELECT TOP 2 name FROM buoys ORDER BY depth_m",
            "SELECT TOP 2 WITH TIES name FROM buoys ORDER BY depth_m DESC",
            "SELECT TOP 2 PATINDEX('%a%', name) FROM buoys",
            "SELECT nothing FROM buoys",
        )
    ]
    assert standing == ["correct", "incorrect", "undecided", "undecided", "error"]
