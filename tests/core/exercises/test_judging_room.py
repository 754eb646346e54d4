"""Judging in the worker processes: bounded, beside the data, and no death of theirs is a verdict."""

from __future__ import annotations

import os
import pickle
import signal
from collections.abc import Iterator
from dataclasses import replace
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest

from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.engines.kept_results import KeptResults
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Judging, QueryFailure
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.errors import EngineInterrupted
from jentrow.core.exercises.files.rulefile import read_rules
from jentrow.core.exercises.grading.judge import COMPARING_TOO_LONG
from jentrow.core.exercises.grading.outcomes import Outcome
from jentrow.core.exercises.judging_room import RESULTS
from jentrow.core.processes import workers
from jentrow.core.processes.crossing import Unreadable, packed, unpacked
from jentrow.core.results import Column, ResultSet
from tests.core.deaths import dies_of
from tests.core.exercises.test_grading import ALL, graded, grader


@pytest.fixture
def running() -> Iterator[SQLiteEngine]:
    engine = SQLiteEngine(workers=1)
    yield engine
    engine.close()


def big(letter: str, more: str = "") -> str:
    """A query with a text of 300,000 characters in each row."""
    return (
        f"SELECT name, replace(hex(zeroblob(150000)), '0', '{letter}') || '{more}' AS t FROM gauges"
    )


def test_long_cells_are_compared_by_what_stands_for_them(engine: SQLiteEngine) -> None:
    assert graded(engine, big("a"), big("a")).verdict == "correct"
    assert graded(engine, big("a"), big("A")).verdict == "incorrect"
    assert graded(engine, big("a"), big("a", " ")).verdict == "incorrect"
    loose = {"text_case": "ignore", "text_space": "trim"}
    assert graded(engine, big("a"), big("A", "  "), rules=loose).verdict == "correct"


def test_long_cells_are_not_shown(engine: SQLiteEngine) -> None:
    looked = grader(engine, big("a")).look(big("b"))
    assert looked.woven is not None
    shown = looked.woven.lines[0].due
    assert shown is not None
    assert "300,000 characters" in shown[1]
    assert len(str(looked.woven)) < 5_000
    longer = read_rules({"limits": {"cell_kb": 1_000}})
    assert longer.limits.cell_bytes == 1_024_000


def test_blanks_inside_a_long_text_cost_no_time(engine: SQLiteEngine) -> None:
    blanks = "SELECT name || 'x' || replace(hex(zeroblob(30000)), '0', ' ') || 'x' FROM gauges"
    for space in ("trim", "collapse"):
        rules = {"text_space": space, "limits": {"cell_kb": 1_000}}
        assert graded(engine, ALL, blanks, rules=rules).verdict == "incorrect"


def test_what_takes_too_long_to_judge_is_stopped(engine: SQLiteEngine) -> None:
    rules = {"number_tolerance": {"absolute": 0.4}, "limits": {"seconds": 60}}
    many = (
        "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 3000) "
        "SELECT i % 7 + {} FROM n, gauges"
    )
    patient = grader(engine, many.format("0.0"), rules=rules)
    hasty = patient.elsewhere(engine, Judging(judging_seconds=0.001))
    stopped = hasty.grade(many.format("0.3"))
    assert (stopped.verdict, stopped.findings[0].message) == ("stopped", COMPARING_TOO_LONG)
    assert not hasty.is_settled(stopped)
    assert patient.grade(many.format("0.5")).verdict == "incorrect"


def test_a_worker_that_had_died_before_costs_nobody_a_verdict(running: SQLiteEngine) -> None:
    own = grader(running, ALL)
    for time in range(3):
        (worker,) = running._pool._idle
        os.kill(worker.pid, signal.SIGKILL)
        assert own.grade(f"{ALL} -- {time}").verdict == "correct"
        (worker,) = running._pool._idle
        os.kill(worker.pid, signal.SIGKILL)
        texts = [f"{sql} -- {time} again" for sql in (ALL, "SELECT 1", "SELECT no_such")]
        outcomes = dict(own.grade_many(texts))
        assert [outcomes[at].verdict for at in range(3)] == ["correct", "incorrect", "error"]


def digests(outcome: Outcome) -> list[str]:
    return [one.digest for one in outcome.datasets]


def test_other_rules_and_marks_run_no_query_again(running: SQLiteEngine) -> None:
    # What runs in no time is not kept.
    sql = (
        "WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 100000) "
        "SELECT 'ran' AS name FROM gauges WHERE (SELECT MAX(i) FROM n) > 1"
    )
    first = grader(running, ALL)
    before = first.grade(sql)
    # What is kept is replaced by what the query never gives: that shows whether it ran.
    files = KeptResults(first._kept.path.parent.parent / RESULTS)
    allowed = first.exercise.rules.limits
    for dataset in first.datasets:
        assert files.recall(dataset.key, sql, allowed) is not None
        planted = ResultSet((Column("name"),), [("planted",)])
        files.keep(dataset.key, sql, allowed, planted)
    files.close()
    # Another process: it has nothing in its memory.
    (worker,) = running._pool._idle
    os.kill(worker.pid, signal.SIGKILL)
    rules = {"text_case": "ignore", "extra_columns": "allow"}
    other = grader(running, ALL, rules=rules, points=7)
    after = other.grade(sql)
    assert digests(after) != digests(before)
    assert [one.given.row_count for one in after.datasets if one.given] == [1] * len(first.datasets)
    hasty = grader(running, ALL, rules=rules).elsewhere(running, Judging(seconds=0.25))
    assert digests(hasty.grade(sql)) == digests(after)
    # What a query is allowed is another question: it is asked again.
    again = grader(running, ALL, rules={"limits": {"rows": 50}}).grade(sql)
    assert digests(again) == digests(before)


def test_verdicts_come_without_what_explains_them_and_that_is_read_afterwards(
    running: SQLiteEngine,
) -> None:
    texts = [
        ALL,
        "SELECT name FROM gauges WHERE level = NULL",
        "SELECT name FROM gauges GROUP BY level > 0",
        "SELECT DISTINCT basin FROM gauges",
        "SELECT nothing FROM gauges",
        "DELETE FROM gauges",
        "SELECT name FROM gauges WHERE random() IS NOT NULL",
    ]
    patient = grader(running, ALL)
    quick = patient.unexplained()
    short = [outcome for _, outcome in sorted(quick.grade_many(texts))]
    readings = quick.readings(texts)
    full = [outcome for _, outcome in sorted(patient.grade_many(texts))]
    assert [one.outcome for one in readings] == full
    assert [one.wording for one in readings] == patient.wordings(texts)
    assert [one.explained for one in full] == [True] * len(texts)
    assert [one.explained for one in short] == [False] * 4 + [True, True, False]
    for one, other in zip(short, full, strict=True):
        later = {"findings": (), "explained": True}
        assert replace(one, **later) == replace(_unnamed(other), **later)
        said, told = one.findings, other.findings
        assert [one.code for one in said] == [one.code for one in told][: len(said)]
    assert "is never true" not in short[1].findings[0].message
    assert "is never true" in full[1].findings[0].message
    assert "cells.arbitrary" in {one.code for one in full[2].findings}
    # Whoever has time is not told what was found in a hurry, and the other way round it may be.
    assert patient.grade(texts[1]) == full[1]
    assert quick.grade(texts[1]) == full[1]


def _unnamed(outcome: Outcome) -> Outcome:
    """An outcome without what the answer's columns are called."""
    datasets = [
        replace(one, given=one.given and replace(one.given, columns=())) for one in outcome.datasets
    ]
    return replace(outcome, datasets=tuple(datasets))


def test_a_result_that_was_stopped_or_is_large_runs_again(tmp_path: Path) -> None:
    file = tmp_path / "results.db"
    files = KeptResults(file)
    small = ResultSet((Column("a"),), [(1,), (None,), ("x",), (b"y",)])
    files.keep("d", "SELECT 1", Limits(), small)
    files.flush()
    assert files.recall("d", "SELECT 1", Limits()) == small
    assert files.recall("e", "SELECT 1", Limits()) is None
    large = ResultSet((Column("a"),), [("x" * 100_000,)])
    files.keep("d", "SELECT 2", Limits(), large)
    stopped = QueryFailure("stopped", "limit.time", "too long")
    files.keep("d", "SELECT 3", Limits(), stopped)
    rejected = QueryFailure("error", "sql.object", "no such column")
    files.keep("d", "SELECT 4", Limits(), rejected)
    files.flush()
    found = [files.recall("d", f"SELECT {at}", Limits()) for at in (2, 3, 4)]
    assert found == [None, None, rejected]
    other = KeptResults(file)
    assert other.recall("d", "SELECT 1", Limits()) == small, "another process has it too"
    files.close()
    other.close()
    file.write_bytes(b"no database" * 100)
    anew = KeptResults(file)
    assert anew.recall("d", "SELECT 1", Limits()) is None, "what is spoilt is begun anew"
    anew.keep("d", "SELECT 1", Limits(), small)
    anew.flush()
    assert anew.recall("d", "SELECT 1", Limits()) == small
    anew.close()


def test_what_nothing_is_known_of_is_asked_once_for_many(tmp_path: Path) -> None:
    files = KeptResults(tmp_path / "results.db")
    elsewhere = KeptResults(tmp_path / "results.db")
    texts = [f"SELECT {at}" for at in range(500)]
    one = ResultSet((Column("a"),), [(1,)])
    for sql in texts[::7]:
        elsewhere.keep("d", sql, Limits(), one)
    elsewhere.flush()
    assert files.known("d", texts, Limits()) == set(texts[::7])
    assert files.known("e", texts, Limits()) == set()
    assert files.known("d", texts, Limits(rows=5)) == set()
    assert [sql for sql in texts if files.recall("d", sql, Limits())] == texts[::7]
    assert [sql for sql in texts if files.recall("e", sql, Limits())] == []
    # What another process keeps afterwards is found when it is asked for again.
    elsewhere.keep("d", texts[1], Limits(), one)
    elsewhere.flush()
    assert files.known("d", texts, Limits()) == {*texts[::7], texts[1]}
    assert files.recall("d", texts[1], Limits(rows=5)) is None
    assert files.recall("d", texts[2], Limits()) is None
    assert files.recall("d", texts[1], Limits()) == one
    files.close()
    elsewhere.close()
    assert files.known("d", texts, Limits()) == set()


def test_the_same_rows_under_many_names_are_told_with_their_own(engine: SQLiteEngine) -> None:
    patient = grader(engine, ALL)
    for rows in ("", " WHERE level > 0"):
        texts = [f"SELECT name AS n{at} FROM gauges{rows}" for at in range(120)]
        # Verdicts alone do not tell them: what comes to the same is one and the same.
        quick = dict(patient.unexplained().grade_many(texts))
        assert all(outcome == quick[0] for outcome in quick.values())
        told = dict(patient.grade_many(texts))
        for at, outcome in told.items():
            given = outcome.datasets[0].given
            assert given is not None
            assert given.columns == (f"n{at}",)
            assert replace(outcome, datasets=()) == replace(told[0], datasets=())


def test_where_results_cannot_be_kept_nothing_fails(tmp_path: Path) -> None:
    (tmp_path / "results.db").mkdir()
    files = KeptResults(tmp_path / "results.db")
    files.keep("d", "SELECT 1", Limits(), ResultSet((Column("a"),), [(1,)]))
    files.flush()
    assert files.recall("d", "SELECT 1", Limits()) is None
    files.close()


def test_an_answer_under_which_workers_die_is_lost_and_no_other(
    running: SQLiteEngine, monkeypatch: pytest.MonkeyPatch
) -> None:
    own = grader(running, ALL)
    deadly = "SELECT 'deadly'"
    # Nothing is sent ahead: a worker dies at the deadly answer, and at no other.
    monkeypatch.setattr(workers, "AHEAD_BYTES", 0)
    dies_of(monkeypatch, deadly.encode())
    found = {at: one for places, one in own.judged([ALL, deadly, "SELECT 1"]) for at in places}
    assert found[1] is None
    assert [one.verdict for at in (0, 2) if (one := found[at])] == ["correct", "incorrect"]
    with pytest.raises(EngineInterrupted, match="nothing is known of the answer"):
        own.grade(deadly)


def test_memory_is_bounded_while_judging(engine: SQLiteEngine) -> None:
    wide = "SELECT replace(hex(zeroblob(3000000)), '0', 'b') || name FROM gauges"
    rules = {"limits": {"memory_mb": 8, "cell_kb": 1_000}}
    assert graded(engine, ALL, wide, rules=rules).verdict == "stopped"
    assert graded(engine, ALL, ALL, rules=rules).verdict == "correct"


def test_equal_results_have_equal_digests(engine: SQLiteEngine) -> None:
    own = grader(engine, ALL)

    def digests(sql: str) -> list[str]:
        return [one.digest for one in own.grade(sql).datasets]

    assert digests(ALL) == digests("SELECT name AS gauge FROM gauges ORDER BY name DESC")
    assert digests(ALL) != digests("SELECT name FROM gauges LIMIT 1")
    assert digests("SELECT basin FROM gauges") == digests("SELECT basin * 1.0 FROM gauges")
    assert digests("SELECT nothing") == digests("SELECT  nothing")
    assert digests("SELECT nothing") != digests("SELECT nobody")
    ordered = grader(engine, ALL + " ORDER BY name")
    ways = [ordered.grade(f"{ALL} ORDER BY name {way}").datasets[0].digest for way in ("", "DESC")]
    assert ways[0] != ways[1]


def test_only_our_own_values_cross(engine: SQLiteEngine) -> None:
    outcome = graded(engine, ALL, "SELECT name FROM gauges LIMIT 1")
    assert unpacked(packed(outcome)) == outcome
    assert isinstance(unpacked(packed(outcome)), Outcome)
    # Made of named parts alone, of none, and of values that are no plain ones.
    for value in (Judging(seconds=0.5), ComparisonRules(), Column("a"), (Decimal("1.50"), None)):
        assert unpacked(packed(value)) == value

    class Acting:
        def __reduce__(self) -> Any:
            return os.getcwd, ()

    for sent in (
        pickle.dumps(Acting()),
        pickle.dumps(os.getcwd),
        pickle.dumps(grader),
        pickle.dumps(SQLiteEngine),
        b"nothing of the kind",
        b"cjentrow.core.engines.crossing\npickle.loads\n.",
        b"cjentrow.core.engines.crossing\npacked\n.",
    ):
        with pytest.raises(Unreadable):
            unpacked(sent)
