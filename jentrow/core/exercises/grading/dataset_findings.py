"""What is told of an answer's result on one dataset: of the open one in full, of others the kinds alone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from jentrow.core.comparison.causes import TextFacts
from jentrow.core.comparison.compare import Comparison
from jentrow.core.comparison.findings import FINDING_WORDS, Finding, FindingCode, explained
from jentrow.core.engines.protocol import QueryFailure
from jentrow.core.exercises.grading.outcomes import OPEN


def comparison_findings(
    held: Comparison,
    at: int,
    name: str,
    facts: TextFacts,
    sizes: Mapping[str, int],
    before: list[Finding],
) -> list[Finding]:
    """The findings of a comparison on the dataset at a place, the first of which is the open one.

    ``before`` are those of earlier datasets: what they said already is not said again.
    """
    own = [explained(finding, facts, sizes) for finding in held.findings]
    if at == 0:
        return own
    if held.undecided:
        return [_undecided_elsewhere(name)]
    kinds = {finding.code for finding in own}
    if kinds <= {finding.code for finding in before if finding.dataset == OPEN}:
        return []
    return [_held_back_finding(name, sorted(kinds))]


def failure_finding(failure: QueryFailure, at: int, dataset: str) -> Finding:
    """The finding of a query that gave no result on the dataset at a place."""
    if at:
        # The engine's words may quote values of rows that learners must not see.
        words = {
            "error": "On other data the query fails.",
            "stopped": "On other data the query passes a limit.",
            "refused": "The query is refused.",
        }
        return Finding(failure.code, words[failure.verdict], dataset=dataset)
    evidence: dict[str, Any] = {}
    if failure.engine_words:
        evidence["engine"] = failure.engine_words
    if failure.place is not None:
        evidence |= {"line": failure.place.line, "column": failure.place.column}
    if failure.near:
        evidence["near"] = failure.near
    return Finding(failure.code, failure.message, dataset=OPEN, evidence=evidence)


def _undecided_elsewhere(dataset: str) -> Finding:
    return Finding(
        "held_back.differs",
        "On other data the rows are right, and whether their order is right cannot be told here: "
        "your instructor decides.",
        dataset=dataset,
        evidence={"undecided": "row_order"},
    )


def _held_back_finding(dataset: str, kinds: Sequence[FindingCode]) -> Finding:
    words = ", ".join(FINDING_WORDS[kind] for kind in kinds)
    return Finding(
        "held_back.differs",
        f"On other data the result is not what is due: {words}.",
        dataset=dataset,
        evidence={"kinds": list(kinds)},
    )
