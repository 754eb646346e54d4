from __future__ import annotations

import random
from itertools import permutations
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.comparison import brute
from tests.core.comparison.build import codes, compared, due, result, verdict

small = st.sampled_from([0, 1, None])


@given(
    st.lists(st.tuples(small, small, small), max_size=4),
    st.lists(st.tuples(small, small, small), max_size=4),
)
def test_any_order_finds_a_permutation_exactly_where_there_is_one(one: Any, other: Any) -> None:
    said = verdict(due(one, "a b c"), result(other, "x y z"), column_order="any")
    assert (said == "correct") == brute.same_with_columns_in_any_order(one, other, 3)


@given(st.lists(st.tuples(*[small] * 5), min_size=1, max_size=8), st.permutations(range(5)))
def test_a_permutation_of_columns_is_found(rows: Any, order: Any) -> None:
    turned = [tuple(row[at] for at in order) for row in rows]
    assert (
        verdict(due(rows, "a b c d e"), result(turned, "v w x y z"), column_order="any")
        == "correct"
    )


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


ALIKE = [(1, 1, 2), (5, 5, 6), (7, 7, 8)]


@pytest.mark.parametrize(
    ("due_names", "given_names", "rules", "right"),
    [
        # Two columns hold the same: it is right if one way to pair them has the names.
        ("low low2 high", "low2 low high", {"column_order": "any"}, True),
        ("a b c", "b a c", {"column_order": "any"}, True),
        ("a b c", "b a d", {"column_order": "any"}, False),
        ("a b c", "x y z", {"column_order": "any", "column_names": "ignore"}, True),
        ("a b c", "A B C", {"column_order": "any", "column_names": "caseless"}, True),
        ("a b c", "A B C", {"column_order": "any"}, False),
        ("a b c", "b a c", {}, False),
    ],
)
def test_names_are_right_if_one_pairing_has_them(
    due_names: str, given_names: str, rules: dict[str, Any], right: bool
) -> None:
    rules = {"column_names": "exact"} | rules
    assert (
        verdict(due(ALIKE, due_names), result(ALIKE, given_names), **rules) == "correct"
    ) == right


@pytest.mark.parametrize("order", ["as_given", "any"])
def test_with_extra_columns_names_are_looked_for_among_all_that_fit(order: Any) -> None:
    rules: dict[str, Any] = {
        "extra_columns": "allow",
        "column_names": "exact",
        "column_order": order,
    }
    expectation = due([(1, 2), (3, 4)], "a b")
    assert verdict(expectation, result([(1, 1, 2), (3, 3, 4)], "x a b"), **rules) == "correct"
    assert verdict(expectation, result([(1, 2, 2), (3, 4, 4)], "a x b"), **rules) == "correct"
    assert verdict(expectation, result([(1, 1, 2), (3, 3, 4)], "x y b"), **rules) == "incorrect"
    turned = verdict(expectation, result([(2, 9, 1), (4, 9, 3)], "b x a"), **rules)
    assert (turned == "correct") == (order == "any")


def test_with_extra_columns_names_are_a_first_guess_only() -> None:
    rules: dict[str, Any] = {"extra_columns": "allow", "column_order": "any"}
    misnamed = result([(9, 1, 2), (9, 3, 4)], "a x b")
    assert verdict(due([(1, 2), (3, 4)], "a b"), misnamed, **rules) == "correct"


@given(
    st.lists(st.tuples(small, small, small), min_size=1, max_size=4),
    st.permutations(range(3)),
    st.sampled_from(["a b c", "b a c", "c b a", "a b x", "a x b"]),
)
def test_some_pairing_that_fits_has_the_names(rows: Any, order: Any, names: str) -> None:
    turned = [tuple(row[at] for at in order) for row in rows]
    rules: dict[str, Any] = {"column_order": "any", "column_names": "exact"}
    said = verdict(due(rows, "a b c"), result(turned, names), **rules)
    if set(names.split()) == {"a", "b", "c"}:  # the same names: they alone decide
        pairings = [tuple(names.split().index(one) for one in "abc")]
    else:
        pairings = list(permutations(range(3)))
    fits = any(
        brute.same(rows, [tuple(row[at] for at in pairing) for row in turned])
        and [names.split()[at] for at in pairing] == ["a", "b", "c"]
        for pairing in pairings
    )
    assert (said == "correct") == fits


def test_which_column_is_missing_is_said_only_where_it_can_be_told() -> None:
    expectation = due(
        [("Ferner", "north", 2100), ("Steinkar", "south", 2540)], "name region altitude_m"
    )
    made = result([("Ferner", "2100 m"), ("Steinkar", "2540 m")])
    (missing, *_) = compared(expectation, made).findings
    assert missing.message == "2 columns given, 3 due: 1 too few."
    made_of_it = result([("Ferner", "2100 m"), ("Steinkar", "2540 m")], "name altitude_m||'m'")
    (missing, *_) = compared(expectation, made_of_it).findings
    assert missing.message == "2 columns given, 3 due: region is missing."


def test_a_due_column_without_an_alias_is_called_by_its_place() -> None:
    from jentrow.core.results import Column, Expectation, ResultSet

    columns = (Column("name"), Column("CASE WHEN volume < 42000 THEN 1 END", named=False))
    expectation = Expectation(ResultSet(columns, [("Ferner", 1), ("Steinkar", None)]))
    for rows in ([("Ferner", 2), ("Steinkar", None)], [("Ferner",), ("Steinkar",)], [("Ferner", 1)],
                 [(1, "Ferner"), (None, "Steinkar")]):  # fmt: skip
        for finding in compared(
            expectation, result(rows, "name b" if len(rows[0]) > 1 else "name")
        ).findings:
            assert "CASE" not in f"{finding.message} {finding.evidence}"
    (finding,) = compared(expectation, result([("Ferner", 2), ("Steinkar", None)])).findings
    assert "1 cell of the second column" in finding.message


def test_integers_meet_in_a_float_that_equals_both() -> None:
    big = 10**9
    expectation = due([(big, "a"), (big + 1, "b")], "n t")
    floats = result([("a", float(big)), ("b", float(big))], "x y")
    assert verdict(expectation, floats, column_order="any") == "correct"
    integers = result([("a", big), ("b", big)], "x y")
    assert verdict(expectation, integers, column_order="any") == "incorrect"


@pytest.mark.parametrize("null_equals", ["nothing", "zero", "empty_text"])
@pytest.mark.parametrize("value_types", ["family", "strict", "printed"])
def test_columns_are_paired_by_what_null_equals(null_equals: Any, value_types: Any) -> None:
    expectation = due([(None, 1), (None, 2)], "a b")
    rules = {"column_order": "any", "null_equals": null_equals, "value_types": value_types}
    for values in ([0, 0.0], ["", ""]):
        turned = result([(1, values[0]), (2, values[1])], "x y")
        right = null_equals == ("zero" if values[0] == 0 else "empty_text")
        assert (verdict(expectation, turned, **rules) == "correct") == right


def test_columns_in_any_order_are_found_within_tolerance() -> None:
    expectation = due([(1.0, 5, float("nan")), (2.5, 6, 3.0)], "a b c")
    turned = [(float("nan"), 1.0000000001, 5), (3.0, 2.5000000001, 6)]
    assert verdict(expectation, result(turned, "x y z"), column_order="any") == "correct"
    turned[1] = (3.0, 2.6, 6)
    assert verdict(expectation, result(turned, "x y z"), column_order="any") == "incorrect"


def test_extra_columns_may_repeat_a_row_where_repeats_do_not_count() -> None:
    expectation = due([("a", 1), ("b", 2)], "name n")
    rules: Any = {"column_order": "any", "duplicates": "ignore", "extra_columns": "ignore"}
    turned = [(1, "x", "a"), (1, "y", "a"), (2, "z", "b")]
    assert verdict(expectation, result(turned, "n note name"), **rules) == "correct"
    assert verdict(expectation, result(turned[:2], "n note name"), **rules) == "incorrect"


def test_rows_that_repeat_keep_their_places_in_columns_of_any_order() -> None:
    rows = [("b", 9), ("a", 1), ("b", 9), ("c", 5)]
    expectation = due(rows, "name n", ranks=range(4))
    turned = [row[::-1] for row in rows]
    assert verdict(expectation, result(turned, "n name"), column_order="any") == "correct"
    turned[0], turned[1] = turned[1], turned[0]
    assert verdict(expectation, result(turned, "n name"), column_order="any") == "incorrect"
