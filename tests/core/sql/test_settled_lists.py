"""What a select list's words tell of its grouping, against what its syntax tree tells."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.sql.freedom.arbitrary import choices_in, ungrouped_columns
from jentrow.core.sql.freedom.settled_lists import all_settled
from jentrow.core.sql.parsing import parsed
from jentrow.core.sql.skeleton import skeleton_of

ITEMS = [
    "name", "h.name", "h.region AS r", "beds b", "COUNT(*)", "SUM(beds) / 2 AS half", "UPPER(name)",
    "COALESCE(beds, COUNT(*))", "MIN(beds, 2)", "MAX(beds)", "COUNT(*) FILTER (WHERE beds > 1)",
    "SUM(beds) OVER ()", "SUM(SUM(beds)) OVER (ORDER BY region)", "GROUP_CONCAT(name, region)",
    "(SELECT MAX(nights) FROM stays)", "(SELECT guest FROM stays s WHERE s.hut_id = h.hut_id)",
    "CASE WHEN region = 'North' THEN beds ELSE COUNT(*) END", "beds % 3", "total(beds) - beds",
    '"name"', "*", "1", "'beds'", "CAST(beds AS INTEGER)", "json_group_array(name)", "-beds",
]  # fmt: skip
KEYS = ["name", "h.name", "region", "1", "2", "UPPER(name)", "r", "2 % beds", "beds", '"name"']


@st.composite
def queries(draw: st.DrawFn) -> str:
    items = draw(st.lists(st.sampled_from(ITEMS), min_size=1, max_size=3))
    keys = draw(st.lists(st.sampled_from(KEYS), max_size=2))
    grouped = f" GROUP BY {', '.join(keys)}" if keys else ""
    sql = f"SELECT {', '.join(items)} FROM huts h{grouped}"
    sql += draw(st.sampled_from(["", " HAVING COUNT(*) > 1", " ORDER BY 1 LIMIT 2"]))
    around = draw(
        st.sampled_from(["{}", "SELECT COUNT(*) FROM ({})", "SELECT name FROM huts UNION {}"])
    )
    return around.format(sql)


@given(queries())
def test_what_the_words_settle_the_tree_does_not_leave_open(sql: str) -> None:
    tree = parsed(sql, "sqlite")
    assert tree is not None, sql
    if all_settled(skeleton_of(sql, "sqlite")):
        assert [column.sql() for column in ungrouped_columns(tree)] == []


@given(st.text(alphabet="SELECT FROM GROUP BY COUNT(),.1ab*'\"", max_size=60))
def test_any_text_is_looked_at(text: str) -> None:
    all_settled(skeleton_of(text, "sqlite"))


@pytest.mark.parametrize(
    "sql",
    [
        "SELECT name, beds * 2 FROM huts",
        "SELECT COUNT(*), SUM(beds) AS beds FROM huts",
        "SELECT h.name, COALESCE(SUM(s.nights), 0) FROM huts h JOIN stays s USING (hut_id) GROUP BY name",
        "SELECT region, name, MIN(beds) FROM huts GROUP BY 1, 2",
        "SELECT name, (SELECT COUNT(*) FROM stays) FROM huts",
        "WITH n AS (SELECT hut_id, COUNT(*) AS c FROM stays GROUP BY hut_id) SELECT name, COALESCE(c, 0) FROM huts LEFT JOIN n USING (hut_id)",
    ],
)  # fmt: skip
def test_what_most_people_write_needs_no_tree(sql: str) -> None:
    assert all_settled(skeleton_of(sql, "sqlite"))


@pytest.mark.parametrize(
    ("value", "is_open"),
    [
        ("MAX(nights)", False),
        ("COALESCE(SUM(nights), 0)", False),
        ("SUM(nights) / COUNT(*) + 1", False),
        ("guest", True),
        ("MIN(nights, 3)", True),
        ("COALESCE(guest, 'nobody')", True),
        ("SUM(nights) OVER ()", True),
        ("(SELECT MAX(beds) FROM huts)", True),
        ("nights + (SELECT MAX(beds) FROM huts)", True),
    ],
)
def test_a_subquery_for_one_value_is_open_unless_an_aggregate_makes_one_row_of_it(
    value: str, is_open: bool
) -> None:
    sql = f"SELECT name, (SELECT {value} FROM stays s WHERE s.hut_id = h.hut_id) FROM huts h"
    assert bool(choices_in(sql, "sqlite")) == is_open
