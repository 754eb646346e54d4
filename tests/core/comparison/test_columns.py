from __future__ import annotations

import random
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.comparison import brute
from tests.core.comparison.build import codes, compared, due, result, verdict

small = st.sampled_from([0, 1, None])


@settings(max_examples=300, deadline=None)
@given(
    st.lists(st.tuples(small, small, small), max_size=4),
    st.lists(st.tuples(small, small, small), max_size=4),
)
def test_any_order_finds_a_permutation_exactly_where_there_is_one(one: Any, other: Any) -> None:
    said = verdict(due(one, "a b c"), result(other, "x y z"), column_order="any")
    assert (said == "correct") == brute.same_with_columns_in_any_order(one, other, 3)


@settings(max_examples=100, deadline=None)
@given(st.lists(st.tuples(*[small] * 5), min_size=1, max_size=8), st.permutations(range(5)))
def test_a_permutation_of_columns_is_found(rows: Any, order: Any) -> None:
    turned = [tuple(row[at] for at in order) for row in rows]
    assert (
        verdict(due(rows, "a b c d e"), result(turned, "v w x y z"), column_order="any")
        == "correct"
    )


@settings(max_examples=100, deadline=None)
@given(
    st.lists(st.tuples(small, small), max_size=4),
    st.lists(st.tuples(small, small, small, small), max_size=4),
)
def test_more_columns_are_allowed_where_the_due_ones_are_among_them(one: Any, other: Any) -> None:
    picks = [(i, j) for i in range(4) for j in range(4) if i != j]
    rising = [(i, j) for i, j in picks if i < j]
    for order, wanted in (("any", picks), ("as_given", rising)):
        said = verdict(
            due(one, "a b"),
            result(other, "w x y z"),
            column_order=order,
            extra_columns="allow",
        )
        right = any(brute.same(one, [(row[i], row[j]) for row in other]) for i, j in wanted)
        assert (said == "correct") == right


def test_names_decide_where_both_sides_have_the_same() -> None:
    expectation = due([(1, 2), (3, 4)], "low high")
    assert (
        verdict(expectation, result([(2, 1), (4, 3)], "HIGH low"), column_order="any") == "correct"
    )
    assert (
        verdict(expectation, result([(2, 1), (4, 3)], "low high"), column_order="any")
        == "incorrect"
    )


def look_alike(width: int, rows: int, seed: int) -> list[tuple[int, ...]]:
    """Columns that all hold as many zeros as ones, and differ only in how they go together."""
    source = random.Random(seed)
    half = [0] * (rows // 2) + [1] * (rows // 2)
    return list(zip(*[source.sample(half, rows) for _ in range(width)], strict=True))


def test_twelve_look_alike_columns_are_told_apart() -> None:
    rows = look_alike(12, 1000, seed=7)
    order = random.Random(1).sample(range(12), 12)
    turned = [tuple(row[at] for at in order) for row in rows]
    names = " ".join(f"x{at}" for at in range(12))
    assert verdict(due(rows), result(turned, names), column_order="any") == "correct"
    turned[0], turned[1] = turned[0][::-1], turned[1]
    assert verdict(due(rows), result(turned, names), column_order="any") == "incorrect"


def test_the_search_does_not_blow_up_where_all_columns_are_symmetric() -> None:
    rows = [tuple(int(at == one) for at in range(12)) for one in range(12)] * 80
    names = " ".join(f"x{at}" for at in range(12))
    assert verdict(due(rows), result(rows[::-1], names), column_order="any") == "correct"
    broken = [*rows]
    broken[0], broken[1] = (0,) * 12, (1, 1, *(0,) * 10)
    assert verdict(due(rows), result(broken, names), column_order="any") == "incorrect"


@pytest.mark.parametrize("rule", ["ignore", "caseless", "exact"])
def test_column_names_count_as_the_rule_says(rule: Any) -> None:
    expectation = due([(1,)], "Beds")
    right = {"ignore": "any beds Beds", "caseless": "beds Beds", "exact": "Beds"}[rule].split()
    for name in ("any", "beds", "Beds"):
        said = verdict(expectation, result([(1,)], name), column_names=rule)
        assert (said == "correct") == (name in right)


def test_a_name_that_the_engine_made_up_is_never_compared() -> None:
    from jentrow.core.results import Column, Expectation, ResultSet

    expectation = Expectation(ResultSet((Column("count(*)", named=False),), [(3,)]))
    assert verdict(expectation, result([(3,)], "beds"), column_names="exact") == "correct"


def test_what_is_said_of_columns() -> None:
    assert codes(compared(due([(1, 2)], "a b"), result([(1,)], "a"))) == ["columns.missing"]
    assert codes(compared(due([(1,)], "a"), result([(1, 2)], "a b"))) == ["columns.extra"]
    swapped = compared(due([(1, "x"), (2, "y")], "a b"), result([("x", 1), ("y", 2)], "p q"))
    assert codes(swapped) == ["columns.order"]
    assert "change places" in swapped.findings[0].message
    renamed = compared(due([(1,)], "beds"), result([(1,)], "sleeps"), column_names="exact")
    assert codes(renamed) == ["columns.name"]


def test_no_rows_still_have_columns() -> None:
    assert verdict(due([], "a b"), result([], "x y")) == "correct"
    assert verdict(due([], "a b"), result([], "x")) == "incorrect"
