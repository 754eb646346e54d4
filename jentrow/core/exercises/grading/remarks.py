"""Which remarks on a text the evidence bears out, and where they are said."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Final

from jentrow.core.comparison.compare import Comparison
from jentrow.core.comparison.findings import Finding
from jentrow.core.sql.remarks import Remark
from jentrow.core.values import Value

_NEAR: Final = 0.05
"""Rounding first, or last, moves a number by no more than this share of it."""


def remarked(
    findings: Sequence[Finding], remarks: Sequence[Remark], held: Comparison
) -> list[Finding]:
    """The findings of a dataset, with the first remark that explains one of them.

    It is said once, at the first finding that it may explain. What explains the sequence of rows
    explains nothing else, so that another remark may stand beside it.
    """
    told = list(findings)
    for of_sequence in (False, True):
        asked = [one for one in remarks if (one.evidence == "sequence") is of_sequence]
        told = _with_the_first(told, asked, held)
    return told


def _with_the_first(
    findings: list[Finding], remarks: Sequence[Remark], held: Comparison
) -> list[Finding]:
    for remark in remarks:
        for at, finding in enumerate(findings):
            if _explains(remark, finding, held):
                return [*findings[:at], _with_remark(finding, remark), *findings[at + 1 :]]
    return findings


def _with_remark(finding: Finding, remark: Remark) -> Finding:
    evidence = finding.evidence | {
        "cause": remark.code,
        "line": remark.place.line,
        "column": remark.place.column,
    }
    if remark.near:
        evidence["near"] = remark.near
    return replace(finding, message=f"{finding.message} {remark.words}", evidence=evidence)


def _explains(remark: Remark, finding: Finding, held: Comparison) -> bool:
    about = finding.code.partition(".")[0]
    if about not in ("rows", "cells"):
        return False
    is_sequence = finding.code == "rows.order"
    if is_sequence or remark.evidence == "sequence":
        return is_sequence and remark.evidence == "sequence"
    if remark.evidence == "name_given":
        return _gives_a_name(remark, held)
    if remark.column is not None:
        return _column_bears_out(remark, finding, held)
    if remark.evidence == "fewer":
        return finding.code == "rows.missing"
    if remark.evidence == "no_rows":
        return finding.code == "rows.missing" and not held.given.rows
    return True


def _gives_a_name(remark: Remark, held: Comparison) -> bool:
    """Whether each row has the remark's text in its column, and a column of that name is due."""
    due = {column.name.lower() for column in held.expectation.result.columns}
    given = {row[remark.column] for row in held.given.rows if remark.column is not None}
    return remark.near.lower() in due and given == {remark.near}


def _column_bears_out(remark: Remark, finding: Finding, held: Comparison) -> bool:
    pairs = _pairs_of(remark.column, finding, held)
    if not pairs:
        return False
    if remark.evidence == "null_given":
        return all(given is None and due is not None for due, given in pairs)
    if remark.evidence == "less":
        return all(_is_whole(due) and _is_whole(given) and given < due for due, given in pairs)
    return all(_is_near(due, given) for due, given in pairs)


def _pairs_of(column: int | None, finding: Finding, held: Comparison) -> list[tuple[Value, Value]]:
    """The due and the given value of each cell of a column that differs."""
    columns = [given for _, given in held.shared_columns]
    if column not in columns:
        return []
    place = columns.index(column)
    if finding.code.startswith("cells."):
        return [
            (row.due[place], row.given[place])
            for row in held.difference.rows
            if place in row.wrong and row.due is not None and row.given is not None
        ]
    due, given = held.expectation.result.rows, held.given.rows
    # A row of one value is never paired by its cells: the only one is its own partner.
    if finding.code == "rows.missing" and len(due) == len(given) == 1 and len(columns) == 1:
        return [(due[0][held.shared_columns[0][0]], given[0][columns[0]])]
    return []


def _is_whole(value: Value) -> bool:
    return isinstance(value, int) and not isinstance(value, bool)


def _is_near(due: Value, given: Value) -> bool:
    if not isinstance(due, int | float) or not isinstance(given, int | float):
        return False
    return abs(due - given) <= max(1.0, _NEAR * abs(due))
