"""Numbers and lists as a sentence has them."""

from __future__ import annotations

from collections.abc import Sequence


def counted(number: int, noun: str) -> str:
    """A number with its noun."""
    return f"{number} {noun}{'' if number == 1 else 's'}"


def listed(words: Sequence[str]) -> str:
    """Words in a row, as a sentence has them; at least one."""
    return words[0] if len(words) == 1 else ", ".join(words[:-1]) + " and " + words[-1]


def is_or_are(things: Sequence[object]) -> str:
    """The verb that goes with so many things."""
    return "is" if len(things) == 1 else "are"
