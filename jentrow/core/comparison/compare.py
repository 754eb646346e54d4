"""One answer's result against one expectation: columns → rows → difference → findings."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal, TypeAlias

from jentrow.core.comparison.alignment import Alignment, align
from jentrow.core.comparison.cellfindings import cell_findings
from jentrow.core.comparison.cells import CellComparison
from jentrow.core.comparison.columnfindings import (
    column_findings,
    column_words,
    name_finding,
    swapped_columns,
)
from jentrow.core.comparison.columns import (
    Pairing,
    RowsAgree,
    pair_columns,
    pairing_is_sure,
    permutation_that_agrees,
    project,
    wrong_names,
)
from jentrow.core.comparison.difference import Difference, weave
from jentrow.core.comparison.findings import Finding
from jentrow.core.comparison.order import OrderMode, order_mode, rows_agree
from jentrow.core.comparison.rowfindings import (
    moved_finding,
    row_findings,
    said_to_be_partial,
    undecided_finding,
)
from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.results import Column, Expectation, ResultSet, Row
from jentrow.core.values import Value, printed

ResultVerdict: TypeAlias = Literal["correct", "incorrect"]
Undecided: TypeAlias = Literal["", "row_order"]
"""What keeps a result from being right or wrong: the reference's ties are not known."""


@dataclass(frozen=True)
class Comparison:
    """How one result set stands to one expectation on one dataset."""

    expectation: Expectation
    given: ResultSet
    rules: ComparisonRules
    mode: OrderMode
    pairing: Pairing
    wrong_names: tuple[tuple[str, str], ...]
    undecided: Undecided = ""

    def renamed(self, columns: tuple[Column, ...]) -> Comparison:
        """The same comparison of the same rows under other given names, which must not matter."""
        return replace(self, given=ResultSet(columns, self.given.rows))

    @property
    def verdict(self) -> ResultVerdict:
        """Whether the result is what is due."""
        right = self.pairing.agrees and not self.wrong_names and not self.undecided
        return "correct" if right else "incorrect"

    @cached_property
    def shared_columns(self) -> tuple[tuple[int, int], ...]:
        """Pairs of (expected, given) columns that answer each other."""
        return tuple(
            (at, other) for at, other in enumerate(self.pairing.given) if other is not None
        )

    @cached_property
    def aligned(self) -> Alignment:
        """The rows of both sides with their partners, over the columns that both sides have."""
        narrowed = _narrowed(self.expectation, [at for at, _ in self.shared_columns])
        return self._aligned(narrowed, [other for _, other in self.shared_columns])

    def _aligned(self, expectation: Expectation, pairing: Sequence[int]) -> Alignment:
        given = project(self.given.rows, pairing)
        counted = self.rules.duplicates == "count"
        cells = CellComparison(self.rules)
        return align(expectation, given, self._told_mode, cells, repeats_count=counted)

    @property
    def _told_mode(self) -> OrderMode:
        """How far order is spoken of: where nobody knows which rows tie, only if all else is right."""
        known = self.expectation.ties_known or self.mode == "as_listed"
        return self.mode if known or self.undecided else "free"

    @cached_property
    def difference(self) -> Difference:
        """The woven rows over the columns that both sides have."""
        narrowed = _narrowed(self.expectation, [at for at, _ in self.shared_columns])
        return weave(narrowed, self.aligned, self._told_mode)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """What was found; nothing for a correct result."""
        if self.verdict == "correct":
            return ()
        if self.undecided:
            return (undecided_finding(len(self.expectation.result.rows)), *self._name_findings())
        due, given = self.expectation.result, self.given
        words = column_words(due.columns)
        found: list[Finding] = []
        if self._width_differs:
            sure = pairing_is_sure(due, given, self.pairing, CellComparison(self.rules))
            found += column_findings(words, given.names, self.pairing.given, sure=sure)
        if self.swapped is not None:
            found.append(swapped_columns(words, self.swapped))
            moved = self.swapped_difference
            if moved is not None:
                out = [row for row in moved.rows if row.kind == "moved"]
                found.append(moved_finding(out, moved))
        elif not self.pairing.agrees and self.shared_columns:
            found += self._difference_findings([words[at] for at, _ in self.shared_columns])
        return (*found, *self._name_findings())

    def _difference_findings(self, names: Sequence[str]) -> list[Finding]:
        found = row_findings(
            self.difference,
            names,
            due_count=len(self.expectation.result.rows),
            given_count=len(self.given.rows),
        )
        differing = [row for row in self.difference.rows if row.kind == "differs"]
        found += cell_findings(differing, names, CellComparison(self.rules))
        return said_to_be_partial(found) if self.difference.partial and found else found

    def _name_findings(self) -> list[Finding]:
        return [name_finding(self.wrong_names)] if self.wrong_names else []

    @property
    def _width_differs(self) -> bool:
        due, given = self.expectation.result.columns, self.given.columns
        return len(self.shared_columns) < len(due) or (
            len(given) > len(due) and self.rules.extra_columns == "refuse"
        )

    @cached_property
    def swapped(self) -> tuple[int, ...] | None:
        """The given columns in the order under which the rows agree, order aside; None if none."""
        if self.pairing.agrees or self._width_differs or self.rules.column_order == "any":
            return None
        if len(self.given.columns) < 2:
            return None
        modes: list[OrderMode] = [self.mode] if self.mode == "free" else [self.mode, "free"]
        for mode in modes:
            cells = CellComparison(self.rules)
            agree = _agreement(self.expectation, self.given, mode, self.rules, cells)
            found = permutation_that_agrees(
                self.expectation, self.given, self.rules, mode, cells, agree
            )
            if found is not None and found != tuple(range(len(found))):
                return found
        return None

    @cached_property
    def swapped_difference(self) -> Difference | None:
        """The woven rows under the swapped columns, where they stand out of order as well."""
        if self.swapped is None:
            return None
        difference = weave(self.expectation, self.swapped_aligned, self._told_mode)
        return difference if difference.counts["moved"] else None

    @cached_property
    def swapped_aligned(self) -> Alignment:
        """The rows aligned under the swapped columns."""
        assert self.swapped is not None
        return self._aligned(self.expectation, self.swapped)

    @property
    def distance(self) -> tuple[int, ...]:
        """For choosing the best of several incorrect outcomes; smaller is nearer.

        Columns too few or too many, then rows too few or too many, then values of columns that the
        other side has not. Rough, and quick: no rows are paired.
        """
        if self.verdict == "correct":
            return (0,)
        due, given = self.expectation.result, self.given
        ours, theirs = self.expectation.columns_of_values, given.columns_of_values()
        return (
            1,
            abs(len(due.columns) - len(given.columns)),
            abs(len(due.rows) - len(given.rows)),
            sum(_strangers(ours[at], theirs[other]) for at, other in self.shared_columns),
        )


def _strangers(due: Sequence[Value], given: Sequence[Value]) -> int:
    """How many values of a column the other side has not, by Python's own equality."""
    try:
        different = set(due)
        if len(different) == len(due):
            return len(different.difference(given))
        # Counters are taken from each other in Python, key by key; this is the same in one go.
        spare = Counter(given)
        strangers = 0
        for value in due:
            if spare.get(value, 0):
                spare[value] -= 1
            else:
                strangers += 1
        return strangers
    except TypeError:  # a list or a structure, which cannot be hashed
        return _strangers(list(map(printed, due)), list(map(printed, given)))


def compare(
    expectation: Expectation,
    given: ResultSet,
    rules: ComparisonRules,
    *,
    reference: Expectation | None = None,
) -> Comparison:
    """Compares a result with what one answer (reference or alternative) gives.

    ``reference`` is the reference answer's expectation where ``expectation`` is an alternative's:
    with ``row_order: auto`` it decides whether order counts. Raises :class:`ReferenceFails` where
    the rules ask for an order that the answer does not have.
    """
    mode = order_mode(rules, reference or expectation, expectation)
    # What may only be among the choices is not held to be one.
    sure = expectation if expectation.ties_known else replace(expectation, choices=())
    found = _compared(sure, given, rules, mode)
    if found.verdict == "correct" or expectation.ties_known or mode == "as_listed":
        return found
    return _in_doubt(found, expectation)


def _compared(
    expectation: Expectation,
    given: ResultSet,
    rules: ComparisonRules,
    mode: OrderMode,
) -> Comparison:
    cells = CellComparison(rules)
    agree = _agreement(expectation, given, mode, rules, cells)
    pairing = pair_columns(expectation, given, rules, mode, cells, agree)
    names = wrong_names(expectation.result, given, pairing.given, rules)
    return Comparison(expectation, given, rules, mode, pairing, names)


def _in_doubt(found: Comparison, expectation: Expectation) -> Comparison:
    """The comparison, marked as undecided where only the unknown ties stand against it."""
    if not expectation.pool_known:
        same_size = len(expectation.result.rows) == len(found.given.rows)
        return replace(found, undecided="row_order") if same_size else found
    freely = _compared(expectation, found.given, found.rules, "free")
    if freely.verdict == "incorrect":
        return found
    return replace(found, pairing=freely.pairing, undecided="row_order")


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
