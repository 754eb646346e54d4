"""What an answer came to: small, frozen, and without the rows that it gave."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, Final, Literal, TypeAlias

from jentrow.core.comparison.findings import Finding
from jentrow.core.comparison.woven import WovenView
from jentrow.core.engines.protocol import QueryFailure
from jentrow.core.exercises.exercise import Verdict
from jentrow.core.exercises.markscheme import LedgerLine

OPEN: Final = "open"

UNDECIDED: Final = "undecided"
"""What stands in place of a verdict that waits for the instructor."""

Undecided: TypeAlias = Literal["", "row_order", "constructs", "translation"]
"""What cannot be told by running and reading: which rows tie, whether a construct is there, or
whether what ran on a stand-in means what was written."""

UNDECIDED_WORDS: Final[dict[Undecided, str]] = {
    "": "",
    "row_order": "the rows are right, and nobody can say which of them may change places",
    "constructs": "the text could not be read for the exercise's construct rules",
    "translation": "what ran on the stand-in may not be what the text means on its own engine, which may refuse it",
}


def standing_of(verdict: str, undecided: str) -> str:
    """The verdict, or that it is undecided."""
    return UNDECIDED if undecided else verdict


@dataclass(frozen=True, slots=True)
class Shape:
    """The size of a result: its columns, and how many rows it has."""

    columns: tuple[str, ...]
    row_count: int

    def to_json(self) -> dict[str, Any]:
        """As ``jentrow compare --json`` prints it."""
        return {"columns": list(self.columns), "row_count": self.row_count}


@dataclass(frozen=True, slots=True)
class DatasetOutcome:
    """What an answer came to on one dataset.

    ``given`` is None, and ``failure`` says why, where it gave no result, or none that could be
    compared; of an outcome that is not explained it has no names. ``digest`` is equal for results that are the same as far as the exercise's rules look
    at their order and names.
    """

    dataset: str
    is_open: bool
    verdict: Verdict
    undecided: Undecided
    expected: Shape
    given: Shape | None
    digest: str
    failure: QueryFailure | None = None

    @property
    def standing(self) -> str:
        """The verdict on this dataset alone, or that it is undecided."""
        return standing_of(self.verdict, self.undecided)


@dataclass(frozen=True, slots=True)
class Outcome:
    """What an answer came to: the verdict over all datasets, its mark and what was found.

    ``ledger`` says how the mark comes about. ``answer`` names the reference (``reference``) or the
    alternative that the best outcome was measured by. ``datasets`` has the open dataset first.
    ``undecided`` says what an instructor has to decide before verdict and mark stand.
    ``explained`` is false where reading the text may still add to what was found.
    """

    verdict: Verdict
    mark: float
    answer: str
    findings: tuple[Finding, ...]
    datasets: tuple[DatasetOutcome, ...]
    ledger: tuple[LedgerLine, ...] = ()
    undecided: Undecided = ""
    explained: bool = True

    @property
    def outcome(self) -> Outcome:
        """Itself: nobody looks at its rows."""
        return self

    def with_outcome(self, other: Outcome) -> Outcome:
        """Another one in its place."""
        return other

    def with_findings(self, more: tuple[Finding, ...]) -> Outcome:
        """The same with further things found."""
        return replace(self, findings=(*self.findings, *more))

    @property
    def standing(self) -> str:
        """The verdict, or that it is undecided."""
        return standing_of(self.verdict, self.undecided)

    def to_json(self) -> dict[str, Any]:
        """The object that ``jentrow compare --json`` prints."""
        opened = self.datasets[0]
        ran = self.verdict in ("correct", "incorrect") and opened.given is not None
        return {
            "verdict": self.verdict,
            **({"undecided": self.undecided} if self.undecided else {}),
            "mark": self.mark,
            "findings": [finding.to_json() for finding in self.findings],
            "expected": opened.expected.to_json(),
            "actual": opened.given.to_json() if ran and opened.given else None,
        }


@dataclass(frozen=True, slots=True)
class Looked:
    """An outcome that somebody looks at: with the rows of one dataset, woven.

    ``woven`` is None where the answer gave no result there.
    """

    outcome: Outcome
    woven: WovenView | None

    def with_outcome(self, other: Outcome) -> Looked:
        """The same rows with another outcome in the place of theirs."""
        return replace(self, outcome=other)


@dataclass(frozen=True, slots=True)
class Reading:
    """What is told of an answer by its text: its wording, and its outcome explained.

    ``outcome`` is None where nothing was to be explained. Its mark is what the result earns: what a
    scheme gives for being an edit away is not looked for again.
    """

    wording: str
    outcome: Outcome | None = None
