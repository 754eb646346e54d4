"""Rows that are missing because a condition is unknown for them: found out by running the query again."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from itertools import islice
from typing import Final

from jentrow.core.comparison.findings import Finding
from jentrow.core.exercises.grading.outcomes import OPEN, Outcome
from jentrow.core.sql.null_guards import NullGuard, null_guards

MOST_GUARDS: Final = 4
"""Guards of a text that are tried."""


def with_unknown_rows(
    outcome: Outcome, sql: str, dialect: str, is_right: Callable[[str], bool]
) -> Outcome:
    """The outcome, where rows are missing, with what the conditions of the text have to do with it.

    ``is_right`` tells whether a text gives what is due on every dataset. Only where a text that
    minds NULL does, is NULL the cause.
    """
    at = next((at for at, one in enumerate(outcome.findings) if _wants_cause(one)), None)
    if outcome.verdict != "incorrect" or at is None:
        return outcome
    guards = islice(null_guards(sql, dialect), MOST_GUARDS)
    guard = next((one for one in guards if is_right(one.guarded)), None)
    if guard is None:
        return outcome
    findings = outcome.findings
    told = _told(findings[at], guard)
    return replace(outcome, findings=(*findings[:at], told, *findings[at + 1 :]))


def _wants_cause(finding: Finding) -> bool:
    return (
        finding.code == "rows.missing"
        and finding.dataset == OPEN
        and "cause" not in finding.evidence
    )


def _told(finding: Finding, guard: NullGuard) -> Finding:
    evidence = finding.evidence | {
        "cause": "unknown_left_out",
        "line": guard.place.line,
        "column": guard.place.column,
        "near": guard.condition,
    }
    return replace(finding, message=f"{finding.message} {guard.words}", evidence=evidence)
