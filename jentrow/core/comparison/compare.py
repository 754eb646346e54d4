"""One answer's result against one expectation: columns → rows → difference → findings."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal, TypeAlias

from jentrow.core.comparison.cells import CellComparison
from jentrow.core.comparison.columns import (
    Pairing,
    RowsAgree,
    pair_columns,
    permutation_that_agrees,
    project,
)
from jentrow.core.comparison.difference import Difference, weave
from jentrow.core.comparison.findings import (
    Finding,
    column_findings,
    name_finding,
    row_findings,
    swapped_columns,
)
from jentrow.core.comparison.order import OrderMode, order_mode, rows_agree
from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.results import Column, Expectation, ResultSet, Row
from jentrow.core.values import Value, printed

ResultVerdict: TypeAlias = Literal["correct", "incorrect"]


@dataclass(frozen=True)
class Comparison:
    """How one result set stands to one expectation on one dataset."""

    expectation: Expectation
    given: ResultSet
    rules: ComparisonRules
    mode: OrderMode
    pairing: Pairing
    wrong_names: tuple[tuple[str, str], ...]
    table_sizes: tuple[int, ...] = ()

    def renamed(self, columns: tuple[Column, ...]) -> Comparison:
        """The same comparison of the same rows under other given names, which must not matter."""
        return replace(self, given=ResultSet(columns, self.given.rows))

    @property
    def verdict(self) -> ResultVerdict:
        """Whether the result is what is due."""
        return "correct" if self.pairing.agrees and not self.wrong_names else "incorrect"

    @cached_property
    def shared_columns(self) -> tuple[tuple[int, int], ...]:
        """Pairs of (expected, given) columns that answer each other."""
        return tuple(
            (at, other) for at, other in enumerate(self.pairing.given) if other is not None
        )

    @cached_property
    def difference(self) -> Difference:
        """The woven rows over the columns that both sides have."""
        cells = CellComparison(self.rules)
        narrowed = _narrowed(self.expectation, [at for at, _ in self.shared_columns])
        given = project(self.given.rows, [other for _, other in self.shared_columns])
        return weave(
            narrowed, given, self.mode, cells, repeats_count=self.rules.duplicates == "count"
        )

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """What was found; nothing for a correct result."""
        if self.verdict == "correct":
            return ()
        due, given = self.expectation.result, self.given
        found: list[Finding] = []
        width_differs = len(self.shared_columns) < len(due.columns) or (
            len(given.columns) > len(due.columns) and self.rules.extra_columns == "refuse"
        )
        if width_differs:
            found += column_findings(due.names, given.names, self.pairing.given)
        if not self.pairing.agrees and not width_differs:
            permutation = self._swapped()
            if permutation is not None:
                found.append(swapped_columns(due.names, permutation))
                return (*found, *self._name_findings())
        if not self.pairing.agrees and self.shared_columns:
            found += row_findings(
                self.difference,
                [due.names[at] for at, _ in self.shared_columns],
                CellComparison(self.rules),
                due_count=len(due.rows),
                given_count=len(given.rows),
                table_sizes=self.table_sizes,
            )
        return (*found, *self._name_findings())

    def _name_findings(self) -> list[Finding]:
        return [name_finding(self.wrong_names)] if self.wrong_names else []

    def _swapped(self) -> tuple[int, ...] | None:
        if self.rules.column_order == "any" or len(self.given.columns) < 2:
            return None
        cells = CellComparison(self.rules)
        agree = _agreement(self.expectation, self.given, self.mode, self.rules, cells)
        return permutation_that_agrees(
            self.expectation, self.given, self.rules, self.mode, cells, agree
        )

    @property
    def distance(self) -> tuple[int, ...]:
        """For choosing the best of several incorrect outcomes; smaller is nearer.

        Columns too few or too many, then rows too few or too many, then values of columns that the
        other side has not. Rough, and quick: no rows are paired.
        """
        if self.verdict == "correct":
            return (0,)
        due, given = self.expectation.result, self.given
        ours, theirs = due.columns_of_values(), given.columns_of_values()
        return (
            1,
            abs(len(due.columns) - len(given.columns)),
            abs(len(due.rows) - len(given.rows)),
            sum(_strangers(ours[at], theirs[other]) for at, other in self.shared_columns),
        )


def _strangers(due: list[Value], given: list[Value]) -> int:
    """How many values of a column the other side has not, by Python's own equality."""
    try:
        return (Counter(due) - Counter(given)).total()
    except TypeError:  # a list or a structure, which cannot be hashed
        return _strangers(list(map(printed, due)), list(map(printed, given)))


def compare(
    expectation: Expectation,
    given: ResultSet,
    rules: ComparisonRules,
    *,
    reference: Expectation | None = None,
    table_sizes: Sequence[int] = (),
) -> Comparison:
    """Compares a result with what one answer (reference or alternative) gives.

    ``reference`` is the reference answer's expectation where ``expectation`` is an alternative's:
    with ``row_order: auto`` it decides whether order counts. Raises :class:`ReferenceFails` where
    the rules ask for an order that the answer does not have.
    """
    mode = order_mode(rules, reference or expectation, expectation)
    cells = CellComparison(rules)
    agree = _agreement(expectation, given, mode, rules, cells)
    pairing = pair_columns(expectation, given, rules, mode, cells, agree)
    wrong_names = _wrong_names(expectation.result, given, pairing, rules)
    return Comparison(expectation, given, rules, mode, pairing, wrong_names, tuple(table_sizes))


def _agreement(
    expectation: Expectation,
    given: ResultSet,
    mode: OrderMode,
    rules: ComparisonRules,
    cells: CellComparison,
) -> RowsAgree:
    """The question that the search for a pairing of columns asks."""

    def agree(pairing: Sequence[int]) -> bool:
        return rows_agree(expectation, project(given.rows, pairing), mode, rules, cells)

    return agree


def _wrong_names(
    due: ResultSet, given: ResultSet, pairing: Pairing, rules: ComparisonRules
) -> tuple[tuple[str, str], ...]:
    if rules.column_names == "ignore":
        return ()
    wrong = []
    for column, at in zip(due.columns, pairing.given, strict=True):
        if at is None or not column.named:
            continue
        name = given.columns[at].name
        same = (
            column.name == name
            if rules.column_names == "exact"
            else column.name.casefold() == name.casefold()
        )
        if not same:
            wrong.append((column.name, name))
    return tuple(wrong)


def _narrowed(expectation: Expectation, columns: Sequence[int]) -> Expectation:
    """The expectation over some of its columns."""
    if len(columns) == len(expectation.result.columns):
        return expectation
    rows: list[Row] = [tuple([row[at] for at in columns]) for row in expectation.result.rows]
    return replace(
        expectation,
        result=ResultSet(tuple(expectation.result.columns[at] for at in columns), rows),
        choices=tuple(
            replace(choice, row=tuple([choice.row[at] for at in columns]))
            for choice in expectation.choices
        ),
    )
