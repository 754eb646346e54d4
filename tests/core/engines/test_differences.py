"""What is told of differences between engines is true: each case is run on each."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from jentrow.core.engines.labels import RUNNING
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset, QueryFailure
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.grading.other_engines import held_against
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.sql.skeleton import skeleton_of
from jentrow.core.sql.spellings.engine_differences import DIFFERENCES, Difference, differences_in
from jentrow.core.sql.translation import translated
from jentrow.services.runtime.engines import engine_named

RIVERS = DatasetSource(
    "rivers",
    """
    CREATE TABLE rivers (river_id INTEGER PRIMARY KEY, name VARCHAR(20), length_km INTEGER, into_id INTEGER);
    INSERT INTO rivers VALUES (1, 'Lind', 7, NULL), (2, 'Sarn', 4, 1), (3, 'lind', 9, 1);
    """,
    keep_rows=True,
)


@pytest.fixture(scope="module")
def engines() -> Iterator[dict[str, Engine]]:
    running = {name: engine_named(name, workers=1) for name in RUNNING}
    yield running
    for one in running.values():
        one.close()


@pytest.fixture(scope="module")
def rivers(engines: dict[str, Engine]) -> dict[str, LoadedDataset]:
    return {name: engine.load(RIVERS) for name, engine in engines.items()}


@pytest.mark.parametrize("case", DIFFERENCES, ids=lambda case: case.name)
def test_each_engine_does_what_is_told_of_it(
    engines: dict[str, Engine], rivers: dict[str, LoadedDataset], case: Difference
) -> None:
    assert case.holds(skeleton_of(case.example, "sqlite"))
    for name, (_, value) in case.does.items():
        outcome = engines[name].run(rivers[name], case.example, Limits())
        if value == "error":
            assert isinstance(outcome, QueryFailure), (name, outcome)
        else:
            assert not isinstance(outcome, QueryFailure), (name, outcome)
            found = outcome.rows[0][0]
            assert found == value, name
            assert isinstance(found, bool) == isinstance(value, bool), name


def test_only_what_a_text_holds_is_told() -> None:
    assert differences_in("SELECT name FROM rivers", "sqlite", "sqlite", "duckdb") == []
    told = differences_in("SELECT length_km / 2 FROM rivers", "sqlite", "sqlite", "duckdb")
    assert told == ["Dividing whole numbers: SQLite leaves the rest off, DuckDB gives a fraction."]
    assert differences_in("SELECT length_km / 2 FROM rivers", "sqlite", "duckdb", "mariadb") == []


@pytest.mark.parametrize(
    ("sql", "other", "verdict"),
    [
        ("SELECT length_km / 2 FROM rivers", "duckdb", "incorrect"),
        ("SELECT length_km / 2 FROM rivers", "postgresql", "correct"),
        ("SELECT name FROM rivers ORDER BY into_id", "mariadb", "correct"),
        ("SELECT name FROM rivers ORDER BY into_id", "postgresql", "incorrect"),
        ("SELECT DISTINCT name FROM rivers", "mariadb", "incorrect"),
        ("SELECT COUNT(*) FROM rivers WHERE name LIKE 'l%'", "postgresql", "incorrect"),
        ("SELECT SUM(length_km), AVG(length_km) FROM rivers", "postgresql", "correct"),
        ("SELECT SUM(length_km), AVG(length_km) FROM rivers", "mariadb", "incorrect"),
        ("SELECT IIF(length_km > 5, 'long', 'short') FROM rivers", "postgresql", "error"),
    ],
)
def test_results_of_two_engines_are_held_against_each_other(
    engines: dict[str, Engine], sql: str, other: str, verdict: str
) -> None:
    exercise = Exercise("rivers", "", "", "rivers", sql)
    looked = held_against(engines["sqlite"], exercise, RIVERS, engines[other], sql)
    assert looked.outcome.verdict == verdict
    assert (looked.woven is None) == (verdict == "error")


@pytest.mark.parametrize(
    ("sql", "write", "made"),
    [
        ("SELECT IFNULL(name, '-') FROM rivers", "postgres", "COALESCE(name, '-')"),
        ("SELECT name || '!' FROM rivers", "mysql", "CONCAT(name, '!')"),
        (
            "SELECT IIF(length_km > 5, 1, 0) FROM rivers",
            "postgres",
            "CASE WHEN length_km > 5 THEN 1 ELSE 0 END",
        ),
        ("SELEC name", "postgres", ""),
    ],
)
def test_a_text_is_written_in_another_dialect(sql: str, write: str, made: str) -> None:
    found = translated(sql, "sqlite", write)
    assert made in found.sql
    assert bool(found.sql) == bool(made)
    assert bool(found.notes) == (not made)


@pytest.mark.parametrize(
    "sql",
    [
        "SELECT name FROM rivers ORDER BY into_id, river_id",
        "SELECT IFNULL(into_id, 0) AS n, COUNT(*) FROM rivers GROUP BY IFNULL(into_id, 0)",
        "SELECT name || '-' || river_id FROM rivers",
        "SELECT IIF(length_km > 5, 'long', 'short') FROM rivers",
    ],
)
@pytest.mark.parametrize("name", ["duckdb", "postgresql", "mariadb"])
def test_a_translated_text_gives_the_same(engines: dict[str, Engine], name: str, sql: str) -> None:
    exercise = Exercise("rivers", "", "", "rivers", sql)
    moved = translated(sql, "sqlite", engines[name].dialect).sql
    looked = held_against(engines["sqlite"], exercise, RIVERS, engines[name], moved)
    assert looked.outcome.verdict == "correct", (moved, looked.outcome.findings)
