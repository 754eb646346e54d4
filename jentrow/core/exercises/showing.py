"""What learners see: of the expected result before they hand in, and of what came of an answer."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Final, Literal, TypeAlias, get_args

from jentrow.core.mappings import is_count, listed, unknown_name
from jentrow.core.results import ResultSet, Row

ShownRows: TypeAlias = Literal["none", "first", "all"]
MOST_FIRST: Final = 100


@dataclass(frozen=True, slots=True)
class ShownResult:
    """Which parts of the expected result learners see: column names, row count, rows."""

    columns: bool = False
    row_count: bool = False
    rows: ShownRows = "none"
    first: int = 3

    def to_mapping(self) -> dict[str, Any]:
        """What differs from showing nothing, as it stands in a pack."""
        usual = ShownResult()
        return {
            name: getattr(self, name)
            for name in self.__slots__
            if getattr(self, name) != getattr(usual, name)
        }


@dataclass(frozen=True, slots=True)
class Glimpse:
    """The part of an expected result that learners see; None for what they do not."""

    columns: tuple[str, ...] | None
    row_count: int | None
    rows: tuple[Row, ...] | None


def told_names(expected: ResultSet) -> tuple[str, ...]:
    """The column names as learners may see them: one that the engine made is reference text."""
    return tuple(
        column.name if column.named else f"column {at}"
        for at, column in enumerate(expected.columns, start=1)
    )


def glimpse(expected: ResultSet, shown: ShownResult) -> Glimpse:
    """What learners see of a result. Rows bring the names and, all of them, the count along."""
    rows: tuple[Row, ...] | None = None
    if shown.rows != "none":
        rows = tuple(expected.rows if shown.rows == "all" else expected.rows[: shown.first])
    return Glimpse(
        told_names(expected) if shown.columns or rows is not None else None,
        len(expected.rows) if shown.row_count or shown.rows == "all" else None,
        rows,
    )


FeedbackLevel: TypeAlias = Literal["verdict", "kind", "rows"]
FeedbackTime: TypeAlias = Literal["at_once", "after_close"]
NearMissHint: TypeAlias = Literal["none", "kind", "where", "what"]
"""How much of a near miss a learner may open: the kind of mistake, its place, or what to write."""

LONGEST_HINT: Final = 2_000
MOST_WRONG: Final = 100


@dataclass(frozen=True, slots=True)
class Feedback:
    """What learners see of what came of an answer, and when.

    ``verdict`` is the verdict with the mark alone, ``kind`` the kinds of difference too, ``rows``
    also the rows of the open dataset that differ. ``hint`` is shown after ``hint_after`` answers
    that are not correct. With ``steps`` they may look at their own queries step by step. With
    ``example`` a wrong answer is shown the fewest made-up rows on which it is wrong. ``near_miss``
    is the strongest hint of the one edit that would mend it, opened after ``near_miss_after``
    wrong answers; edits that borrow from the reference answer are told only with ``borrowed``.
    """

    level: FeedbackLevel = "kind"
    when: FeedbackTime = "at_once"
    hint: str = ""
    hint_after: int = 1
    steps: bool = True
    example: bool = False
    near_miss: NearMissHint = "none"
    near_miss_after: int = 1
    borrowed: bool = False

    def to_mapping(self) -> dict[str, Any]:
        """What differs from the usual, as it stands in a pack."""
        usual = Feedback()
        return {
            name: getattr(self, name)
            for name in self.__slots__
            if getattr(self, name) != getattr(usual, name)
        }


_NAMES: Final = ("expected", *Feedback.__slots__)


def read_feedback(value: object, problems: list[str]) -> tuple[ShownResult, Feedback]:
    """Reads ``feedback``: what learners see of the expected result, and of what came of an answer.

    What is wrong is added to ``problems``.
    """
    if value is None:
        return ShownResult(), Feedback()
    if not isinstance(value, Mapping):
        problems.append(f"feedback must be a mapping with {listed(_NAMES)}")
        return ShownResult(), Feedback()
    chosen: dict[str, Any] = {}
    for name, given in value.items():
        where = f"feedback.{name}"
        if name not in _NAMES:
            problems.append(unknown_name("name in feedback", name, _NAMES))
        elif name in _CHOICES:
            if given in _CHOICES[name]:
                chosen[name] = given
            else:
                problems.append(f"{where} is {given!r}, but must be {listed(_CHOICES[name])}")
        elif name == "hint":
            if isinstance(given, str) and len(given) <= LONGEST_HINT and "\0" not in given:
                chosen[name] = given
            else:
                problems.append(f"{where} must be text of at most {LONGEST_HINT} characters")
        elif name in ("steps", "example", "borrowed"):
            if isinstance(given, bool):
                chosen[name] = given
            else:
                problems.append(f"{where} is {given!r}, but must be true or false")
        elif name in ("hint_after", "near_miss_after"):
            if is_count(given, MOST_WRONG):
                chosen[name] = given
            else:
                problems.append(
                    f"{where} is {given!r}, but must be a whole number from 1 to {MOST_WRONG}"
                )
    return _read_shown(value.get("expected"), problems), Feedback(**chosen)


_CHOICES: Final[dict[str, tuple[str, ...]]] = {
    "level": get_args(FeedbackLevel),
    "when": get_args(FeedbackTime),
    "near_miss": get_args(NearMissHint),
}


def _read_shown(expected: object, problems: list[str]) -> ShownResult:
    if expected is None:
        return ShownResult()
    if not isinstance(expected, Mapping):
        problems.append(f"feedback.expected must be a mapping with {listed(ShownResult.__slots__)}")
        return ShownResult()
    chosen: dict[str, Any] = {}
    for name, given in expected.items():
        where = f"feedback.expected.{name}"
        if name not in ShownResult.__slots__:
            problems.append(unknown_name("name in feedback.expected", name, ShownResult.__slots__))
        elif name == "rows" and given not in get_args(ShownRows):
            problems.append(f"{where} is {given!r}, but must be {listed(get_args(ShownRows))}")
        elif name == "first" and not is_count(given, MOST_FIRST):
            problems.append(
                f"{where} is {given!r}, but must be a whole number from 1 to {MOST_FIRST}"
            )
        elif name in ("columns", "row_count") and not isinstance(given, bool):
            problems.append(f"{where} is {given!r}, but must be true or false")
        else:
            chosen[name] = given
    return ShownResult(**chosen)
