"""Words and numbers of mappings that people write (YAML)."""

from __future__ import annotations

from collections.abc import Sequence
from difflib import get_close_matches
from typing import Final

MOST_POINTS: Final = 10_000


def plain_number(number: float) -> float | int:
    """A number as people write it: a whole one without a fraction."""
    return int(number) if number == int(number) else number


def unknown_name(what: str, name: object, known: Sequence[str]) -> str:
    """Words for a name that is not known, with the nearest one that is."""
    near = get_close_matches(str(name), known, n=1)
    hint = f", did you mean {near[0]}?" if near else f"; known are {listed(known)}"
    return f"unknown {what} {str(name)!r}{hint}"


def listed(names: Sequence[str]) -> str:
    """Names in a row, for a message."""
    return ", ".join(names)
