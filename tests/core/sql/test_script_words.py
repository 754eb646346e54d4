"""What learners hand in around a query."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import QueryFailure
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.sql.script_words import script_words
from jentrow.services.runtime.engines import engine_named

QUERY = "SELECT name FROM huts ORDER BY name"
AROUND = [
    ("tsql", f"{QUERY}\nGO", "GO is no part of a query", (2, 1)),
    ("tsql", f"{QUERY};\n  go\n", "go is no part of a query", (2, 3)),
    ("tsql", f"USE huts\nGO\n{QUERY}", "USE huts is no part of a query: it sets up", (1, 1)),
    ("tsql", f"SET NOCOUNT ON; {QUERY}", "SET NOCOUNT ON; is no part", (1, 1)),
    ("oracle", f"{QUERY};\n/", "/ is no part of a query", (2, 1)),
    ("db2", f"{QUERY}@", "@ is no part of a query", (1, len(QUERY) + 1)),
    ("mysql", f"{QUERY}\\G", "\\G is no part of a query", (1, len(QUERY) + 1)),
    ("mysql", f"DELIMITER //\n{QUERY}", "DELIMITER // is no part", (1, 1)),
    ("postgres", f"-- mine\n\\timing on\n{QUERY};", "\\timing on is no part of a query", (2, 1)),
    ("sqlite", f".mode box\n{QUERY};", ".mode box is no part of a query", (1, 1)),
    ("sqlite", f"sqlite> {QUERY};", "sqlite> is no SQL: a program writes it", (1, 1)),
    ("mysql", f"MariaDB [huts]> {QUERY};", "MariaDB [huts]> is no SQL", (1, 1)),
    ("postgres", f"huts=# {QUERY};", "huts=# is no SQL", (1, 1)),
    ("duckdb", f"```sql\n{QUERY}\n```\n", "``` is no SQL", (1, 1)),
]


@pytest.mark.parametrize(("dialect", "sql", "words", "place"), AROUND)
def test_what_stands_around_a_query_is_named_with_its_place(
    dialect: str, sql: str, words: str, place: tuple[int, int]
) -> None:
    found = script_words(sql, dialect)
    assert found is not None
    assert found.message.startswith(words)
    assert (found.place.line, found.place.column) == place


@pytest.mark.parametrize(
    "sql",
    [
        QUERY, f"{QUERY};", "SELECT 1 /", "SELECT beds\n/\n2 FROM huts", "beds> 5", "GO", "USE huts;",
        "SET x = 1; SET y = 2; SELECT 1; SELECT 2", "SELECT 1; SELECT 2\nGO", "", "```", ".tables",
    ],
)  # fmt: skip
def test_nothing_is_said_where_no_single_query_is_left(sql: str) -> None:
    assert script_words(sql, "tsql") is None


@given(st.text(alphabet="GO/\\g@`;\n SELECT1>#.USE", max_size=40))
def test_any_text_is_looked_at(sql: str) -> None:
    found = script_words(sql, "postgres")
    assert found is None or found.near in sql


@pytest.mark.parametrize(
    ("engine", "sql", "code"),
    [
        ("sqlite", f".mode box\n{QUERY};", "sql.syntax"),
        ("duckdb", f"```\n{QUERY};\n```", "policy.statement"),
        ("postgresql", f"{QUERY}\\g", "sql.syntax"),
        ("mariadb", f"USE huts; {QUERY}", "policy.statement"),
        ("tsql", f"{QUERY}\nGO", "sql.syntax"),
        ("oracle", f"{QUERY};\n/", "policy.statement"),
    ],
)
def test_the_engine_s_rejection_says_it(engine: str, sql: str, code: str) -> None:
    running = engine_named(engine, workers=1)
    try:
        script = "CREATE TABLE huts (name VARCHAR(9)); INSERT INTO huts VALUES ('Kar')"
        dataset = running.load(DatasetSource("huts", script, keep_rows=True))
        found = running.run(dataset, sql, Limits())
    finally:
        running.close()
    assert isinstance(found, QueryFailure)
    assert found.code == code
    assert found.message.endswith("Write the query alone.")
    assert found.place is not None
