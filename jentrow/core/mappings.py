"""Reading mappings that people wrote (YAML), with every problem noted and none skipped."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from difflib import get_close_matches
from typing import Final

MOST_POINTS: Final = 10_000


def is_count(value: object, most: int) -> bool:
    """Whether a value is a whole number from 1 to ``most``; true and false are none."""
    return isinstance(value, int) and not isinstance(value, bool) and 1 <= value <= most


def read_numbers(
    name: str, value: object, known: Sequence[str], problems: list[str]
) -> dict[str, float]:
    """Reads a mapping of known names to finite numbers; what is wrong is added to ``problems``."""
    if not isinstance(value, Mapping):
        problems.append(f"{name} is {value!r}, but must be a mapping with {listed(known)}")
        return {}
    numbers: dict[str, float] = {}
    for key, bound in value.items():
        if key not in known:
            problems.append(unknown_name(f"name in {name}", key, known))
        elif isinstance(bound, bool) or not isinstance(bound, int | float):
            problems.append(f"{name}.{key} is {bound!r}, but must be a number")
        elif not math.isfinite(bound):
            problems.append(f"{name}.{key} is {bound!r}, but must be finite")
        else:
            numbers[key] = bound
    return numbers


def read_points(name: str, value: object, problems: list[str]) -> float:
    """Reads a number of points, at least 0 and exact to the hundredth."""
    if (
        isinstance(value, bool)
        or not isinstance(value, int | float)
        or not 0 <= value <= MOST_POINTS
    ):
        problems.append(f"{name} is {value!r}, but must be a number from 0 to {MOST_POINTS:,}")
    elif round(value, 2) != value:
        problems.append(f"{name} is {value!r}, but must have at most two decimals")
    else:
        return float(value)
    return 0.0


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
