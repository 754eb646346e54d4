from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jentrow.core.comparison.compare import Comparison
from jentrow.core.comparison.findings import CODES
from tests.core.comparison.build import codes, compared, due, result

HUTS = [("Ferner", 9, 4), ("Kaltbach", 2, 7), ("Steinkar", 6, 3)]


def kinds(comparison: Comparison) -> list[str]:
    return [row.kind for row in comparison.difference.rows]


def cause(comparison: Comparison) -> Any:
    return comparison.findings[0].evidence.get("cause")


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
    assert cause(repeated) == "repeats_not_removed"
    collapsed = compared(due([*HUTS, HUTS[1], HUTS[1]]), result(HUTS))
    assert codes(collapsed) == ["rows.collapsed"]
    assert cause(collapsed) == "repeats_removed"
    assert "2 fewer" in collapsed.findings[0].message


def test_a_product_of_two_tables_is_named() -> None:
    from jentrow.core.comparison.compare import compare
    from jentrow.core.comparison.rules import ComparisonRules

    given_rows = [row for row in HUTS for _ in range(4)]
    comparison = compare(due(HUTS), result(given_rows), ComparisonRules(), table_sizes=[3, 4])
    assert cause(comparison) == "product_of_tables"
    assert "3 x 4" in comparison.findings[0].message


def test_missing_rows_that_all_have_null_in_one_column() -> None:
    rows = [*HUTS, ("Hochwand", None, 0), ("Rotscharte", None, 0)]
    comparison = compared(due(rows, "name warden stays"), result(HUTS))
    assert cause(comparison) == "null_in_missing_rows"
    assert comparison.findings[0].evidence["columns"] == ["warden"]
    other = compared(due([*HUTS, ("Hochwand", None, 0), ("Rotscharte", 3, 0)]), result(HUTS))
    assert cause(other) is None
    kept_one = compared(due(rows), result(rows[:-1]))
    assert cause(kept_one) is None
    changed = compared(due(rows), result([("Ferner", 9, 5), *HUTS[1:]]))
    assert cause(changed) is None


def test_extra_rows_that_all_have_null_in_one_column() -> None:
    comparison = compared(due(HUTS, "name warden stays"), result([*HUTS, ("Hochwand", None, 0)]))
    assert cause(comparison) == "null_in_extra_rows"
    assert "it has NULL in warden" in comparison.findings[0].message


def test_reverse_order_is_named_only_where_it_is_one() -> None:
    rows = [(1,), (2,), (3,)]
    assert cause(compared(due(rows, ranks=[1, 2, 3]), result(rows[::-1]))) == "order_reversed"
    mixed = compared(due(rows, ranks=[1, 2, 3]), result([(2,), (1,), (3,)]))
    assert codes(mixed) == ["rows.order"]
    assert cause(mixed) is None
    assert mixed.findings[0].count == 1
    with_ties = compared(
        due([(1,), (2,), (3,), (4,)], ranks=[1, 2, 2, 3]), result([(4,), (2,), (3,), (1,)])
    )
    assert cause(with_ties) == "order_reversed"


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
        (2.6666, 2, "cells.rounding"),
        (2.67, 2.6666667, "cells.rounding"),
        (2.6666, 4, "cells.differ"),
        (5, 6, "cells.differ"),
        (5, "5", "cells.type"),
        ("5", 5.0, "cells.type"),
        (5, "7", "cells.differ"),
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


@settings(max_examples=300, deadline=None)
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
