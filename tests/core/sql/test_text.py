from __future__ import annotations

import pytest

from jentrow.core.sql.shape import shape_of
from jentrow.core.sql.text import Place, first_word, is_blank, place_of_byte, place_of_text


@pytest.mark.parametrize(
    ("sql", "word"),
    [
        ("SELECT 1", "SELECT"),
        ("\n -- a note\n/* and\n another */ ; with x AS (SELECT 1) SELECT 1", "WITH"),
        ("(SELECT 1)", ""),
        ("-- only", ""),
        ("/* never closed SELECT", ""),
    ],
)
def test_the_first_word(sql: str, word: str) -> None:
    assert first_word(sql) == word


@pytest.mark.parametrize("sql", ["", " \n\t;", "-- x", "/* x */ -- y\n;;", "/* open"])
def test_nothing_but_blanks(sql: str) -> None:
    assert is_blank(sql)
    assert not is_blank(sql.replace("open", "open */") + "\n1")


def test_places_count_characters_not_bytes() -> None:
    sql = "SELECT 'é',\n  höhe FROM huts"
    offset = sql.encode().index("höhe".encode())
    assert place_of_byte(sql, offset) == Place(2, 3)
    assert place_of_text(sql, "FROM") == Place(2, 8)
    assert place_of_text(sql, "hut") is None


@pytest.mark.parametrize(
    ("sql", "ordered", "limited"),
    [
        ("SELECT 1", False, False),
        ("SELECT a FROM t ORDER BY a", True, False),
        ("SELECT a FROM t LIMIT 1", False, True),
        ("SELECT a FROM (SELECT a FROM t ORDER BY a LIMIT 1)", False, False),
        ("SELECT RANK() OVER (ORDER BY a) FROM t", False, False),
        ("WITH x AS (SELECT a FROM t ORDER BY a) SELECT a FROM x ORDER BY 1 LIMIT 1", True, True),
        ("SELECT a FROM t UNION SELECT b FROM t ORDER BY 1", True, False),
        ("SELECT group_concat(a ORDER BY a) FROM t", False, False),
        ("SELECT 'ORDER BY' AS \"LIMIT\" FROM t -- ORDER BY 1", False, False),
        # What the parser cannot read is still told by its words.
        ("SELECT a FROM t ORDER BY a NOT INDEXED OR OR LIMIT 3", True, True),
        ("SELECT (SELECT a FROM FROM t ORDER BY a) FROM t", False, False),
        ("SELECT 'never closed", False, False),
        ("SELECT " + "(" * 5000 + "1" + ")" * 5000 + " ORDER BY 1", True, False),
    ],
)
def test_what_a_query_says_of_order_and_limit(sql: str, ordered: bool, limited: bool) -> None:
    shape = shape_of(sql, "sqlite")
    assert (shape.ordered, shape.limited) == (ordered, limited)
