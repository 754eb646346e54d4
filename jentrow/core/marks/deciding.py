"""What a decision about answers may hold: a mark within the points, a ledger that adds up."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Final

from jentrow.core.errors import UnusableInput
from jentrow.core.exercises.markscheme import LedgerLine
from jentrow.core.textfiles import is_text

LONGEST_COMMENT: Final = 10_000
MOST_LINES: Final = 50


def checked_mark(mark: float, points: float) -> float:
    """A mark that may be given. Raises :class:`UnusableInput`."""
    if not math.isfinite(mark) or not 0 <= mark <= points:
        raise UnusableInput(
            f"A mark of {mark:g} cannot be given: this exercise has {points:g} points. "
            f"Give 0 to {points:g}; what goes beyond is an extra mark, on the page of marks."
        )
    if round(mark, 2) != mark:
        raise UnusableInput(f"The mark {mark!r} has more than two decimals.")
    return mark


def checked_comment(comment: str, what: str = "comment") -> str:
    """A comment that can be kept. Raises :class:`UnusableInput`."""
    if len(comment) > LONGEST_COMMENT:
        raise UnusableInput(
            f"The {what} has {len(comment):,} characters, but at most {LONGEST_COMMENT:,} are kept: "
            "shorten it. Nothing was decided."
        )
    if not is_text(comment):
        raise UnusableInput(f"The {what} holds characters that are no text: type it anew.")
    return comment.strip()


def ledger_sum(lines: Sequence[LedgerLine], points: float) -> float:
    """The mark that a changed ledger comes to. Raises :class:`UnusableInput`."""
    if len(lines) > MOST_LINES:
        raise UnusableInput(f"A ledger has at most {MOST_LINES} lines.")
    for line in lines:
        checked_comment(line.message, "line of the ledger")
        if not math.isfinite(line.points) or abs(line.points) > points:
            raise UnusableInput(
                f"A line of the ledger comes to {line.points:g}, but the exercise has {points:g} points."
            )
    return checked_mark(sum(round(line.points * 100) for line in lines) / 100, points)
