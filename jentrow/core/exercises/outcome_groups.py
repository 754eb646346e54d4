"""Outcome groups: which answers to an exercise behave the same, and how two of a group are told apart."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from hashlib import sha256
from typing import Final

from jentrow.core.exercises.grading.outcomes import Outcome

_LENGTH: Final = 16
RIGHT: Final = "correct"
"""The group of all answers that are right by the exercise's rules, however they differ."""


def outcome_key(verdict: str, undecided: str, codes: Sequence[str], digests: Iterable[str]) -> str:
    """What is equal for answers that behave the same on every dataset.

    Answers without a result are together where the same kind of thing was found: the engine's words
    quote the names that each of them wrote.
    """
    if verdict == RIGHT and not undecided:
        return RIGHT
    if verdict not in (RIGHT, "incorrect"):
        return f"{verdict} {codes[0]}" if codes else verdict
    said = f"{verdict} {undecided} {' '.join(digests)}"
    return sha256(said.encode()).hexdigest()[:_LENGTH]


def group_of(outcome: Outcome) -> str:
    """The key of the group that an outcome belongs to."""
    digests = [one.digest for one in outcome.datasets]
    return outcome_key(outcome.verdict, outcome.undecided, codes_of(outcome), digests)


def codes_of(outcome: Outcome) -> list[str]:
    """The kinds of what was found, each once, in the order in which they are said."""
    return list(dict.fromkeys(finding.code for finding in outcome.findings))
