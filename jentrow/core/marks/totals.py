"""What the marks of a learner come to: the sum of a sheet, and the total of a course.

Worked out in fractions and rounded once, at the end, half of a step upwards.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
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
    mark = sum((exact(one.mark or 0.0) for one in counted), Fraction(0)) + exact(extra)
    return SheetSum(
        max(mark, Fraction(0)), sum((exact(one.points) for one in counted), Fraction(0))
    )


def _share(one: ExerciseMark) -> tuple[Fraction, Fraction]:
    points = exact(one.points)
    return (exact(one.mark or 0.0) / points if points else Fraction(0)), points


def total(sums: Sequence[tuple[SheetSum, float | None]]) -> SheetSum:
    """The total over sheets, each with its weight; None weighs as much as the sheet has points.

    A sheet of which nothing counts for a learner (all of it excused) leaves its weight out.
    """
    mark = points = Fraction(0)
    for one, weight in sums:
        if not one.points:
            mark += one.mark  # an extra mark on a sheet without exercises
            continue
        weighs = one.points if weight is None else exact(weight)
        mark += weighs * one.mark / one.points
        points += weighs
    return SheetSum(mark, points)


def rounded(number: Fraction, step: float) -> float:
    """A mark rounded to a step, half of one upwards."""
    size = exact(step)
    return float(math.floor(number / size + Fraction(1, 2)) * size)
