"""Short ways to write expectations and results in tests."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from jentrow.core.comparison.compare import Comparison, compare
from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.results import Choice, Column, Expectation, ResultSet


def result(rows: Sequence[Sequence[Any]], names: str | None = None, width: int = 0) -> ResultSet:
    wide = len(rows[0]) if rows else width or len((names or "a").split())
    columns = names.split() if names else [f"c{at}" for at in range(wide)]
    return ResultSet(tuple(map(Column, columns)), [tuple(row) for row in rows])


def due(
    rows: Sequence[Sequence[Any]],
    names: str | None = None,
    ranks: Sequence[int] | None = None,
    choices: Sequence[tuple[int, tuple[Any, ...]]] = (),
    width: int = 0,
) -> Expectation:
    return Expectation(
        result(rows, names, width),
        ordered=ranks is not None,
        ranks=None if ranks is None else tuple(ranks),
        choices=tuple(Choice(rank, row) for rank, row in choices),
    )


def compared(expectation: Expectation, given: ResultSet, **rules: Any) -> Comparison:
    return compare(expectation, given, ComparisonRules(**rules))


def verdict(expectation: Expectation, given: ResultSet, **rules: Any) -> str:
    return compared(expectation, given, **rules).verdict


def codes(comparison: Comparison) -> list[str]:
    return [finding.code for finding in comparison.findings]
