"""Which names of a result are the author's own, however deep they stand."""

from __future__ import annotations

import pytest

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import LoadedDataset
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.grading.expectations import expect
from jentrow.core.sql.names import named_columns

GAUGES = ["name", "river", "level", "basin"]


@pytest.mark.parametrize(
    ("sql", "named"),
    [
        ("SELECT (name), level + 0, level AS l FROM gauges", ["name", None, "l"]),
        ("SELECT ((g.name)), +level, name COLLATE BINARY FROM gauges g", ["name", None, None]),
        ('SELECT "name", [river], `level`, level AS "high water" FROM gauges',
         ["name", "river", "level", "high water"]),
        ("SELECT * FROM gauges; -- all", GAUGES),
        ("SELECT *, g.*, COUNT(*) OVER () FROM gauges AS g", [*GAUGES, *GAUGES, None]),
        ('SELECT "two words" + 1, * FROM (SELECT level AS "two words" FROM gauges)',
         [None, "two words"]),
        ("SELECT * FROM (SELECT river, COUNT(*) FROM gauges GROUP BY river)", ["river", None]),
        ("SELECT d.* FROM (SELECT UPPER(name), level AS l FROM gauges) AS d", [None, "l"]),
        ("SELECT * FROM (SELECT * FROM (SELECT MAX(level), MIN(level) AS low FROM gauges))",
         [None, "low"]),
        ("WITH c AS (SELECT COUNT(*), 1 AS one FROM gauges) SELECT * FROM c", [None, "one"]),
        ("WITH c (n, one) AS (SELECT COUNT(*), 1 FROM gauges) SELECT * FROM c", ["n", "one"]),
        ("WITH c AS (SELECT COUNT(*) FROM gauges) SELECT n.* FROM c AS n, (SELECT 1 AS x)", [None]),
        ("VALUES (1, 2), (3, 4)", [None, None]),
        ("SELECT * FROM (VALUES (1, 2))", [None, None]),
        ("SELECT column1, column2 AS b FROM (VALUES (1, 2))", ["column1", "b"]),
        ("WITH v (a, b) AS (VALUES (1, 2)) SELECT * FROM v", ["a", "b"]),
        ("SELECT name, name FROM gauges", ["name", "name"]),
        # The engine numbers what comes twice: that is its own name.
        ("SELECT * FROM (SELECT name, name FROM gauges)", ["name", None]),
        ("SELECT COUNT(*) AS n FROM gauges UNION SELECT COUNT(*) FROM readings", ["n"]),
        ("SELECT COUNT(*) FROM gauges UNION SELECT 1 AS n", [None]),
        ("SELECT * FROM gauges NATURAL JOIN (SELECT name, 1 AS one FROM gauges)", [*GAUGES, "one"]),
        ("SELECT * FROM gauges JOIN (SELECT 2 * level, name FROM gauges) AS d USING (name)",
         [*GAUGES, None]),
        ("SELECT d.*, g.basin FROM gauges g JOIN (SELECT LOWER(name) FROM gauges) d", [None, "basin"]),
        ("SELECT rowid, 'text', NULL, TRUE, CURRENT_DATE FROM gauges",
         ["rowid", None, None, None, None]),
        ("SELECT (SELECT MAX(level) FROM gauges), (SELECT 1) AS one", [None, "one"]),
        ("SELECT any, ilike AS fetch FROM (SELECT 1 AS any, 2 AS ilike)", ["any", "fetch"]),
        # What the parser cannot read: whatever stands there as a name.
        ("SELECT name, COUNT(*), MAX(level) AS highest FROM gauges GLOB GROUP BY name",
         ["name", None, "highest"]),
    ],
)  # fmt: skip
def test_names_that_the_author_gave(
    engine: SQLiteEngine, gauges: LoadedDataset, sql: str, named: list[str | None]
) -> None:
    columns = expect(engine, gauges, sql, Limits(), "the reference").result.columns
    assert [column.name if column.named else None for column in columns] == named


def test_a_count_of_names_that_is_not_the_result_s_leaves_what_stands_in_the_text() -> None:
    sql = "SELECT name, level FROM gauges"
    assert named_columns(sql, ["name", "level", "basin"], (), "sqlite") == (True, True, False)
