"""MERGE in a script: what matches is changed, and what matches nothing is added."""

from __future__ import annotations

from pathlib import Path

import pytest

from jentrow.core.samples.scripts.reading import read_script
from tests.core.samples.scripts.test_reading import made, rows_of

TABLES = """
CREATE TABLE stocks (lamp VARCHAR(20) PRIMARY KEY, n INT, is_new INT);
INSERT INTO stocks VALUES ('storm', 3, 0);
INSERT INTO stocks VALUES ('head', 5, 0);
CREATE TABLE deliveries (lamp VARCHAR(20), n INT);
INSERT INTO deliveries VALUES ('head', 10);
INSERT INTO deliveries VALUES ('gas', 2);
"""
BOTH = (
    "MERGE INTO stocks{as_} s USING deliveries{as_} d ON (s.lamp = d.lamp) "
    "WHEN MATCHED THEN UPDATE SET s.n = s.n + d.n "
    "WHEN NOT MATCHED THEN INSERT (lamp, n, is_new) VALUES (d.lamp, d.n, 1);"
)


@pytest.mark.parametrize("dialect", ["tsql", "oracle", "db2", "postgres"])
def test_what_matches_is_changed_and_the_rest_added(tmp_path: Path, dialect: str) -> None:
    text = BOTH.format(as_="" if dialect == "oracle" else " AS")
    if dialect == "postgres":
        text = text.replace("SET s.n", "SET n")
    dataset, left_out, _ = made(tmp_path, TABLES + text, dialect)
    assert left_out == []
    assert rows_of(dataset, "stocks") == [("storm", 3, 0), ("head", 15, 0), ("gas", 2, 1)]


@pytest.mark.parametrize(
    ("merge", "rows"),
    [
        (
            "MERGE stocks AS s USING (VALUES ('head', 1), ('gas', 9)) AS d (lamp, n) ON s.lamp = d.lamp "
            "WHEN NOT MATCHED BY TARGET THEN INSERT (lamp, n) VALUES (d.lamp, d.n);",
            [("storm", 3, 0), ("head", 5, 0), ("gas", 9, None)],
        ),
        (
            "MERGE stocks AS s USING deliveries AS d ON s.lamp = d.lamp WHEN MATCHED THEN DELETE;",
            [("storm", 3, 0)],
        ),
        (
            "MERGE stocks AS s USING deliveries AS d ON s.lamp = d.lamp "
            "WHEN MATCHED AND d.n > 10 THEN UPDATE SET n = 0 "
            "WHEN NOT MATCHED AND d.n > 2 THEN INSERT VALUES (d.lamp, d.n, 1);",
            [("storm", 3, 0), ("head", 5, 0)],
        ),
        (
            "MERGE stocks AS s USING (SELECT lamp, SUM(n) AS n FROM deliveries GROUP BY lamp) AS d "
            "ON s.lamp = d.lamp WHEN MATCHED THEN UPDATE SET s.n = d.n, s.is_new = 1;",
            [("storm", 3, 0), ("head", 10, 1)],
        ),
    ],
)
def test_forms_of_it(tmp_path: Path, merge: str, rows: list[tuple[object, ...]]) -> None:
    dataset, left_out, _ = made(tmp_path, TABLES + merge, "tsql")
    assert left_out == []
    assert rows_of(dataset, "stocks") == rows


@pytest.mark.parametrize(
    "whens",
    [
        # One change would hide from the next what it looks for, or show it.
        "WHEN MATCHED THEN DELETE WHEN NOT MATCHED THEN INSERT VALUES (d.lamp, d.n, 1)",
        "WHEN MATCHED AND d.n > 5 THEN UPDATE SET n = 0 WHEN MATCHED THEN DELETE",
        "WHEN MATCHED THEN UPDATE SET lamp = 'x'",
        "WHEN NOT MATCHED BY SOURCE THEN DELETE",
    ],
)
def test_what_would_come_to_another_thing_is_told(whens: str) -> None:
    merge = f"MERGE stocks AS s USING deliveries AS d ON s.lamp = d.lamp {whens};"
    read = read_script(TABLES + merge, "tsql")
    assert [one.text[:12] for one in read.left_out] == ["MERGE stocks"]
    assert len(read.statements) == 4
