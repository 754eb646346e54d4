"""Trees and tokens: types and names as SQLite has them, and one tree from either parser."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from sqlglot import exp

from jentrow.core.samples.schema.problems import expression_problem
from jentrow.core.samples.scripts.reading import read_script
from jentrow.core.sql.freedom.arbitrary import choices_in
from jentrow.core.sql.null_guards import null_guards
from jentrow.core.sql.parsing import parsed, parsed_statement
from jentrow.core.sql.remarks import remarks_on
from jentrow.core.sql.spans import spanned
from jentrow.core.sql.stand_ins.stand_in import stood_in
from jentrow.core.sql.steps.steps import take_apart
from jentrow.core.sql.tokens import tokens_of
from jentrow.core.sql.translation import translated
from jentrow.core.sql.wordings import wording
from tests.core.sql.queries import queries

DIALECTS = ("sqlite", "duckdb", "postgres", "mysql", "tsql", "oracle", "db2")


@pytest.mark.parametrize(
    ("written", "read"),
    [
        ("INTEGER", "INTEGER"),
        ("varying  character ( 20 )", "varying character(20)"),
        ("DECIMAL(10,2)", "DECIMAL(10, 2)"),
        ("any few words", "any few words"),
        ("num(-1, +2)", "num(-1, +2)"),
        ('"my type"', "my type"),
    ],
)
def test_any_words_are_a_type_in_sqlite(written: str, read: str) -> None:
    sql = f"SELECT CAST(level AS {written}) AS shown, basin FROM gauges"
    tree = parsed(sql, "sqlite")
    assert tree is not None
    cast = tree.find(exp.Cast)
    assert cast is not None
    assert cast.to.args["kind"] == read
    assert tree.named_selects == ["shown", "basin"]
    spans = spanned(sql, "sqlite")
    assert spans is not None
    found = spans.tree.find(exp.Cast)
    assert found is not None
    assert spans.text(found) == f"CAST(level AS {written})"


def test_an_alias_inside_a_cast_is_no_type() -> None:
    tree = parsed("SELECT CAST((SELECT MAX(level) AS top FROM gauges) AS INTEGER) AS t", "sqlite")
    assert tree is not None
    assert {alias.alias for alias in tree.find_all(exp.Alias)} == {"t", "top"}


@pytest.mark.parametrize("name", ["any", "if", "prior", "range", "offset", "left", "glob"])
def test_words_of_other_dialects_are_names_in_sqlite(name: str) -> None:
    tree = parsed(f"SELECT {name}, g.{name} AS shown FROM gauges g ORDER BY {name}", "sqlite")
    assert tree is not None
    assert [column.name for column in tree.find_all(exp.Column)] == [name] * 3


def test_a_function_with_such_a_name_is_called() -> None:
    sql = "SELECT if(level > 3, 'high', 'low') FROM gauges"
    spans = spanned(sql, "sqlite")
    assert spans is not None
    called = spans.tree.find(exp.If)
    assert called is not None
    assert spans.text(called) == "if(level > 3, 'high', 'low')"


@given(queries(), st.sampled_from(DIALECTS))
def test_noting_places_changes_no_tree(sql: str, dialect: str) -> None:
    tree, noted = parsed(sql, dialect), spanned(sql, dialect)
    assert (tree is None) == (noted is None)
    if tree is not None and noted is not None:
        assert tree == noted.tree
        assert noted.text(noted.tree) == sql


@pytest.mark.parametrize("dialect", DIALECTS)
@pytest.mark.parametrize("piece", ["(", "CASE WHEN 1 THEN ", "NOT ", "(SELECT ", "abs("])
def test_what_is_nested_beyond_reading_has_no_tree(dialect: str, piece: str) -> None:
    sql = f"SELECT {piece * (15_000 // len(piece))}1"
    assert parsed_statement(sql, dialect) is None
    assert spanned(sql, dialect) is None


def read_everywhere(sql: str, dialect: str) -> None:
    """Gives a text to all that reads trees: none of it may fail, whatever the parser makes of it."""
    parsed_statement(sql, dialect)
    spanned(sql, dialect)
    remarks_on(sql, dialect)
    choices_in(sql, dialect)
    null_guards(sql, dialect)
    take_apart(sql, dialect, {"gauges": ("name", "level")})
    assert len(wording(sql, dialect)) == len(wording("SELECT 1", dialect))
    for other in ("sqlite", "duckdb", "postgres"):
        translated(sql, dialect, other)
    if dialect in ("tsql", "oracle", "db2"):
        stood_in(dialect, sql)
    read_script(sql, dialect)


@pytest.mark.parametrize("dialect", DIALECTS)
@pytest.mark.parametrize(
    "sql",
    [
        "->", "SELECT ->>", "SELECT level FROM gauges ORDER BY ->>", "SELECT name, -> FROM gauges",
        "SELECT name, DATE() FROM gauges", "SELECT TIME(), DATETIME() FROM gauges",
        "DATE_ADD(DATE_ADD $1", "CREATE TABLE g (a DEFAULT (DATE()), CHECK (->>))",
    ],
)  # fmt: skip
def test_a_text_that_the_parser_stumbles_over_is_read_by_nobody(sql: str, dialect: str) -> None:
    read_everywhere(sql, dialect)


PIECES = ["(", ")", ",", "->", "->>", "::", "[", "NOT", "CASE", "DATE()", "AS", "IN", ".", "*", ";"]


@given(queries(), st.sampled_from(DIALECTS), st.data())
def test_no_broken_text_stops_what_reads_trees(sql: str, dialect: str, data: st.DataObject) -> None:
    parts = [sql[token.start : token.end] for token in tokens_of(sql, dialect)]
    for _ in range(data.draw(st.integers(1, 3))):
        at = data.draw(st.integers(0, len(parts) - 1))
        parts[at : at + data.draw(st.integers(0, 1))] = data.draw(
            st.lists(st.sampled_from(PIECES), min_size=1, max_size=2)
        )
    read_everywhere(" ".join(parts), dialect)


@pytest.mark.parametrize("text", ["->>", "DATE(", "level ->", "CAST(", "::"])
def test_what_is_wrong_with_an_expression_is_said_in_words(text: str) -> None:
    said = expression_problem(text)
    assert said
    assert "object expected" not in said
    assert "\n" not in said
