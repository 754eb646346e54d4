"""Queries whose result hangs on the moment that they run at."""

from __future__ import annotations

import pytest

from jentrow.core.sql.freedom.moments import hangs_on_the_moment


@pytest.mark.parametrize(
    ("dialect", "sql"),
    [
        ("sqlite", "SELECT date('now')"),
        ("sqlite", "SELECT date ( 'NOW' , '-1 day')"),
        ("sqlite", "SELECT date()"),
        ("sqlite", "SELECT datetime(/* when? */)"),
        ("sqlite", "SELECT strftime('%Y')"),
        ("sqlite", "SELECT CURRENT_DATE"),
        ("sqlite", 'SELECT "random"()'),
        ("sqlite", "SELECT name FROM huts ORDER BY Random()"),
        ("postgres", "SELECT 'today'::date"),
        ("postgres", "SELECT E'now'::timestamp"),
        ("postgres", "SELECT $$now$$::timestamp"),
        ("postgres", "SELECT age(opened) FROM huts"),
        ("postgres", "SELECT gen_random_uuid()"),
        ("duckdb", "SELECT today(), uuid()"),
        ("duckdb", "SELECT * FROM huts TABLESAMPLE 10%"),
        ("mysql", "SELECT CURDATE() - INTERVAL 1 DAY"),
        ("mysql", "SELECT `rand`()"),
        ("tsql", "SELECT GETDATE(), NEWID()"),
        ("oracle", "SELECT SYSDATE FROM dual"),
    ],
)
def test_clocks_and_chance_are_seen_in_every_dialect(dialect: str, sql: str) -> None:
    assert hangs_on_the_moment(sql, dialect)


@pytest.mark.parametrize(
    "sql",
    [
        "SELECT name FROM huts -- not random(), and not now",
        "SELECT date(opened, '-1 month'), strftime('%Y', opened) FROM huts",
        "SELECT date, time FROM readings WHERE note = 'right now it rains'",
        "SELECT julianday(a) - julianday(b) FROM stays",
    ],
)
def test_most_texts_hang_on_the_data_alone(sql: str) -> None:
    assert not hangs_on_the_moment(sql, "sqlite")
