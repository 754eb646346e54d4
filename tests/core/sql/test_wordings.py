"""Wordings: what is evened out, and what never is."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.sql.wordings import wording

SAME = [
    ("SELECT name FROM huts", "select  h.NAME as n from huts AS h -- a comment\n;"),
    ("SELECT a FROM t WHERE a = 1 AND b = 2", "SELECT a FROM t WHERE (2 = b) AND (a = 1)"),
    ("SELECT a FROM t WHERE a > 1", "SELECT a FROM t x WHERE 1 < x.a"),
    ("SELECT a FROM t WHERE a IN (1, 2)", "SELECT a FROM t WHERE a IN (2, 1)"),
    ("SELECT a + b * c FROM t", "SELECT c * b + a FROM t"),
    ("SELECT a FROM t WHERE a <> 1", "SELECT a FROM t WHERE a != 1"),
    ("SELECT a FROM t WHERE a = 1 OR b = 2 OR c = 3", "SELECT a FROM t WHERE c = 3 OR (b = 2 OR a = 1)"),
    (
        "SELECT h.name, COUNT(s.id) AS n FROM huts h JOIN stays s ON s.hut = h.id GROUP BY h.id ORDER BY n",
        "SELECT x.name, count(y.id) c FROM huts x INNER JOIN stays y ON x.id = y.hut GROUP BY x.id ORDER BY c",
    ),
    ("SELECT FROM huts", "select from   huts /* nothing is asked for */"),
]  # fmt: skip
OTHERWISE = [
    ("SELECT a FROM t WHERE a > 1", "SELECT a FROM t WHERE a >= 1"),
    ("SELECT a - b FROM t", "SELECT b - a FROM t"),
    ("SELECT a, b FROM t", "SELECT b, a FROM t"),
    ("SELECT a FROM t WHERE a = 1 AND (b = 1 OR c = 1)", "SELECT a FROM t WHERE (a = 1 AND b = 1) OR c = 1"),
    ("SELECT (a + b) * c FROM t", "SELECT a + b * c FROM t"),
    ("SELECT a - (b - c) FROM t", "SELECT a - b - c FROM t"),
    ("SELECT NOT (a AND b) FROM t", "SELECT (NOT a) AND b FROM t"),
    ("SELECT name FROM a JOIN b ON a.x = b.x", "SELECT name FROM a LEFT JOIN b ON a.x = b.x"),
    ("SELECT a FROM t ORDER BY a", "SELECT a FROM t ORDER BY a DESC"),
    ("SELECT a, b AS a2 FROM t ORDER BY a2", "SELECT a, b FROM t ORDER BY a"),
    ("SELECT a FROM t UNION SELECT b FROM u", "SELECT a FROM t UNION ALL SELECT b FROM u"),
    ("SELECT 'A' FROM t", "SELECT 'a' FROM t"),
    ("SELECT FROM huts", "SELECT FROM stays"),
    ("SELECT COUNT(a) FROM t", "SELECT COUNT(DISTINCT a) FROM t"),
]  # fmt: skip


@pytest.mark.parametrize(("one", "other"), SAME)
def test_what_only_looks_different_is_one_wording(one: str, other: str) -> None:
    assert wording(one, "sqlite") == wording(other, "sqlite")


@pytest.mark.parametrize(("one", "other"), OTHERWISE)
def test_what_says_something_else_is_another(one: str, other: str) -> None:
    assert wording(one, "sqlite") != wording(other, "sqlite")


def test_a_text_that_is_too_deep_has_a_wording_all_the_same() -> None:
    deep = "SELECT " + "+".join(f"a{at}" for at in range(3_000))
    assert wording(deep, "sqlite") == wording(deep.replace("SELECT", "select"), "sqlite")


@given(st.text(max_size=60))
def test_any_text_has_a_wording(text: str) -> None:
    assert wording(text, "sqlite") == wording("\n" + text, "sqlite")
