"""Queries over the gauges and readings of the fixtures, put together at random."""

from __future__ import annotations

from hypothesis import strategies as st

CONDITIONS = [
    "level > 2", "level >= 2.5 AND basin <> 1", "river IS NULL", "river = NULL", "name LIKE 'b%'",
    "level BETWEEN 1 AND 3", "basin IN (SELECT basin FROM gauges WHERE level > 2)",
    "EXISTS (SELECT 1 FROM readings AS r WHERE r.gauge = gauges.name)",
    "NOT (river = 'Lind' OR level < (SELECT AVG(level) FROM gauges))",
    "CASE WHEN basin = 1 THEN level > 2 ELSE river = 'Sarn' END",
]  # fmt: skip
SELECTS = [
    "SELECT name, level", "SELECT DISTINCT river", "SELECT level * 2 AS twice, basin", "SELECT *",
    "SELECT name, RANK() OVER (PARTITION BY river ORDER BY level) AS place",
    "SELECT UPPER(name) AS name, (SELECT COUNT(*) FROM readings WHERE gauge = name) AS n",
]  # fmt: skip
SOURCES = [
    "gauges", "gauges JOIN readings ON readings.gauge = gauges.name",
    "gauges LEFT JOIN readings ON readings.gauge = gauges.name AND flow > 7",
    "gauges, readings", "(SELECT name, level, basin, river FROM gauges) AS gauges",
]  # fmt: skip
GROUPED = [
    "SELECT river, COUNT(*) AS n{} GROUP BY river", "SELECT basin, MAX(level){} GROUP BY 1",
    "SELECT COUNT(*), AVG(level){}", "SELECT river, SUM(level) AS s{} GROUP BY river HAVING s > 2",
    "SELECT LOWER(name) AS n, COUNT(river){} GROUP BY n HAVING COUNT(*) > 1",
]  # fmt: skip


@st.composite
def queries(draw: st.DrawFn) -> str:
    source = draw(st.sampled_from(SOURCES))
    condition = draw(st.none() | st.sampled_from(CONDITIONS))
    tail = f"\nFROM {source}" + (f" WHERE {condition}" if condition else "")
    if draw(st.booleans()):
        sql = draw(st.sampled_from(GROUPED)).format(tail)
    else:
        sql = draw(st.sampled_from(SELECTS)) + tail
    shape = draw(st.sampled_from(["plain", "plain", "union", "cte"]))
    if shape == "union":
        keyword = draw(st.sampled_from(["UNION", "UNION ALL", "EXCEPT", "INTERSECT"]))
        sql = f"SELECT river FROM gauges {keyword} SELECT gauge FROM readings"
    elif shape == "cte":
        sql = f"WITH held AS ({sql})\nSELECT COUNT(*) FROM held"
    if draw(st.booleans()):
        sql += "\nORDER BY 1" + draw(
            st.sampled_from(["", " DESC", " LIMIT 2", " LIMIT 3 OFFSET 1"])
        )
    return sql
