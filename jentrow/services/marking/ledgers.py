"""The ledger of a mark as learners see it: in the points of its sheet, down to what lateness leaves."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from typing import Any

from jentrow.core.exercises.deadlines import mark_on_sheet
from jentrow.core.exercises.markscheme import LedgerLine
from jentrow.records.models import Decision, Grading, SheetEntry


def ledger_on_sheet(
    grading: Grading | None,
    decision: Decision | None,
    mark: float | None,
    entry: SheetEntry,
    share: Fraction,
) -> list[LedgerLine]:
    """What a mark is made of.

    ``mark`` is of the exercise's own points, as it was decided or graded. Where an instructor gave
    another one without saying which line it is, one line says so; ``share`` is what lateness leaves.
    """
    lines = _own_lines(grading, decision, mark)
    points = entry.exercise.points
    if entry.points is not None and points:
        scale = Fraction(str(entry.points)) / Fraction(str(points))
        lines = [_scaled(line, scale) for line in lines]
    full = mark_on_sheet(mark or 0.0, points, entry.points, Fraction(1))
    worth = mark_on_sheet(mark or 0.0, points, entry.points, share)
    if mark is not None and worth != full:
        words = f"handed in late: {float(share):.0%} of the mark counts"
        lines.append(LedgerLine("late", words, round(worth - full, 2), None))
    return lines


def _own_lines(
    grading: Grading | None, decision: Decision | None, mark: float | None
) -> list[LedgerLine]:
    if decision is not None and decision.ledger:
        return _read(decision.ledger)
    lines = _read(grading.ledger) if grading is not None else []
    auto = grading.mark if grading is not None else 0.0
    if decision is not None and mark is not None and mark != auto:
        lines.append(
            LedgerLine("decided", "decided by the instructor", round(mark - auto, 2), None)
        )
    return lines


def _read(lines: Sequence[dict[str, Any]]) -> list[LedgerLine]:
    return [LedgerLine(**line) for line in lines]


def _scaled(line: LedgerLine, scale: Fraction) -> LedgerLine:
    return LedgerLine(
        line.part,
        line.message,
        round(float(Fraction(str(line.points)) * scale), 2),
        None if line.possible is None else round(float(Fraction(str(line.possible)) * scale), 2),
    )
