"""What learners see: of the expected result before they hand in, and of what came of an answer."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, Final, Literal, TypeAlias

from annotated_types import Ge, Le, MaxLen

from jentrow.core.results import ResultSet, Row

ShownRows: TypeAlias = Literal["none", "first", "all"]
MOST_FIRST: Final = 100


@dataclass(frozen=True, slots=True)
class ShownResult:
    """Which parts of the expected result learners see: column names, row count, rows."""

    columns: bool = False
    row_count: bool = False
    rows: ShownRows = "none"
    first: Annotated[int, Ge(1), Le(MOST_FIRST)] = 3

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
    hint: Annotated[str, MaxLen(LONGEST_HINT)] = ""
    hint_after: Annotated[int, Ge(1), Le(MOST_WRONG)] = 1
    steps: bool = True
    example: bool = False
    near_miss: NearMissHint = "none"
    near_miss_after: Annotated[int, Ge(1), Le(MOST_WRONG)] = 1
    borrowed: bool = False

    def to_mapping(self) -> dict[str, Any]:
        """What differs from the usual, as it stands in a pack."""
        usual = Feedback()
        return {
            name: getattr(self, name)
            for name in self.__slots__
            if getattr(self, name) != getattr(usual, name)
        }
