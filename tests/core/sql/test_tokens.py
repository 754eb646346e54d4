"""Texts are cut as the engine cuts them."""

from __future__ import annotations

import itertools

import apsw
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.sql.shape import shape_of
from jentrow.core.sql.tokens import name_of, statements_in, tokens_of, without_comments


@pytest.mark.parametrize(
    ("sql", "tokens"),
    [
        ("SELECT a--b\n-c", ["SELECT", "a", "-", "c"]),
        ("SELECT/**/1/* * / */;", ["SELECT", "1", ";"]),
        ("1/*", ["1", "/", "*"]),
        ("1 /* open ; 'x", ["1"]),
        ("'it''s' \"a\"\"b\" `c``d` [e]]", ["'it''s'", '"a""b"', "`c``d`", "[e]", "]"]),
        ("x'00' X'1f' 'a' -- 'b'", ["x'00'", "X'1f'", "'a'"]),
        ("1_000.5e-3 0x1F .5 5. 1e5", ["1_000.5e-3", "0x1F", ".5", "5.", "1e5"]),
        ("a<=b<>c||d->>'e'->f==g", ["a", "<=", "b", "<>", "c", "||", "d", "->>", "'e'", "->", "f", "==", "g"]),
        ("höhe$1 _x \ufeffz a\xa0b", ["höhe$1", "_x", "z", "a\xa0b"]),
        ("'never closed; SELECT", ["'never closed; SELECT"]),
        ("[" * 50, ["[" * 50]),
    ],
)  # fmt: skip
def test_how_a_text_is_cut(sql: str, tokens: list[str]) -> None:
    assert [sql[one.start : one.end] for one in tokens_of(sql, "sqlite")] == tokens


def test_names_without_their_quotes() -> None:
    sql = """plain "with ""quotes" `back``tick` [brackets] 'text' 7"""
    names = [name_of(sql, one) for one in tokens_of(sql, "sqlite")]
    assert names == ["plain", 'with "quotes', "back`tick", "brackets", None, None]


PIECES = st.sampled_from(
    ["SELECT", "1", "'", '"', "`", "[", "]", "--", "/*", "*/", "*", "/", ";", "\n", " ", "ORDER", "BY",
     "LIMIT", "(", ")", ",", "x'", "ab", "a.b", "''", "-", "\ufeff"]
)  # fmt: skip


@given(st.lists(PIECES, max_size=14).map("".join))
def test_what_is_no_comment_stays_in_its_place(sql: str) -> None:
    bare = without_comments(sql, "sqlite")
    assert len(bare) == len(sql)
    spans = [(one.start, one.end) for one in tokens_of(sql, "sqlite")]
    assert [bare[start:end] for start, end in spans] == [sql[start:end] for start, end in spans]
    assert all(one[1] <= other[0] for one, other in itertools.pairwise(spans))
    between = "".join(
        bare[end:start] for end, start in zip([0, *(end for _, end in spans)], [*(start for start, _ in spans), len(sql)], strict=True)
    )  # fmt: skip
    assert not between.strip(" \n\r")


@given(st.lists(PIECES, max_size=14).map(" ".join))
def test_there_are_as_many_statements_as_the_engine_runs(sql: str) -> None:
    connection = apsw.Connection(":memory:")
    ran: list[str] = []

    def note(cursor: apsw.Cursor, statement: str, _: object) -> bool:
        if cursor.has_vdbe:
            ran.append(statement)
        return True

    cursor = connection.cursor()
    cursor.exec_trace = note
    try:
        list(cursor.execute(sql))
    except apsw.Error:
        return
    assert len(statements_in(sql, "sqlite")) == len(ran)


@pytest.mark.parametrize(
    ("sql", "body", "order", "offset"),
    [
        ("SELECT a FROM t ORDER BY a; -- up", "SELECT a FROM t ", "ORDER BY a", "0"),
        ("/* x */ SELECT a FROM t\nORDER -- by\n BY a LIMIT 3;", "SELECT a FROM t\n", "ORDER -- by\n BY a", "0"),
        ("SELECT a FROM t LIMIT 4 OFFSET 1 + 1 -- x", "SELECT a FROM t ", "", "1 + 1"),
        ("SELECT a FROM t LIMIT (SELECT 1, 2 LIMIT 9), 5;", "SELECT a FROM t ", "", "(SELECT 1, 2 LIMIT 9)"),
        ("SELECT a FROM t; SELECT b FROM t ORDER BY b", "SELECT a FROM t; SELECT b FROM t ORDER BY b", "", "0"),
    ],
)  # fmt: skip
def test_the_outermost_clauses_are_cut_out(sql: str, body: str, order: str, offset: str) -> None:
    shape = shape_of(sql, "sqlite")
    assert (shape.body, shape.order, shape.offset) == (body, order, offset)


@pytest.mark.parametrize(
    ("sql", "without"),
    [
        ("SELECT DISTINCT a FROM t", "SELECT   a FROM t"),
        ("WITH x AS (SELECT DISTINCT 1) SELECT /**/ DISTINCT a FROM t", "WITH x AS (SELECT DISTINCT 1) SELECT /**/   a FROM t"),
        ("SELECT a FROM t UNION SELECT DISTINCT b FROM t", "SELECT a FROM t UNION SELECT DISTINCT b FROM t"),
        ("SELECT COUNT(DISTINCT a) FROM t", "SELECT COUNT(DISTINCT a) FROM t"),
    ],
)  # fmt: skip
def test_the_distinct_of_the_outermost_select(sql: str, without: str) -> None:
    assert shape_of(sql, "sqlite").body_with_repeats == without


@pytest.mark.parametrize(
    "text", ["q'[it's; so]'", "Q'{a}'", "nq'!a'b!'", "q'(x)'", "q'<'>'", "q'[never closed"]
)
def test_a_text_of_oracle_in_which_a_quote_is_a_quote(text: str) -> None:
    (only, *rest) = tokens_of(text, "oracle")
    assert (only.kind, only.start, only.end, rest) == ("text", 0, len(text), [])
