"""The verdict over rows, held against a slow comparison that tries everything."""

from __future__ import annotations

import random
from collections.abc import Iterator
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.comparison import rows as rows_module
from jentrow.core.comparison.rules import NumberTolerance
from jentrow.core.errors import ReferenceFails
from tests.core.comparison import brute
from tests.core.comparison.build import compared, due, result, verdict

cells = st.sampled_from([None, 0, 1, 2, 0.5, 1.0, 1.0000000001, "a", "A", ""])
rows_of_two = st.lists(st.tuples(cells, cells), max_size=4)


@given(rows_of_two, rows_of_two)
def test_bags_as_the_slow_comparison_has_them(one: Any, other: Any) -> None:
    said = verdict(due(one, width=2), result(other, width=2))
    assert (said == "correct") == brute.same(one, other)


@given(rows_of_two, st.randoms(use_true_random=False))
def test_a_permutation_never_changes_the_verdict(rows: Any, source: random.Random) -> None:
    shuffled = source.sample(rows, len(rows))
    assert verdict(due(rows, width=2), result(shuffled, width=2)) == "correct"


@given(st.lists(st.tuples(cells, cells), min_size=1, max_size=6), st.data())
def test_one_changed_cell_always_changes_it(rows: Any, data: st.DataObject) -> None:
    at = data.draw(st.integers(0, len(rows) - 1))
    changed = [*rows]
    changed[at] = (rows[at][0], "elsewhere")
    assert verdict(due(rows), result(changed)) == "incorrect"
    assert verdict(due(changed), result(rows)) == "incorrect"


@given(rows_of_two, rows_of_two, st.sampled_from(["count", "ignore"]))
def test_comparison_is_symmetric(one: Any, other: Any, duplicates: Any) -> None:
    forth = verdict(due(one, width=2), result(other, width=2), duplicates=duplicates)
    back = verdict(due(other, width=2), result(one, width=2), duplicates=duplicates)
    assert forth == back


near = st.sampled_from([0.0, 0.4, 0.8, 1.2, 1.6, 2.0])


@given(st.lists(st.tuples(near), max_size=5), st.lists(st.tuples(near), max_size=5))
def test_tolerance_never_pairs_wrongly(one: Any, other: Any) -> None:
    said = verdict(
        due(one, width=1), result(other, width=1), number_tolerance=NumberTolerance(absolute=0.45)
    )
    assert (said == "correct") == brute.same(one, other, absolute=0.45)


@given(st.lists(st.tuples(near, near), max_size=4), st.lists(st.tuples(near, near), max_size=4))
def test_tolerance_in_two_columns(one: Any, other: Any) -> None:
    said = verdict(
        due(one, width=2), result(other, width=2), number_tolerance=NumberTolerance(absolute=0.45)
    )
    assert (said == "correct") == brute.same(one, other, absolute=0.45)


def test_a_pair_made_by_equal_keys_parts_where_that_pairs_all() -> None:
    rules = {"number_tolerance": NumberTolerance(absolute=1.0)}
    assert verdict(due([(1.0,), (2.0,)]), result([(1.0,), (0.0,)]), **rules) == "correct"


@st.composite
def ordered_cases(draw: st.DrawFn) -> tuple[Any, ...]:
    rows = draw(st.lists(st.tuples(st.sampled_from([1, 2, 3, "x"])), max_size=5))
    steps = draw(st.lists(st.booleans(), min_size=len(rows), max_size=len(rows)))
    ranks: list[int] = []
    for step in steps:
        ranks.append((ranks[-1] if ranks else 1) + int(step and bool(ranks)))
    spare: dict[int, list[Any]] = {}
    if ranks:
        extra = draw(st.lists(st.tuples(st.sampled_from([1, 2, 4])), max_size=2))
        spare = {ranks[-1]: extra}
        if draw(st.booleans()):
            spare[ranks[0]] = [*spare.get(ranks[0], []), (5,)]
    given_rows = draw(
        st.one_of(
            st.permutations(rows),
            st.lists(st.tuples(st.sampled_from([1, 2, 3, 4, 5, "x"])), max_size=5),
        )
    )
    return rows, ranks, spare, given_rows


@given(ordered_cases())
def test_ties_and_cut_ties_as_the_slow_comparison_has_them(case: tuple[Any, ...]) -> None:
    rows, ranks, spare, given_rows = case
    choices = [(rank, row) for rank, held in spare.items() for row in held]
    said = verdict(due(rows, ranks=ranks, choices=choices, width=1), result(given_rows, width=1))
    assert (said == "correct") == brute.same(rows, given_rows, ranks=ranks, spare=spare)


@given(ordered_cases())
def test_a_cut_tie_leaves_a_choice_where_order_is_free(case: tuple[Any, ...]) -> None:
    rows, ranks, spare, given_rows = case
    choices = [(rank, row) for rank, held in spare.items() for row in held]
    said = verdict(
        due(rows, ranks=ranks, choices=choices, width=1),
        result(given_rows, width=1),
        row_order="ignore",
    )
    right = any(
        brute.same(list(one), given_rows) for one in brute.allowed_results(rows, ranks, spare)
    )
    assert (said == "correct") == right


@given(ordered_cases())
def test_as_listed_wants_the_very_sequence(case: tuple[Any, ...]) -> None:
    rows, ranks, _, given_rows = case
    said = verdict(
        due(rows, ranks=ranks, width=1), result(given_rows, width=1), row_order="as_listed"
    )
    assert (said == "correct") == (rows == list(given_rows))


@given(rows_of_two, rows_of_two)
def test_without_repeats_sets_are_compared(one: Any, other: Any) -> None:
    said = verdict(due(one, width=2), result(other, width=2), duplicates="ignore")
    covered = all(
        any(all(brute.equal(a, b, 0) for a, b in zip(x, y, strict=True)) for y in there)
        for here, there in ((one, other), (other, one))
        for x in here
    )
    assert (said == "correct") == covered


def test_without_repeats_the_first_occurrences_give_the_order() -> None:
    expectation = due([(1,), (2,), (1,), (3,)], ranks=[1, 2, 3, 4])
    assert verdict(expectation, result([(1,), (2,), (3,)]), duplicates="ignore") == "correct"
    assert verdict(expectation, result([(2,), (1,), (3,)]), duplicates="ignore") == "incorrect"


def test_without_repeats_a_cut_tie_still_leaves_a_choice() -> None:
    expectation = due([(1,), (2,), (2,)], ranks=[1, 2, 2], choices=[(2, (9,))])
    for given_rows in ([(1,), (2,)], [(1,), (2,), (9,)], [(1,), (9,), (2,)]):
        assert verdict(expectation, result(given_rows), duplicates="ignore") == "correct"
    for given_rows in ([(1,), (9,)], [(1,), (3,)], [(2,), (1,)], [(1,)]):
        assert verdict(expectation, result(given_rows), duplicates="ignore") == "incorrect"


def test_order_that_the_reference_does_not_give_cannot_be_required() -> None:
    with pytest.raises(ReferenceFails, match="has no ORDER BY"):
        compared(due([(1,)]), result([(1,)]), row_order="required")


def test_an_unknown_tie_leaves_only_the_sequence_itself() -> None:
    from dataclasses import replace

    expectation = replace(due([(1,), (2,)], ranks=[1, 1]), ranks=None, ties_known=False)
    assert verdict(expectation, result([(1,), (2,)])) == "correct"
    assert verdict(expectation, result([(2,), (1,)])) == "incorrect"


mixed = st.sampled_from([None, 0, 1, 0.4, 0.8, 1.0, 1.2, 1.0000000001, "a"])
mixed_rows = st.lists(st.tuples(mixed, st.sampled_from([0.0, 0.4, 0.8])), max_size=4)


@pytest.fixture(scope="module")
def paired_in_order_first() -> Iterator[None]:
    """As in large results: rows within tolerance are first paired in their order."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(rows_module, "FEW_LEFT", -1)
        yield


@pytest.mark.usefixtures("paired_in_order_first")
@given(
    st.one_of(
        st.tuples(*[st.lists(st.tuples(near), max_size=5)] * 2), st.tuples(mixed_rows, mixed_rows)
    ),
    st.sampled_from([None, 0.45]),
)
def test_large_results_are_compared_alike(sides: Any, absolute: float | None) -> None:
    one, other = sides
    width = len([*one, *other, (0,)][0])
    tolerance = NumberTolerance(absolute=absolute) if absolute else None
    said = verdict(due(one, width=width), result(other, width=width), number_tolerance=tolerance)
    assert (said == "correct") == brute.same(one, other, absolute=absolute or 0.0)


def test_a_coarse_tolerance_over_many_rows() -> None:
    source = random.Random(3)
    one = [(source.random(), "a") for _ in range(3000)]
    rules = {"number_tolerance": NumberTolerance(absolute=0.5)}
    moved = [(value + 0.001, name) for value, name in one]
    assert verdict(due(one), result(moved[::-1]), **rules) == "correct"
    assert verdict(due(one), result([(5.0, "a"), *moved[1:]]), **rules) == "incorrect"


def test_one_changed_row_among_many() -> None:
    one = [(at, at * 0.5, f"gauge {at % 7}") for at in range(30_000)]
    other = one[::-1]
    other[77] = (other[77][0], other[77][1], "elsewhere")
    comparison = compared(due(one), result(other))
    assert comparison.verdict == "incorrect"
    assert [finding.message for finding in comparison.findings] == [
        "1 cell of c2 holds another value than is due."
    ]
    difference = comparison.difference
    assert difference.counts["agrees"] == 29_999
    assert difference.counts["agrees"] + 1 == len(difference.rows) + difference.agreeing


def test_integers_beyond_every_float_have_a_tolerance_too() -> None:
    big = 10**400
    rules = {"number_tolerance": NumberTolerance(relative=0.1)}
    rows = [(big * at,) for at in range(1, 20)]
    near = [(big * at + big // 100,) for at in range(1, 20)]
    assert verdict(due(rows), result(near), **rules) == "correct"
    assert verdict(due(rows), result([*near[1:], (-big,)]), **rules) == "incorrect"


MANY = 1_100
"""More rows than are matched at once: they are paired in their order first."""


@pytest.mark.parametrize(
    ("shift", "tolerance"),
    [
        (1.0, NumberTolerance(1.0)),
        (-1.0, NumberTolerance(1.0)),
        (10.0, NumberTolerance(relative=0.1)),
    ],
)
@pytest.mark.parametrize("count", [40, MANY])
def test_a_partner_at_the_very_end_of_the_tolerance(
    count: int, shift: float, tolerance: NumberTolerance
) -> None:
    rows = [(at * 10.0, at % 2) for at in range(count)]
    given_rows = [(value + shift, kind) for value, kind in rows]
    if tolerance.relative:  # a tenth of the larger one
        rows = [(9.0 * 2**at, at % 2) for at in range(40)]
        given_rows = [(value / 0.9, kind) for value, kind in rows]
    rules = {"number_tolerance": tolerance}
    assert verdict(due(rows), result(given_rows[::-1]), **rules) == "correct"
    assert verdict(due(given_rows), result(rows[::-1]), **rules) == "correct"
    given_rows[7] = (given_rows[7][0] * 1.5 + shift, given_rows[7][1])
    assert verdict(due(rows), result(given_rows[::-1]), **rules) == "incorrect"


def test_with_several_tolerant_columns_order_alone_says_nothing() -> None:
    rows = [row for at in range(MANY) for row in [(at * 10.0, 5.0), (at * 10 + 0.05, 1.0)]]
    given_rows = [row for at in range(MANY) for row in [(at * 10 + 0.05, 5.0), (at * 10.0, 1.0)]]
    rules = {"number_tolerance": NumberTolerance(0.1)}
    assert verdict(due(rows), result(given_rows), **rules) == "correct"
    given_rows[3] = (given_rows[3][0], 1.2)
    assert verdict(due(rows), result(given_rows), **rules) == "incorrect"


@pytest.mark.parametrize("first_null", [True, False])
def test_null_that_equals_zero_among_many_rows_with_a_tolerance(first_null: bool) -> None:
    both = [None, 0.0] if first_null else [0.0, None]
    rows = [(at, value) for at in range(MANY) for value in both]
    given_rows = [(at, value) for at in range(MANY) for value in (0.0, 0.05)]
    rules: dict[str, Any] = {"null_equals": "zero", "number_tolerance": NumberTolerance(0.1)}
    assert verdict(due(rows), result(given_rows), **rules) == "correct"
    given_rows[0] = (0, 0.05)  # now neither can be NULL's partner
    assert verdict(due(rows), result(given_rows), **rules) == "incorrect"


@pytest.mark.parametrize(
    ("names", "right"),
    [
        ("a b", True),
        ("a2 b2", True),
        ("b a2", True),
        ("a a2", False),
        ("b b2", False),
        ("a x", False),
    ],
)
def test_of_two_cut_ties_each_has_its_own_places(names: str, right: bool) -> None:
    expectation = due([("a",), ("b",)], ranks=[1, 2], choices=[(1, ("a2",)), (2, ("b2",))])
    given_rows = [(name,) for name in names.split()]
    assert (verdict(expectation, result(given_rows), row_order="ignore") == "correct") == right


def test_strict_types_count_in_a_cut_tie_and_among_first_occurrences() -> None:
    expectation = due([(1,)], ranks=[1], choices=[(1, (1.0,))])
    for given_row in ((1,), (1.0,)):
        assert verdict(expectation, result([given_row]), value_types="strict") == "correct"
    ordered = due([(1,), (2,), (1,)], ranks=[1, 2, 3])
    rules: dict[str, Any] = {"value_types": "strict", "duplicates": "ignore"}
    assert verdict(ordered, result([(1,), (2,)]), **rules) == "correct"
    assert verdict(ordered, result([(1.0,), (2,)]), **rules) == "incorrect"


@pytest.mark.parametrize("relative", [0.5, 0.9, 1.0, 2.5])
def test_a_tolerance_as_wide_as_the_numbers(relative: float) -> None:
    rows = [(1000.0 * at,) for at in range(1, 31)]
    near = [(value * (1 - min(relative, 0.99)) + 1e-9,) for (value,) in rows]
    rules = {"number_tolerance": NumberTolerance(relative=relative)}
    assert verdict(due(rows), result(near[::-1]), **rules) == "correct"
    opposite = [(-value,) for (value,) in rows]
    said = verdict(due(rows), result(opposite), **rules)
    assert (said == "correct") == (relative >= 2)


def test_rows_with_lists_and_structures() -> None:
    rows = [([1, 2.0], {"a": 1.0}), ([3], {"b": None})]
    near = [([3], {"b": None}), ([1, 2.0000000001], {"a": 1.0000000001})]
    assert verdict(due(rows), result(near)) == "correct"
    assert verdict(due(rows), result([near[0], ([1, 2.1], {"a": 1.0})])) == "incorrect"
    assert verdict(due(rows), result([near[0], ([1, 2.0], {"c": 1.0})])) == "incorrect"
    assert verdict(due(rows), result([near[0], near[0]])) == "incorrect"


@pytest.mark.parametrize(
    ("rows", "right"),
    [
        (["e", "b"], True),
        (["b", "e", "b"], True),
        (["d", "a"], True),
        (["e", "e"], False),
        (["a", "b"], False),
        (["e", "b", "a"], False),
        (["e", "x"], False),
    ],
)
def test_rows_of_ties_cut_at_both_ends_may_stand_anywhere_where_order_does_not_count(
    rows: list[str], right: bool
) -> None:
    expectation = due([("a",), ("d",)], "name", ranks=[0, 1], choices=[(0, ("b",)), (1, ("e",))])
    found = compared(
        expectation, result([(one,) for one in rows], "name"),
        row_order="ignore", duplicates="ignore",
    )  # fmt: skip
    assert (found.verdict == "correct") == right
