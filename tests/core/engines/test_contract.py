"""What every engine promises, asked of each that there is."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
import sqlglot

from jentrow.core.engines.labels import KEEPING_COPIES, RUNNING
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.mariadb.connection import plain_version
from jentrow.core.engines.protocol import Engine, LoadedDataset, QueryFailure
from jentrow.core.errors import EngineUnavailable
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.files.rulefile import read_rules
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.warnings import warnings_of
from jentrow.core.results import ResultSet
from jentrow.core.samples.sources import DatasetSource, SampleSource
from jentrow.core.shownrows import ResultView
from jentrow.services.runtime.engines import engine_named

TIGHT = Limits(seconds=0.2, rows=1000, memory_mb=64)
SCHEMA = """
    CREATE TABLE boats (boat_id INTEGER PRIMARY KEY, name VARCHAR(20) NOT NULL, length_m INTEGER);
    CREATE TABLE berths (berth VARCHAR(4) PRIMARY KEY, boat_id INTEGER REFERENCES boats (boat_id));
    INSERT INTO boats VALUES (1, 'Auk', 9), (2, 'Tern', 12), (3, 'Gull', NULL), (4, 'Auk', 12);
    INSERT INTO berths VALUES ('A1', 1), ('A2', 2), ('B1', NULL);
"""
ENDLESS = (
    "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT COUNT(*) FROM n AS one"
)


@pytest.fixture(scope="module", params=RUNNING)
def any_engine(request: pytest.FixtureRequest) -> Iterator[Engine]:
    running = engine_named(request.param, workers=2)
    yield running
    running.close()


SOURCE = DatasetSource("harbour", SCHEMA, keep_rows=True)


@pytest.fixture(scope="module")
def harbour(any_engine: Engine) -> LoadedDataset:
    return any_engine.load(SOURCE)


def rows_of(engine: Engine, dataset: LoadedDataset, sql: str) -> list[Any]:
    outcome = engine.run(dataset, sql, Limits())
    assert isinstance(outcome, ResultSet), outcome
    return list(outcome.rows)


def test_it_says_what_it_has(any_engine: Engine, harbour: LoadedDataset) -> None:
    has = any_engine.capabilities
    assert (has.name, has.dialect) == (any_engine.name, any_engine.dialect)
    assert sqlglot.Dialect.get(has.dialect) is not None
    assert any_engine.version[0].isdigit()
    assert {"count", "coalesce", "upper", "round"} <= set(has.functions)
    assert rows_of(any_engine, harbour, "SELECT coalesce(NULL, upper('auk'))") == [("AUK",)]


def test_what_it_lacks_it_rejects(any_engine: Engine, harbour: LoadedDataset) -> None:
    for lack in any_engine.capabilities.lacks:
        outcome = any_engine.run(harbour, lack.example, Limits())
        assert isinstance(outcome, QueryFailure), lack
        assert outcome.verdict == "error", lack


def test_a_dataset_is_told_with_its_tables(any_engine: Engine, harbour: LoadedDataset) -> None:
    assert dict(harbour.table_rows) == {"boats": 4, "berths": 3}
    assert dict(harbour.columns)["boats"] == ("boat_id", "name", "length_m")
    again = any_engine.load(SOURCE)
    assert again == harbour, "loaded once, and shared"


@pytest.mark.parametrize(
    ("sql", "rows"),
    [
        ("SELECT name FROM boats WHERE length_m > 9 ORDER BY boat_id", [("Tern",), ("Auk",)]),
        ("SELECT COUNT(*), COUNT(length_m) FROM boats", [(4, 3)]),
        ("SELECT name FROM boats WHERE length_m = NULL", []),
        ("SELECT name FROM boats UNION SELECT name FROM boats ORDER BY 1", [("Auk",), ("Gull",), ("Tern",)]),
        (
            "SELECT b.name, p.berth FROM boats AS b LEFT JOIN berths AS p ON p.boat_id = b.boat_id "
            "WHERE b.boat_id > 1 ORDER BY b.boat_id",
            [("Tern", "A2"), ("Gull", None), ("Auk", None)],
        ),
        ("-- before\nSELECT 1 /* within */ AS one; -- after", [(1,)]),
    ],
)  # fmt: skip
def test_queries_run(any_engine: Engine, harbour: LoadedDataset, sql: str, rows: list[Any]) -> None:
    assert rows_of(any_engine, harbour, sql) == rows


def test_an_empty_result_has_its_columns(any_engine: Engine, harbour: LoadedDataset) -> None:
    outcome = any_engine.run(harbour, "SELECT name AS n FROM boats WHERE 1 = 0", Limits())
    assert isinstance(outcome, ResultSet)
    assert [column.name for column in outcome.columns] == ["n"]


@pytest.mark.parametrize(
    ("first", "second", "same"),
    [
        ("SELECT name FROM boats ORDER BY 1", "SELECT name FROM boats ORDER BY 1 DESC", True),
        ("SELECT name FROM boats", "SELECT DISTINCT name FROM boats", False),
        ("SELECT 1.0", "SELECT 1", True),
        ("SELECT length_m FROM boats", "SELECT COALESCE(length_m, 0) FROM boats", False),
    ],
)
def test_the_rows_of_two_queries_are_compared_where_they_are(
    any_engine: Engine, harbour: LoadedDataset, first: str, second: str, same: bool
) -> None:
    assert any_engine.same_rows(harbour, (first, second), Limits()) is same
    for queries in ((first, "SELECT * FROM ships"), ("SELECT * FROM ships", second), ("", second)):
        assert isinstance(any_engine.same_rows(harbour, queries, Limits()), QueryFailure)
    endless = any_engine.same_rows(harbour, (first, ENDLESS), TIGHT)
    assert isinstance(endless, QueryFailure)
    assert endless.verdict == "stopped"


@pytest.mark.parametrize(
    ("sql", "verdict", "code"),
    [
        ("", "error", "sql.syntax"),
        ("-- only words", "error", "sql.syntax"),
        ("SELECT FROM WHERE", "error", "sql.syntax"),
        ("SELECT nmae FROM boats", "error", "sql.object"),
        ("SELECT * FROM ships", "error", "sql.object"),
        ("SELECT no_such_function(1)", "error", "sql.object"),
        ("SELECT boat_id FROM boats, berths", "error", "sql.object"),
        ("SELECT 1 UNION SELECT 1, 2", "error", "sql.runtime"),
        ("DELETE FROM boats", "refused", "policy.statement"),
        ("UPDATE boats SET length_m = 1", "refused", "policy.statement"),
        ("CREATE TABLE more (a INTEGER)", "refused", "policy.statement"),
        ("DROP TABLE boats", "refused", "policy.statement"),
        ("SELECT 1; SELECT 2", "refused", "policy.statement"),
        ("EXPLAIN SELECT 1", "refused", "policy.statement"),
        (ENDLESS, "stopped", "limit.time"),
        (
            "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 2000) "
            "SELECT i FROM n",
            "stopped",
            "limit.rows",
        ),
    ],
)
def test_what_does_not_run_says_why(
    any_engine: Engine, harbour: LoadedDataset, sql: str, verdict: str, code: str
) -> None:
    outcome = any_engine.run(harbour, sql, TIGHT)
    assert isinstance(outcome, QueryFailure)
    assert (outcome.verdict, outcome.code) == (verdict, code)
    assert outcome.message.rstrip().endswith((".", "?"))
    assert rows_of(any_engine, harbour, "SELECT COUNT(*) FROM boats") == [(4,)]


def test_many_queries_give_each_its_own_outcome(any_engine: Engine, harbour: LoadedDataset) -> None:
    queries = [f"SELECT {at}" if at % 7 else "SELECT nothing" for at in range(60)]
    outcomes = dict(any_engine.run_many(harbour, queries, Limits()))
    assert sorted(outcomes) == list(range(60))
    for at, outcome in outcomes.items():
        if at % 7:
            assert isinstance(outcome, ResultSet)
            assert list(outcome.rows) == [(at,)]
        else:
            assert isinstance(outcome, QueryFailure)


def test_only_the_first_rows_are_shown(any_engine: Engine, harbour: LoadedDataset) -> None:
    shown = any_engine.show(harbour, "SELECT name FROM boats", Limits(), 2)
    assert isinstance(shown, ResultView)
    assert (len(shown.rows), shown.row_count) == (2, 4)


def test_columns_of_one_name_are_shown_with_their_table(
    any_engine: Engine, harbour: LoadedDataset
) -> None:
    sql = "SELECT b.*, p.boat_id, p.boat_id + 1 AS name FROM boats AS b JOIN berths AS p USING (boat_id)"
    shown = any_engine.show(harbour, sql, Limits(), 5)
    assert isinstance(shown, ResultView)
    told = [one.name for one in shown.columns]
    assert len(set(told)) == 5, "each is told from the others"
    assert (told[2], told[4]) in (("length_m", "name"), ("length_m", "name (2)"))
    if any_engine.name != "duckdb":  # which does not tell where a column comes from
        assert told == ["boats.boat_id", "boats.name", "length_m", "berths.boat_id", "name"]
    ran = any_engine.run(harbour, sql, Limits())
    assert isinstance(ran, ResultSet)
    assert ran.names == ("boat_id", "name", "length_m", "boat_id", "name"), "only where it is shown"


def test_a_script_on_a_copy_is_done_wholly_or_not_at_all(
    any_engine: Engine, harbour: LoadedDataset, tmp_path: Path
) -> None:
    says = any_engine.capabilities.no_copies
    assert (any_engine.name in KEEPING_COPIES) == (not says)
    if says:
        with pytest.raises(EngineUnavailable, match=re.escape(says)):
            any_engine.change(tmp_path / "copy", "DELETE FROM boats", Limits(), 2**20)
        return
    copy = tmp_path / "copy"
    any_engine.make_copy(SOURCE, copy)
    room = any_engine.copy_began(SOURCE, copy) + 2**20
    done = any_engine.change(
        copy, "INSERT INTO boats VALUES (5, 'Skua', 7); SELECT COUNT(*) FROM boats", Limits(), room
    )
    assert isinstance(done, list)
    assert [one.changed for one in done] == [1, 0]
    assert done[1].result is not None
    failed = any_engine.change(
        copy, "DELETE FROM berths; INSERT INTO boats VALUES (5, 'Skua', 7)", Limits(), room
    )
    assert isinstance(failed, QueryFailure)
    assert "Nothing was changed" in failed.message
    left = any_engine.change(copy, "SELECT COUNT(*) FROM berths", Limits(), room)
    assert isinstance(left, list)
    assert left[0].result is not None
    assert left[0].result.row_count == 1
    assert list(map(list, left[0].result.rows)) == [[3]]
    assert rows_of(any_engine, harbour, "SELECT COUNT(*) FROM boats") == [(4,)]
    assert 0 < any_engine.copy_bytes(copy) < room
    any_engine.drop_copy(copy)
    assert not copy.exists()


def test_columns_that_are_shown_say_what_they_are_declared_as(
    any_engine: Engine, harbour: LoadedDataset
) -> None:
    sql = "SELECT b.name, p.boat_id, b.boat_id, 1 + 1 AS two FROM boats b JOIN berths p ON 1 = 1"
    shown = any_engine.show(harbour, sql, Limits(), 2)
    assert isinstance(shown, ResultView)
    declared = {column.name: column.declared.upper() for column in shown.columns}
    # What is worked out has a type in some engines; MariaDB's driver tells none.
    wanted = {
        "sqlite": ["VARCHAR(20)", "INTEGER", "INTEGER", ""],
        "duckdb": ["VARCHAR", "INTEGER", "INTEGER", "INTEGER"],
        "postgresql": ["VARCHAR(20)", "INT4", "INT4", "INT4"],
        "mariadb": ["", "", "", ""],
    }
    assert list(declared.values()) == wanted[any_engine.name]


def test_an_order_without_regard_to_case_is_right_where_the_rules_say_so(
    any_engine: Engine,
) -> None:
    schema = """
        CREATE TABLE words (n INTEGER PRIMARY KEY, word VARCHAR(9) NOT NULL);
        INSERT INTO words VALUES (1, 'Auk'), (2, 'gull'), (3, 'Tern'), (4, 'auk'), (5, 'Gull');
    """
    sample = SampleSource("words", (DatasetSource("open", schema, keep_rows=True),))

    def verdicts(case: str, reference: str) -> tuple[list[str], list[str]]:
        rules = read_rules({"order_case": case})
        exercise = Exercise(
            "one", "One", "", "words", reference, engine=any_engine.name, rules=rules
        )
        grader = Grader(any_engine, exercise, sample)
        given = [reference, reference.replace("t.word", "LOWER(word)"), reference + " DESC"]
        outcomes = dict(grader.grade_many(given))
        return [outcomes[at].verdict for at in range(3)], [
            one.code for one in warnings_of(grader) if one.code == "order.case"
        ]

    reference = "SELECT word FROM words AS t ORDER BY t.word"
    folds = any_engine.name == "mariadb"
    exact, _ = verdicts("exact", reference)
    assert exact == ["correct", "correct" if folds else "incorrect", "incorrect"]
    assert verdicts("ignore", reference) == (
        ["correct", "correct", "incorrect"], ["order.case"] if folds else []
    )  # fmt: skip
    # Numbers have no case: what can be done is done, the rest stays as it is.
    mixed = "SELECT n, word FROM words AS t ORDER BY n / 3, t.word"
    assert verdicts("ignore", mixed)[0][:2] == ["correct", "correct"]
    _, warned = verdicts("ignore", "SELECT word FROM words AS t WHERE t.word > ''")
    assert warned == ["order.case"]


def test_like_minds_letter_case_where_the_rules_say_so(any_engine: Engine) -> None:
    sample = SampleSource("harbour", (SOURCE,))

    def counted(case: str) -> tuple[str, list[str]]:
        exercise = Exercise(
            "one", "One", "", "harbour", "SELECT COUNT(*) FROM boats WHERE name LIKE 'a%'",
            engine=any_engine.name, rules=read_rules({"like_case": case}),
        )  # fmt: skip
        grader = Grader(any_engine, exercise, sample)
        rows = rows_of(
            any_engine, grader.datasets[0], "SELECT name FROM boats WHERE name LIKE 'a%'"
        )
        assert grader.grade(f"SELECT {len(rows)}").verdict == "correct" or case == "exact"
        found = grader.grade("SELECT 0").verdict
        return found, [one.code for one in warnings_of(grader) if one.code == "like.case"]

    folds = any_engine.name in ("sqlite", "mariadb")
    assert counted("engine") == ("incorrect" if folds else "correct", [])
    minds = any_engine.name != "mariadb"
    assert counted("exact") == ("correct", []) if minds else ("incorrect", ["like.case"])
    # Whoever runs the next query is not concerned.
    assert counted("engine") == ("incorrect" if folds else "correct", [])


@pytest.mark.parametrize(
    ("said", "version"),
    [
        ("5.5.5-10.11.19-MariaDB-0+deb12u1", "10.11.19"),
        ("11.4.2-MariaDB-ubu2404", "11.4.2"),
        ("8.0.36", "8.0.36 (MySQL)"),
        ("unknown", "unknown"),
    ],
)
def test_a_version_is_told_plainly(said: str, version: str) -> None:
    assert plain_version(said) == version
