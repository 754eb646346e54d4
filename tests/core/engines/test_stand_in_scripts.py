"""A sample's script in the dialect of a stand-in: loaded as it stands, and what is wrong in its line."""

from __future__ import annotations

import pytest

from jentrow.core.engines.limits import Limits
from jentrow.core.errors import InvalidSample
from jentrow.core.results import ResultSet
from jentrow.core.samples.sources import DatasetSource
from jentrow.services.runtime.engines import engine_named
from tests.core.samples.scripts.test_db2 import SCRIPT as DB2
from tests.core.samples.scripts.test_oracle import SCRIPT as ORACLE
from tests.core.samples.scripts.test_tsql import BY_A_PROGRAM, BY_HAND

LOADED = [
    ("tsql", BY_HAND, "SELECT TOP 1 name, beds FROM dbo.huts ORDER BY hut_id DESC", [("Low Fir!", 12)]),
    ("tsql", BY_A_PROGRAM, "SELECT [name] FROM [dbo].[huts] WHERE [open] = 1", [("Kar",)]),
    ("oracle", ORACLE, "SELECT NVL(guest, '-') FROM stays WHERE nights > 1", [("Ada",)]),
    ("db2", DB2, "SELECT name FROM huts ORDER BY hut_id FETCH FIRST 1 ROW ONLY", [("Kar",)]),
]  # fmt: skip


@pytest.mark.parametrize(("engine", "script", "query", "rows"), LOADED)
def test_a_script_is_loaded_as_it_stands(
    engine: str, script: str, query: str, rows: list[tuple[object, ...]]
) -> None:
    running = engine_named(engine, workers=1)
    try:
        dataset = running.load(DatasetSource("huts", script, keep_rows=True))
        found = running.run(dataset, query, Limits())
        assert isinstance(found, ResultSet), found
        assert [tuple(row) for row in found.rows] == rows
    finally:
        running.close()


@pytest.mark.parametrize(
    ("engine", "script", "words"),
    [
        ("tsql", "USE h\nGO\nCREATE TABLE a (x INT)\nINSERT b VALUES (1)", r"in line 4: no such table: b"),
        ("tsql", "USE h\nGO\nCREATE TABLE a (x INT\nGO", r"in line 3: it cannot be read: .*\(CREATE TABLE a"),
        ("oracle", "SET ECHO ON\nCREATE TABLE a (x NUMBER);\nINSERT INTO a\nVALUES (1, 2);", r"in line 3: table a has 1 columns"),
        ("db2", "CREATE TABLE a (x INT NOT NULL);\nINSERT INTO a VALUES (1);\nINSERT INTO a VALUES (NULL);", r"in line 3: NOT NULL"),
    ],
)  # fmt: skip
def test_what_does_not_load_is_told_with_the_scripts_own_line(
    engine: str, script: str, words: str
) -> None:
    running = engine_named(engine, workers=1)
    try:
        with pytest.raises(InvalidSample, match=words):
            running.load(DatasetSource("huts", script, keep_rows=True))
    finally:
        running.close()
