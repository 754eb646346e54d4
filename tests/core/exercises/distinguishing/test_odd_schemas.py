"""Samples and references that are unlike the usual: nothing stops the search, nothing runs on."""

from __future__ import annotations

from pathlib import Path

import pytest

from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.distinguishing.blind_spots import sight_of
from jentrow.core.exercises.distinguishing.near_misses import near_misses
from jentrow.core.exercises.distinguishing.smallest_example import smallest_example
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.samples.sources import read_sample
from tests.core.exercises.distinguishing.benches import Laboratory

MUTUAL = """
CREATE TABLE a (id INTEGER PRIMARY KEY, b_id INTEGER REFERENCES b(id));
CREATE TABLE b (id INTEGER PRIMARY KEY, a_id INTEGER NOT NULL REFERENCES a(id),
    q INT UNIQUE CHECK (q BETWEEN 1 AND 3));
INSERT INTO a VALUES (1, NULL), (2, 1); INSERT INTO b VALUES (1, 1, 2);
"""
ITSELF = """
CREATE TABLE nodes (id INTEGER PRIMARY KEY, parent INTEGER NOT NULL REFERENCES nodes(id), label TEXT);
INSERT INTO nodes VALUES (1, 1, 'a'), (2, 1, 'b'), (3, 2, 'b');
"""
COMPUTED = """
CREATE TABLE "my gauges" ("the key" INTEGER PRIMARY KEY, "a b" TEXT NOT NULL,
    n INT GENERATED ALWAYS AS ("the key" * 2) STORED);
INSERT INTO "my gauges" ("the key", "a b") VALUES (1, 'x'), (2, 'y');
"""
VIEW = """
CREATE TABLE w (k TEXT PRIMARY KEY, v BLOB, CHECK (length(k) = 3)) WITHOUT ROWID;
CREATE VIEW vw AS SELECT k FROM w WHERE v IS NOT NULL;
INSERT INTO w VALUES ('abc', x'00'), ('abd', NULL);
"""
PLAIN = "CREATE TABLE t (a INT, b INT); INSERT INTO t VALUES (1, 2), (2, 3), (2, 3);"


def laboratory(engine: SQLiteEngine, folder: Path, script: str, reference: str) -> Laboratory:
    (folder / "sample.sql").write_text(script, encoding="utf-8")
    exercise = Exercise("one", "One", "", "sample", reference)
    return Laboratory(engine, exercise, read_sample(folder / "sample.sql"))


@pytest.mark.parametrize(
    ("script", "reference", "wrong", "edit"),
    [
        (
            MUTUAL,
            "SELECT a.id, b.q FROM a LEFT JOIN b ON b.id = a.b_id",
            "SELECT a.id, b.q FROM a JOIN b ON b.id = a.b_id",
            "LEFT JOIN",
        ),
        (
            ITSELF,
            "SELECT label, COUNT(*) FROM nodes GROUP BY label",
            "SELECT label, COUNT(parent) - 1 FROM nodes GROUP BY label",
            None,
        ),
        (
            COMPUTED,
            'SELECT "a b" FROM "my gauges" WHERE n >= 4',
            'SELECT "a b" FROM "my gauges" WHERE n > 4',
            ">=",
        ),
        (VIEW, "SELECT k FROM vw", "SELECT k FROM w", None),
        (
            PLAIN,
            "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 5) SELECT i FROM n",
            "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i <= 5) SELECT i FROM n",
            "<",
        ),
        (PLAIN, "VALUES (1, 2)", "SELECT 1, 3", "2"),
    ],
)
def test_an_unusual_sample_is_explained_as_any_other(
    engine: SQLiteEngine, tmp_path: Path, script: str, reference: str, wrong: str, edit: str | None
) -> None:
    lab = laboratory(engine, tmp_path, script, reference)
    assert smallest_example(lab.bench, wrong) is not None
    found = near_misses(lab.bench, wrong, lab.is_right)
    assert edit is None or edit in [one.new for one in found]


@pytest.mark.parametrize("order", ["ORDER BY RANDOM()", "ORDER BY RANDOM() LIMIT 1"])
def test_a_reference_that_settles_nothing_explains_nothing_and_ends(
    engine: SQLiteEngine, tmp_path: Path, order: str
) -> None:
    lab = laboratory(engine, tmp_path, PLAIN, f"SELECT a FROM t {order}")
    assert smallest_example(lab.bench, "SELECT b FROM t") is None
    assert len(lab.bench.first_made(150)) < 150


@pytest.mark.parametrize(
    "reference",
    [
        "SELECT name FROM big WHERE stones > 150",
        "SELECT b.name FROM big AS b WHERE 150 < b.stones AND b.name LIKE 'H%'",
        "SELECT name FROM counted WHERE heap > 150",
    ],
)
def test_what_is_compared_with_a_column_of_a_view_is_tried(
    engine: SQLiteEngine, tmp_path: Path, reference: str
) -> None:
    script = """
    CREATE TABLE cairns (cairn_id INTEGER PRIMARY KEY, name TEXT NOT NULL, stones INTEGER);
    CREATE VIEW big AS SELECT name, stones FROM cairns WHERE stones > 100;
    CREATE VIEW counted AS SELECT name, stones AS heap FROM cairns;
    INSERT INTO cairns VALUES (1, 'High', 120), (2, 'Twin', 84), (3, 'Hollow', 184), (4, 'Mid', NULL);
    """
    lab = laboratory(engine, tmp_path, script, reference)
    found = {(one.old, one.new) for one in sight_of(lab.bench, lab.run).blind_spots}
    assert {(">", ">="), ("<", "<=")} & found
