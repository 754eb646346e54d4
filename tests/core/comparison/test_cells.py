from __future__ import annotations

import datetime as dt
import math
from decimal import Decimal
from typing import Any
from uuid import UUID

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.comparison.cells import CellComparison
from jentrow.core.comparison.rules import ComparisonRules, NumberTolerance
from jentrow.core.values import DateText, TimestampText
from tests.core.comparison.build import due, result, verdict

ZONE = dt.timezone(dt.timedelta(hours=2))
DAY = dt.date(2026, 8, 30)
ID = UUID("12345678123456781234567812345678")

EQUAL: list[tuple[Any, Any, dict[str, Any]]] = [
    (None, None, {}),
    (5, 5.0, {}),
    (5, Decimal("5.00"), {}),
    (True, 1, {}),
    (0.0, -0.0, {}),
    (math.nan, math.nan, {}),
    (Decimal("NaN"), math.nan, {}),
    (0.1 + 0.2, 0.3, {}),
    (10**9 + 0.5, 10**9, {}),
    (1e-13, 0, {}),
    (Decimal("1.0000000000001"), Decimal("1"), {}),
    (DAY, dt.datetime(2026, 8, 30), {}),
    (DateText("infinity"), TimestampText("infinity"), {}),
    (DateText("0044-03-15 BC"), TimestampText("0044-03-15 00:00:00 BC"), {}),
    (DateText("infinity"), "infinity", {"value_types": "printed"}),
    (dt.datetime(2026, 8, 30, 12, tzinfo=ZONE), dt.datetime(2026, 8, 30, 10, tzinfo=dt.UTC), {}),
    ([1, 2.0], (1.0, 2), {}),
    ({"a": 1, "b": [0.1 + 0.2]}, {"b": [0.3], "a": True}, {}),
    (None, "", {"null_equals": "empty_text"}),
    (None, "  ", {"null_equals": "empty_text", "text_space": "trim"}),
    (None, 0, {"null_equals": "zero"}),
    (None, 0.0, {"null_equals": "zero"}),
    (None, 0, {"null_equals": "zero", "value_types": "printed"}),
    (None, "0", {"null_equals": "zero", "value_types": "printed"}),
    (None, 0.0, {"null_equals": "zero", "value_types": "printed"}),
    (None, 0, {"null_equals": "zero", "value_types": "strict"}),
    (None, 0.0, {"null_equals": "zero", "value_types": "strict"}),
    (None, Decimal("0.00"), {"null_equals": "zero", "value_types": "strict"}),
    (None, 0, {"null_equals": "zero", "number_tolerance": NumberTolerance(2.0)}),
    (None, "\u2003\xa0", {"null_equals": "empty_text", "text_space": "collapse"}),
    (1.0, 1.05, {"number_tolerance": NumberTolerance(absolute=0.05)}),
    (0.3, 0.2, {"number_tolerance": NumberTolerance(absolute=0.1)}),
    (100, 99, {"number_tolerance": NumberTolerance(relative=0.01)}),
    ("Straße", "STRASSE", {"text_case": "ignore"}),
    ("\u00a0a ", "a", {"text_space": "trim"}),
    (" a \t b ", "a b", {"text_space": "collapse"}),
    (5, "5", {"value_types": "printed"}),
    (5.0, "5", {"value_types": "printed"}),
    (Decimal("2.50"), "2.5", {"value_types": "printed"}),
    (True, "true", {"value_types": "printed"}),
    (DAY, "2026-08-30", {"value_types": "printed"}),
    (0.1 + 0.2, 0.3, {"value_types": "printed"}),
    (5, 5, {"value_types": "strict"}),
    (0.1 + 0.2, 0.3, {"value_types": "strict"}),
]

DIFFERENT: list[tuple[Any, Any, dict[str, Any]]] = [
    (None, "", {}),
    (None, 0, {}),
    (None, "NULL", {"value_types": "printed"}),
    (5, "5", {}),
    (2**60, 2**60 + 1, {}),
    (Decimal(2**60), Decimal(2**60 + 1), {}),
    (1.0, 1.00001, {}),
    (Decimal("1.00000001"), Decimal("1.00"), {}),
    (math.inf, 1e300, {}),
    (math.nan, None, {}),
    (b"a", "a", {}),
    (ID, str(ID), {}),
    (DAY, dt.datetime(2026, 8, 30, 1), {}),
    (DateText("infinity"), TimestampText("-infinity"), {}),
    (DateText("infinity"), "infinity", {}),
    (DateText("infinity"), "INFINITY", {"text_case": "ignore"}),
    (TimestampText("infinity"), TimestampText("infinity", True), {}),
    (DateText("infinity"), TimestampText("infinity"), {"value_types": "strict"}),
    (DateText("12000-01-01"), TimestampText("12000-01-01 01:00:00"), {}),
    (dt.datetime(2026, 8, 30), dt.datetime(2026, 8, 30, tzinfo=dt.UTC), {}),
    (DAY, "2026-08-30", {}),
    ([1, 2], [2, 1], {}),
    ([1], [1, 1], {}),
    ("a", "A", {}),
    ("a ", "a", {}),
    (" ", "", {}),
    ("a\u001cb", "a b", {"text_space": "collapse"}),
    (5, 5.0, {"value_types": "strict"}),
    (True, 1, {"value_types": "strict"}),
    (True, 1, {"value_types": "printed"}),
    (None, 0, {"null_equals": "empty_text"}),
    (None, "", {"null_equals": "zero"}),
    (None, 1e-13, {"null_equals": "zero"}),
    (None, 1, {"null_equals": "zero", "number_tolerance": NumberTolerance(2.0)}),
    (None, "0", {"null_equals": "zero"}),
    (None, False, {"null_equals": "zero", "value_types": "printed"}),
    (None, " x ", {"null_equals": "empty_text", "text_space": "trim"}),
    (None, " ", {"null_equals": "empty_text"}),
    (1.0, 1.0000001, {"number_tolerance": NumberTolerance(absolute=1e-9)}),
    (5, 6, {"number_tolerance": NumberTolerance(absolute=0.99)}),
]


@pytest.mark.parametrize(("one", "other", "rules"), EQUAL)
def test_these_cells_are_equal(one: Any, other: Any, rules: dict[str, Any]) -> None:
    cells = CellComparison(ComparisonRules(**rules))
    assert cells.equal(one, other)
    assert cells.equal(other, one)
    assert cells.discrete_key(one) == cells.discrete_key(other)
    assert verdict(due([(one,), ("x",)]), result([(other,), ("x",)]), **rules) == "correct"
    assert verdict(due([(other,)]), result([(one,)]), **rules) == "correct"


@pytest.mark.parametrize(("one", "other", "rules"), DIFFERENT)
def test_these_cells_differ(one: Any, other: Any, rules: dict[str, Any]) -> None:
    cells = CellComparison(ComparisonRules(**rules))
    assert not cells.equal(one, other)
    assert not cells.equal(other, one)
    assert cells.key(one) != cells.key(other)


scalars = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-5, 5),
    st.integers(),
    st.floats(),
    st.decimals(-10, 10, places=2),
    st.text(alphabet="aA \t", max_size=3),
    st.binary(max_size=2),
    st.dates(dt.date(2026, 1, 1), dt.date(2026, 1, 3)),
)
rule_sets = st.builds(
    ComparisonRules,
    null_equals=st.sampled_from(["nothing", "empty_text", "zero"]),
    value_types=st.sampled_from(["family", "strict", "printed"]),
    text_case=st.sampled_from(["exact", "ignore"]),
    text_space=st.sampled_from(["exact", "trim", "collapse"]),
    number_tolerance=st.sampled_from([None, NumberTolerance(absolute=0.5)]),
)


@given(scalars, scalars, rule_sets)
def test_keys_and_equality_agree(one: Any, other: Any, rules: ComparisonRules) -> None:
    cells = CellComparison(rules)
    assert cells.equal(one, one)
    assert cells.equal(one, other) == cells.equal(other, one)
    if cells.key(one) == cells.key(other):
        assert cells.equal(one, other)
    if cells.equal(one, other):
        assert cells.discrete_key(one) == cells.discrete_key(other)
        if cells.key(one) != cells.key(other):
            assert cells.is_tolerant({type(one), type(other)})
