from __future__ import annotations

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import LoadedDataset
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.results import ResultSet
from jentrow.core.sql.layout import LayoutRules, lay_out
from tests.core.sql.queries import queries

ALL = LayoutRules("upper", True, True, True, True)

PAIRS = [
    (
        "select name,region from huts where beds>=4 order by name",
        "SELECT name,\n       region\nFROM huts\nWHERE beds >= 4\nORDER BY name",
    ),
    (
        "SELECT COUNT( * ),-beds , left(name,2) FROM huts",
        "SELECT COUNT( * ),\n       -beds,\n       left(name, 2)\nFROM huts",
    ),
    (
        "with a as (select name,beds from huts where beds > 4 and region = 'from where, by')\n"
        "select * from a left join huts using(name)",
        "WITH a AS (SELECT name,\n                  beds\n           FROM huts\n"
        "           WHERE beds > 4 AND region = 'from where, by')\n"
        "SELECT *\nFROM a\nLEFT JOIN huts USING(name)",
    ),
    (
        "SELECT name -- the name, from here\n   FROM huts\nWHERE a IS DISTINCT FROM b\nAND beds = 1",
        "SELECT name -- the name, from here\n   FROM huts\nWHERE a IS DISTINCT FROM b\n    AND beds = 1",
    ),
    (
        "SELECT name\n     , beds\nFROM huts\nWHERE beds IN (SELECT MAX(beds) FROM huts)",
        "SELECT name\n     , beds\nFROM huts\nWHERE beds IN (SELECT MAX(beds) FROM huts)",
    ),
]


@pytest.mark.parametrize(("before", "after"), PAIRS)
def test_a_text_as_it_could_be(before: str, after: str) -> None:
    layout = lay_out(before, ALL, "sqlite")
    assert layout.text == after
    assert bool(layout.changes) == (before != after)
    assert lay_out(after, ALL, "sqlite").changes == ()


def test_only_the_rules_that_are_chosen_count() -> None:
    sql = "select name,beds from huts"
    assert lay_out(sql, LayoutRules(), "sqlite").text == sql
    assert lay_out(sql, LayoutRules(spacing=True), "sqlite").text == "select name, beds from huts"
    cased = lay_out(sql, LayoutRules(keyword_case="upper"), "sqlite")
    assert cased.text == "SELECT name,beds FROM huts"
    assert [(one.place.line, one.place.column) for one in cased.changes] == [(1, 1), (1, 18)]


@pytest.mark.parametrize(
    "sql", ["SELECT 'open", "select left from right", "", "select (((", "select 1; select 2"]
)
def test_what_cannot_be_read_stays_as_it_is(sql: str) -> None:
    layout = lay_out(sql, ALL, "sqlite")
    assert layout.text == sql
    assert layout.changes == ()


def test_a_name_that_is_a_keyword_elsewhere_keeps_its_letters() -> None:
    sql = "SELECT h.left, 'select' AS full\nFROM huts AS h"
    assert lay_out(sql, LayoutRules(keyword_case="lower"), "sqlite").text == (
        "select h.left, 'select' as full\nfrom huts as h"
    )


def roughened(sql: str, chance: list[int]) -> str:
    """The same query with other white space and another case here and there."""
    words = re.split(r"(\s+)", sql)
    blanks = [" ", "  ", "\n", "\n   ", " \n"]
    return "".join(
        blanks[chance[at % len(chance)] % 5]
        if word.isspace()
        else (word.lower() if word.isupper() and chance[at % len(chance)] % 2 else word)
        for at, word in enumerate(words)
    )


@given(
    sql=queries(),
    chance=st.lists(st.integers(0, 9), min_size=5, max_size=9),
    rules=st.builds(
        LayoutRules,
        st.sampled_from([None, "upper", "lower"]),
        *[st.booleans() for _ in range(4)],
    ),
)
def test_the_layout_never_changes_the_meaning(
    sql: str, chance: list[int], rules: LayoutRules, engine: SQLiteEngine, gauges: LoadedDataset
) -> None:
    before = roughened(sql, chance)
    layout = lay_out(before, rules, "sqlite")
    assert "".join(layout.text.split()).lower() == "".join(before.split()).lower()
    ours, theirs = (engine.run(gauges, text, Limits()) for text in (before, layout.text))
    assert isinstance(ours, ResultSet)
    assert isinstance(theirs, ResultSet)
    assert (ours.names, list(ours.rows)) == (theirs.names, list(theirs.rows))
    assert lay_out(layout.text, rules, "sqlite").changes == ()
