"""What the marks of a learner come to: the sum of a sheet, and the total of a course.

Worked out in fractions and rounded once, at the end, half of a step upwards.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from typing import Final

STEPS: Final = (0.01, 0.1, 0.25, 0.5, 1.0)
"""What a total can be rounded to."""


@dataclass(frozen=True, slots=True)
class ExerciseMark:
    """A learner's mark for an exercise on a sheet; None where nothing was handed in.

    ``excused`` exercises count for nothing, neither for nor against.
    """

    mark: float | None
    points: float
    excused: bool = False


@dataclass(frozen=True, slots=True)
class SheetSum:
    """What a sheet comes to, of how much. Unrounded."""

    mark: Fraction
    points: Fraction


@lru_cache(maxsize=4096)
def exact(number: float) -> Fraction:
    """A number as it is written: 0.1 is a tenth."""
    return Fraction(str(number))


def sheet_sum(marks: Sequence[ExerciseMark], best_of: int | None, extra: float = 0.0) -> SheetSum:
    """The sum of a sheet. With ``best_of`` so many exercises count: those with the largest share.

    ``extra`` is added to the mark by hand, and may take off; a sum is never below 0.
    """
    counted = [one for one in marks if not one.excused]
    if best_of is not None and best_of < len(counted):
        counted = sorted(counted, key=_share, reverse=True)[:best_of]
    # Marks and points are exact to the hundredth.
    mark = sum(_hundredths(one.mark or 0.0) for one in counted) + _hundredths(extra)
    points = sum(_hundredths(one.points) for one in counted)
    return SheetSum(Fraction(max(mark, 0), 100), Fraction(points, 100))


def _share(one: ExerciseMark) -> tuple[Fraction, int]:
    points = _hundredths(one.points)
    return (Fraction(_hundredths(one.mark or 0.0), points) if points else Fraction(0)), points


def _hundredths(number: float) -> int:
    return round(number * 100)


def total(sums: Sequence[tuple[SheetSum, float | None]]) -> SheetSum:
    """The total over sheets, each with its weight; None weighs as much as the sheet has points.

    A sheet of which nothing counts for a learner (all of it excused) leaves its weight out.
    """
    mark = points = Fraction(0)
    for one, weight in sums:
        if not one.points:
            mark += one.mark  # an extra mark on a sheet without exercises
            continue
        if weight is None:
            mark += one.mark
            points += one.points
        else:
            mark += exact(weight) * one.mark / one.points
            points += exact(weight)
    return SheetSum(mark, points)


def mean_mark(marks: Sequence[float | None]) -> float | None:
    """The mean of the marks that are known, rounded to hundredths; None where none is."""
    known = [_hundredths(mark) for mark in marks if mark is not None]
    return rounded(Fraction(sum(known), 100 * len(known)), 0.01) if known else None


def rounded(number: Fraction, step: float) -> float:
    """A mark rounded to a step, half of one upwards."""
    above, below = exact(step).as_integer_ratio()
    part, whole = number.as_integer_ratio()
    steps = (2 * part * below + whole * above) // (2 * whole * above)
    return steps * above / below
