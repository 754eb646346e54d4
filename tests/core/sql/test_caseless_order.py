"""A query whose ORDER BY ignores letter case, in its author's words."""

from __future__ import annotations

import pytest

from jentrow.core.sql.freedom.caseless_order import count_sort_keys, with_caseless_keys
from jentrow.core.sql.shape import shape_of


@pytest.mark.parametrize(
    ("sql", "which", "caseless"),
    [
        ("SELECT a FROM t ORDER BY a", {0}, "SELECT a FROM t ORDER BY a COLLATE NOCASE"),
        (
            "SELECT a, b FROM t ORDER BY lower(b, 2) || 'x, ASC' DESC, 1 -- both\nLIMIT 3;",
            {0, 1},
            "SELECT a, b FROM t ORDER BY (lower(b, 2) || 'x, ASC') COLLATE NOCASE DESC, "
            "1 COLLATE NOCASE -- both\nLIMIT 3",
        ),
        (
            "SELECT a FROM t ORDER BY a ASC NULLS LAST, b",
            {1},
            "SELECT a FROM t ORDER BY a ASC NULLS LAST, b COLLATE NOCASE",
        ),
        (
            "SELECT 'ORDER BY a' FROM t ORDER BY a",
            {0},
            "SELECT 'ORDER BY a' FROM t ORDER BY a COLLATE NOCASE",
        ),
    ],
)
def test_keys_are_sorted_without_case(sql: str, which: set[int], caseless: str) -> None:
    shape = shape_of(sql, "sqlite")
    assert max(which) < count_sort_keys(shape, "sqlite")
    assert with_caseless_keys(shape, "sqlite", which) == caseless


def test_other_dialects_have_their_own_way() -> None:
    sql = "SELECT a FROM t ORDER BY a DESC"
    shape = shape_of(sql, "postgres")
    assert with_caseless_keys(shape, "postgres", {0}) == "SELECT a FROM t ORDER BY LOWER(a) DESC"
