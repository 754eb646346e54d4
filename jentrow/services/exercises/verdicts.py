"""What came of an answer, as pages show it: its findings, and its verdict on each dataset."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from jentrow.core.comparison.findings import Finding
from jentrow.core.exercises.grading.outcomes import DatasetOutcome


@dataclass(frozen=True)
class FindingView:
    """One finding."""

    code: str
    message: str
    count: int
    dataset: str
    evidence: dict[str, Any]


@dataclass(frozen=True)
class DatasetVerdict:
    """The verdict on one dataset alone."""

    name: str
    is_open: bool
    verdict: str
    expected_rows: int | None
    given_rows: int | None


def finding_view(finding: Finding) -> FindingView:
    """A finding as the pages show it."""
    return FindingView(**({"evidence": {}} | finding.to_json()))


def dataset_verdict(one: DatasetOutcome) -> DatasetVerdict:
    """What an answer came to on one dataset."""
    return DatasetVerdict(
        one.dataset,
        one.is_open,
        one.standing,
        one.expected.row_count if one.given else None,
        one.given.row_count if one.given else None,
    )
