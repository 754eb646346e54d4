from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.comparison.causes import TextFacts
from jentrow.core.comparison.cells import CellComparison
from jentrow.core.comparison.compare import Comparison
from jentrow.core.comparison.difference import one_cell_apart, paired_by_weight
from jentrow.core.comparison.findings import CODES, explained
from jentrow.core.comparison.rows import RowComparison
from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.results import Row
from tests.core.comparison.build import codes, compared, due, result

HUTS = [("Ferner", 9, 4), ("Kaltbach", 2, 7), ("Steinkar", 6, 3)]


def kinds(comparison: Comparison) -> list[str]:
    return [row.kind for row in comparison.difference.rows]


def cause(comparison: Comparison, *facts: Any) -> Any:
    """The cause that is named where the text holds these facts."""
    known = TextFacts(frozenset(facts))
    return explained(comparison.findings[0], known, {}).evidence.get("cause")


def test_a_wrong_cell_reads_as_a_wrong_cell() -> None:
    comparison = compared(due(HUTS), result([HUTS[0], ("Kaltbach", 2, 8), HUTS[2]]))
    assert kinds(comparison) == ["agrees", "differs", "agrees"]
    assert comparison.difference.rows[1].wrong == (2,)
    assert codes(comparison) == ["cells.differ"]
    assert comparison.findings[0].count == 1


def test_rows_pair_by_what_tells_them_apart_not_by_place() -> None:
    given_rows = [("Steinkar", 0, 0), ("Ferner", 0, 0), ("Kaltbach", 0, 0)]
    comparison = compared(due(HUTS), result(given_rows))
    paired = {
        (row.due[0], row.given[0]) for row in comparison.difference.rows if row.due and row.given
    }
    assert paired == {(name, name) for name, _, _ in HUTS}
    assert comparison.findings[0].count == 6


def test_missing_and_extra_rows_stand_where_they_belong() -> None:
    comparison = compared(due(HUTS), result([HUTS[0], ("Talort", 77, 78), HUTS[2]]))
    assert kinds(comparison) == ["agrees", "extra", "absent", "agrees"]
    assert codes(comparison) == ["rows.missing", "rows.extra"]


def test_repeated_and_collapsed_rows() -> None:
    repeated = compared(due(HUTS), result([*HUTS, HUTS[1]]))
    assert kinds(repeated) == ["agrees", "times", "agrees"]
    assert repeated.difference.rows[1].times == (1, 2)
    assert codes(repeated) == ["rows.repeated"]
    assert cause(repeated, "keeps_repeats") == "repeats_not_removed"
    assert cause(repeated, "keeps_repeats", "union_all") == "union_all"
    assert cause(repeated) is None
    collapsed = compared(due([*HUTS, HUTS[1], HUTS[1]]), result(HUTS))
    assert codes(collapsed) == ["rows.collapsed"]
    assert cause(collapsed, "distinct") == "distinct"
    assert cause(collapsed, "group_by") == "group_by"
    assert cause(collapsed) is None
    assert "2 fewer" in collapsed.findings[0].message


def test_a_product_of_two_tables_is_named() -> None:
    given_rows = [row for row in HUTS for _ in range(4)]
    (finding,) = compared(due(HUTS), result(given_rows)).findings
    sizes = {"huts": 3, "stays": 4}
    unlinked = TextFacts(product=("huts", "stays"))
    assert (
        "3 x 4: every row of huts stands with every row of stays"
        in explained(finding, unlinked, sizes).message
    )
    assert "3 x 4" not in explained(finding, TextFacts(), sizes).message
    assert "3 x" not in explained(finding, unlinked, {"huts": 3, "stays": 5}).message
    # Nothing is too much where as many rows are due.
    as_many = compared(due([(f"hut {at}", at, at) for at in range(12)]), result(given_rows))
    assert "rows.repeated" in codes(as_many) or "rows.extra" in codes(as_many)
    assert not any("3 x" in explained(one, unlinked, sizes).message for one in as_many.findings)


def test_missing_rows_that_all_have_null_in_one_column() -> None:
    rows = [*HUTS, ("Hochwand", None, 0), ("Rotscharte", None, 0)]
    comparison = compared(due(rows, "name warden stays"), result(HUTS))
    compares = TextFacts(compared=frozenset({"warden"}))
    assert explained(comparison.findings[0], compares, {}).evidence["cause"] == "null_compared"
    assert cause(comparison, "inner_join") == "partner_missing"
    assert cause(comparison) is None
    assert "each of them has NULL in warden" in comparison.findings[0].message
    assert comparison.findings[0].evidence["columns"] == ["warden"]
    other = compared(due([*HUTS, ("Hochwand", None, 0), ("Rotscharte", 3, 0)]), result(HUTS))
    assert cause(other, "inner_join") is None
    kept_one = compared(due(rows), result(rows[:-1]))
    assert cause(kept_one, "inner_join") is None
    changed = compared(due(rows), result([("Ferner", 9, 5), *HUTS[1:]]))
    assert cause(changed, "inner_join") is None


def test_extra_rows_that_all_have_null_in_one_column() -> None:
    comparison = compared(due(HUTS, "name warden stays"), result([*HUTS, ("Hochwand", None, 0)]))
    assert "it has NULL in warden" in comparison.findings[0].message


def test_reverse_order_is_named_only_where_it_is_one() -> None:
    rows = [(1,), (2,), (3,)]
    turned = compared(due(rows, ranks=[1, 2, 3]), result(rows[::-1]))
    assert cause(turned, "order_by") == "order_reversed"
    assert cause(turned, "no_order_by") == "no_order_by"
    mixed = compared(due(rows, ranks=[1, 2, 3]), result([(2,), (1,), (3,)]))
    assert codes(mixed) == ["rows.order"]
    assert cause(mixed, "order_by") is None
    assert mixed.findings[0].count == 1
    with_ties = compared(
        due([(1,), (2,), (3,), (4,)], ranks=[1, 2, 2, 3]), result([(4,), (2,), (3,), (1,)])
    )
    assert cause(with_ties, "order_by") == "order_reversed"


def test_rows_that_tie_are_marked_and_right() -> None:
    comparison = compared(due([(1,), (2,), (3,)], ranks=[1, 1, 2]), result([(2,), (1,), (3,)]))
    assert comparison.verdict == "correct"
    assert kinds(comparison) == ["tie", "tie", "agrees"]


def test_a_choice_from_a_cut_tie_is_right_and_shown() -> None:
    expectation = due([(1, "a"), (2, "b")], ranks=[1, 2], choices=[(2, (3, "c"))])
    comparison = compared(expectation, result([(1, "a"), (3, "c")]))
    assert comparison.verdict == "correct"
    assert kinds(comparison) == ["agrees", "tie"]


@pytest.mark.parametrize(
    ("expected", "given_cell", "code"),
    [
        (7, None, "cells.null"),
        (None, 7, "cells.null"),
        (2.3333333, 2.33, "cells.rounding"),
        (2.67, 2.6666667, "cells.rounding"),
        (3, 2.6666667, "cells.rounding"),
        (2.6666, 2, "cells.differ"),
        (2.1, 3, "cells.differ"),
        (2.6666, 4, "cells.differ"),
        (5, 6, "cells.differ"),
        (5, "5", "cells.type"),
        ("5", 5.0, "cells.type"),
        (5, "7", "cells.type"),
        ("North", "NORTH", "cells.case"),
        ("North", "North ", "cells.space"),
        ("North", "South", "cells.differ"),
    ],
)
def test_how_cells_differ(expected: Any, given_cell: Any, code: str) -> None:
    comparison = compared(due([("Ferner", expected)]), result([("Ferner", given_cell)]))
    assert codes(comparison) == [code]


def test_types_under_strict() -> None:
    comparison = compared(due([("a", 5)]), result([("a", 5.0)]), value_types="strict")
    assert codes(comparison) == ["cells.type"]
    assert "integer is due, float is given" in comparison.findings[0].message


def test_large_differences_are_shown_in_part() -> None:
    one = [(f"a{at}", at, at % 7) for at in range(10_000)]
    other = [(f"b{at}", -at - 1, at % 5) for at in range(10_000)]
    comparison = compared(due(one), result(other))
    assert comparison.difference.partial
    assert comparison.findings[0].evidence == {"partial": True}
    assert "only a part" in comparison.findings[0].message
    assert (
        comparison.difference.counts["absent"] + comparison.difference.counts["differs"] == 10_000
    )


values = st.sampled_from([None, 0, 1, "a"])
rows_of_two = st.lists(st.tuples(values, values), max_size=6)


@given(rows_of_two, rows_of_two, st.booleans())
def test_the_woven_rows_hold_every_row_once(one: Any, other: Any, ordered: bool) -> None:
    ranks = list(range(len(one))) if ordered else None
    comparison = compared(due(one, ranks=ranks, width=2), result(other, width=2))
    rows = comparison.difference.rows
    due_count = sum(row.times[0] if row.times else row.due is not None for row in rows)
    given_count = sum(row.times[1] if row.times else row.given is not None for row in rows)
    assert (due_count, given_count) == (len(one), len(other))
    assert (comparison.verdict == "correct") == (not comparison.findings)
    if comparison.verdict == "correct":
        assert {row.kind for row in rows} <= {"agrees", "tie"}
    else:
        assert {finding.code for finding in comparison.findings} <= set(CODES)
        assert {row.kind for row in rows} - {"agrees", "tie"} or "columns.order" in codes(
            comparison
        )


def test_rows_that_share_one_value_are_partners_only_where_nothing_else_is_left() -> None:
    due_rows = [("Novak", "2026-07-18", 2), ("Sato", "2026-07-20", 3), ("Ruiz", "2026-07-22", 1)]
    wrong = [(name, "?", 9) for name, _, _ in due_rows]
    assert codes(compared(due(due_rows), result(wrong))) == ["cells.differ"]
    others = [("Novak", "2026-07-25", 5), ("Okafor", "2026-07-26", 4)]
    assert codes(compared(due(due_rows), result(others))) == ["rows.missing", "rows.extra"]
    half_right = [("Novak", "2026-07-18", 5), ("Okafor", "2026-07-26", 4)]
    assert codes(compared(due(due_rows), result(half_right))) == [
        "rows.missing", "rows.extra", "cells.differ",
    ]  # fmt: skip
    of_two = [(name, nights) for name, _, nights in due_rows]
    assert codes(compared(due(of_two), result([("Novak", 9), ("Sato", 9)]))) == [
        "rows.missing", "cells.differ",
    ]  # fmt: skip


def test_a_few_partners_among_many_other_rows_are_chance() -> None:
    due_rows = [(f"guest {at}", f"2026-07-{at:02}", at % 4) for at in range(1, 8)]
    other = [(f"other {at}", f"2026-08-{at:02}", at % 4) for at in range(1, 30)]
    chance = [("Moreau", *due_rows[2][1:]), ("Imhof", *due_rows[5][1:])]
    assert codes(compared(due(due_rows), result(chance + other))) == ["rows.missing", "rows.extra"]
    most = [("Moreau", *row[1:]) for row in due_rows[:5]]
    assert codes(compared(due(due_rows), result(most + other))) == [
        "rows.missing", "rows.extra", "cells.differ",
    ]  # fmt: skip


def test_null_is_not_the_telling_thing_where_other_rows_were_given_instead() -> None:
    rows = [*HUTS, ("Hochwand", None, 0)]
    found = compared(due(rows, "name warden stays"), result([*HUTS, ("Talort", 77, 78)]))
    assert [one.message for one in found.findings] == [
        "1 row is missing.",
        "1 row is not asked for.",
    ]
    turned = compared(due([*HUTS, ("Talort", 77, 78)], "name warden stays"), result(rows))
    assert all("NULL" not in one.message for one in turned.findings)


@pytest.mark.parametrize(
    ("expected", "cells", "words"),
    [
        ([1, 2, 3], [1, None, None], "NULL is given where a value is due"),
        ([1, None, None], [1, 2, 3], "a value is given where NULL is due"),
        ([1, None, 3], [1, 2, None], "NULL on one side only"),
    ],
)
def test_the_side_that_has_null_is_named(expected: Any, cells: Any, words: str) -> None:
    names = ["Auhof", "Brugg", "Cham"]
    given_rows = list(zip(names, cells, strict=True))
    found = compared(
        due(list(zip(names, expected, strict=True)), "name level"), result(given_rows, "name level")
    )
    assert [one.code for one in found.findings] == ["cells.null"]
    assert words in found.findings[0].message


def test_that_rows_are_due_or_given_once_is_said_only_where_all_are() -> None:
    once, twice = ("Auhof", 1), ("Brugg", 2)
    (repeated,) = compared(due([once, twice, twice]), result([once] * 2 + [twice] * 3)).findings
    assert (repeated.code, "due once" in repeated.message) == ("rows.repeated", False)
    (seldom,) = compared(due([once] * 3 + [twice] * 2), result([once] * 2 + [twice])).findings
    assert seldom.code == "rows.collapsed"
    assert "distinct" not in [cause.code for cause in seldom.causes]
    (alone,) = compared(due([once] * 3 + [twice] * 2), result([once, twice])).findings
    assert "distinct" in [cause.code for cause in alone.causes]


few = st.lists(
    st.tuples(st.sampled_from("abc"), st.integers(0, 3), st.sampled_from([None, "x", "y"])),
    min_size=1,
    max_size=7,
)


@given(few, few)
def test_rows_that_one_cell_parts_are_paired_as_by_weight(due: list[Row], other: list[Row]) -> None:
    rows = RowComparison(CellComparison(ComparisonRules()), due, other)
    left = rows.match()
    if not left.due_left or not left.given_left:
        return
    quick = one_cell_apart(rows, left.due_left, left.given_left)
    if quick is not None:
        weighed = paired_by_weight(rows, left.due_left, left.given_left, may_be_all=True)
        assert quick == weighed


def test_rows_that_one_cell_parts_need_no_weighing() -> None:
    due: list[Row] = [("Auwehr", at, "x") for at in range(50)]
    rows = RowComparison(
        CellComparison(ComparisonRules()), due, [(*row[:2], "y") for row in due[::-1]]
    )
    pairs = one_cell_apart(rows, range(50), range(50))
    assert pairs == {at: 49 - at for at in range(50)}
    # Of two partners that are as near, others have to say which it is; and so where there is none.
    twice = RowComparison(rows.cells, due[:1], [("Auwehr", 0, "y"), ("Auwehr", 0, "z")])
    assert one_cell_apart(twice, [0], [0, 1]) is None
    far = RowComparison(rows.cells, due[:1], [("Brugg", 0, "y")])
    assert one_cell_apart(far, [0], [0]) is None
