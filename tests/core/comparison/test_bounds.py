"""Comparing is bounded like running, and what can be hashed is hashed."""

from __future__ import annotations

from typing import Any

import pytest

from jentrow.core.comparison import cells as cells_module
from jentrow.core.comparison.cells import CellComparison, ComparisonTooLong
from jentrow.core.comparison.rows import RowComparison
from jentrow.core.comparison.rules import ComparisonRules, NumberTolerance
from jentrow.core.comparison.shares import shares_of
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.grading.judge import COMPARING_TOO_LONG, Judge
from tests.core.comparison.build import compared, due, result, verdict
from tests.core.exercises.test_grading import grader


class Counting(CellComparison):
    """Counts the pairs of cells that are looked at."""

    looked_at = 0

    def spend(self, cells: int) -> None:
        self.looked_at += cells


COUNT = 2_000
NUMBERS = [(at, at * 1.5) for at in range(COUNT)]


@pytest.mark.parametrize(
    ("due_rows", "given_rows", "rules"),
    [
        # Numbers against other texts, as printed.
        ([(at,) for at in range(COUNT)], [(f"gauge {at}",) for at in range(COUNT)], {"value_types": "printed"}),
        ([(at,) for at in range(COUNT)], [(f"{at + COUNT}",) for at in range(COUNT)], {"value_types": "printed"}),
        # NULL that equals zero, beside a tolerance.
        (
            [(None if at % 2 else at * 1.0,) for at in range(COUNT)],
            [(0 if at % 2 else at * 1.0 + 0.3,) for at in range(COUNT)],
            {"null_equals": "zero", "number_tolerance": NumberTolerance(0.2)},
        ),
        # The first tolerant column says nothing, the second everything.
        ([(1.0, at * 1.0) for at in range(COUNT)], [(1.0, at + 0.5) for at in range(COUNT)], {}),
        (NUMBERS, [(at, value + 1e-13) for at, value in NUMBERS[::-1]], {}),
    ],
)  # fmt: skip
def test_few_pairs_of_cells_are_looked_at(
    due_rows: Any, given_rows: Any, rules: dict[str, Any]
) -> None:
    cells = Counting(ComparisonRules(**rules))
    RowComparison(cells, due_rows, given_rows).same_bag()
    assert cells.looked_at < 40 * COUNT


def test_a_comparison_that_would_take_too_long_is_stopped(
    engine: SQLiteEngine, monkeypatch: pytest.MonkeyPatch
) -> None:
    rules = {"number_tolerance": {"absolute": 0.4}}
    reference = "SELECT level FROM gauges UNION ALL SELECT level + 0.2 FROM gauges"
    answer = "SELECT level + 0.1 FROM gauges UNION ALL SELECT level + 0.9 FROM gauges"
    measure = grader(engine, reference, rules=rules, points=3).measure
    ran = [engine.run(dataset, answer, Limits()) for dataset in measure.datasets]
    assert Judge(measure).outcome(answer, ran).verdict == "incorrect"
    monkeypatch.setattr(cells_module.CellComparison.__init__, "__defaults__", (3,))
    stopped = Judge(measure).outcome(answer, ran)
    assert (stopped.verdict, stopped.mark) == ("stopped", 0)
    assert [(one.code, one.message) for one in stopped.findings] == [
        ("limit.time", COMPARING_TOO_LONG)
    ]


def test_a_search_that_is_cut_short_is_no_answer() -> None:
    rows = [(1.0 + at * 1e-10,) for at in range(60)]
    cells = CellComparison(ComparisonRules(), work=100)
    with pytest.raises(ComparisonTooLong):
        RowComparison(cells, rows, [(one + 3e-10,) for (one,) in rows]).same_bag()


@pytest.mark.parametrize("duplicates", ["count", "ignore"])
@pytest.mark.parametrize("width", [10, 14])
def test_many_columns_that_look_alike(width: int, duplicates: str) -> None:
    rows = [tuple((at >> (c % 5)) & 1 for c in range(width)) for at in range(40)]
    rows = [(*row[:-1], at % 2) for at, row in enumerate(rows)]
    turned = [row[::-1] for row in rows]
    rules: dict[str, Any] = {"column_order": "any", "duplicates": duplicates}
    names = " ".join(f"x{c}" for c in range(width))
    assert verdict(due(rows), result(turned, names), **rules) == "correct"
    wrong = [*turned, (0, 1) * (width // 2)][1:]
    assert wrong[-1] not in turned
    assert verdict(due(rows), result(wrong, names), **rules) == "incorrect"
    repeated = [*turned, *turned]
    same = verdict(due(rows), result(repeated, names), **rules)
    assert same == ("correct" if duplicates == "ignore" else "incorrect")


@pytest.mark.parametrize("duplicates", ["count", "ignore"])
def test_what_is_said_of_a_difference_is_bounded_too(
    duplicates: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    rows = [(1.0 + at * 1e-10, at % 3) for at in range(60)]
    given_rows = [(value + 4e-10, 3 + kind) for value, kind in rows]
    found = compared(due(rows), result(given_rows), duplicates=duplicates)
    assert found.verdict == "incorrect"
    # The verdict is there; the words and the shares may look at nothing more.
    monkeypatch.setattr(cells_module.CellComparison.__init__, "__defaults__", (0,))
    assert found.findings
    assert 0 <= shares_of(found).rows <= 1
