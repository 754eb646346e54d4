"""What each answer stands at: its state, its mark on its sheet, and whether it counts."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from fractions import Fraction
from functools import lru_cache
from typing import Literal, TypeAlias

from sqlalchemy.orm import Session

from jentrow.core.exercises.deadlines import Window, mark_on_sheet
from jentrow.core.exercises.outcomes import standing_of
from jentrow.core.exercises.sheets import Counting
from jentrow.core.marks.attempts import counting_attempts
from jentrow.records.marks import AnswerRow
from jentrow.records.models import Course, Exercise, Sheet
from jentrow.records.people import extensions_of
from jentrow.services.exercises.lateness import window_of

State: TypeAlias = Literal["waiting", "undecided", "decided"]
"""Not graded yet; graded, and somebody has to look; or settled."""

_mark_on_sheet = lru_cache(maxsize=4096)(mark_on_sheet)
_ONE = Fraction(1)


@dataclass(frozen=True, slots=True)
class Answer:
    """A submission as it stands.

    ``mark`` is of the exercise's own points, ``worth`` of the points on its sheet and after
    lateness; both None without a grading. ``late_days`` counts days begun after closing.
    ``contradicted`` says that a mark was decided for it, and that grading has come to something else
    since.
    """

    row: AnswerRow
    state: State
    mark: float | None
    worth: float | None
    share: Fraction
    late_days: int
    outdated: bool
    contradicted: bool
    counts: bool

    @property
    def verdict(self) -> str:
        """The verdict, ``undecided`` or ``waiting``."""
        if self.row.verdict is None:
            return "waiting"
        return standing_of(self.row.verdict, self.row.undecided or "")


class Standings:
    """Works out what answers of a course stand at.

    ``measures`` are what answers would be graded with now, by exercise; an exercise that is not in
    it has no answer that is out of date.
    """

    def __init__(
        self,
        session: Session,
        course: Course,
        sheets: Iterable[Sheet],
        exercises: Iterable[Exercise],
        measures: Mapping[int, str],
    ) -> None:
        self._course = course
        self._sheets = {sheet.id: sheet for sheet in sheets}
        self._exercises = {one.id: one for one in exercises}
        self._worth = {
            (sheet.id, entry.exercise_id): entry.points
            for sheet in self._sheets.values()
            for entry in sheet.entries
        }
        self._extensions = {
            (one.sheet_id, one.learner_id): one.closes
            for one in extensions_of(session, self._sheets)
        }
        self._windows: dict[tuple[int, datetime | None], Window] = {}
        self._measures = measures

    def window(self, sheet_id: int, learner_id: int) -> Window:
        """When a learner's answers to a sheet are taken."""
        extended = self._extensions.get((sheet_id, learner_id))
        key = sheet_id, extended
        if key not in self._windows:
            self._windows[key] = window_of(self._sheets[sheet_id], self._course, extended)
        return self._windows[key]

    def of(self, rows: Sequence[AnswerRow]) -> list[Answer]:
        """The answers of rows that are in an order of time, each told whether it counts."""
        attempts: dict[tuple[int, int, int | None], list[int]] = {}
        for at, row in enumerate(rows):
            attempts.setdefault((row.learner_id, row.exercise_id, row.sheet_id), []).append(at)
        bare = [self._bare(row) for row in rows]
        counting: set[int] = set()
        for (_, _, sheet_id), places in attempts.items():
            sheet = self._sheets.get(sheet_id) if sheet_id is not None else None
            how: Counting = sheet.counting if sheet is not None else "best"  # type: ignore[assignment]
            counting.update(
                places[at] for at in counting_attempts([bare[place][2] for place in places], how)
            )
        return [
            Answer(row, *found, counts=at in counting)
            for at, (row, found) in enumerate(zip(rows, bare, strict=True))
        ]

    def _bare(
        self, row: AnswerRow
    ) -> tuple[State, float | None, float | None, Fraction, int, bool, bool]:
        share, late_days = self._lateness(row)
        decided = row.decided_mark is not None
        mark = row.decided_mark if decided else row.mark
        state: State = "waiting" if row.verdict is None else "undecided"
        if decided or (row.verdict == "correct" and not row.undecided):
            state = "decided"
        worth = None
        if mark is not None:
            points = self._exercises[row.exercise_id].points
            on_sheet = self._worth.get((row.sheet_id or 0, row.exercise_id))
            worth = _mark_on_sheet(mark, points, on_sheet, share)
        outdated = row.measure is not None and row.measure != self._measures.get(
            row.exercise_id, row.measure
        )
        contradicted = (
            decided
            and row.grading_id != row.then_grading_id
            and (row.verdict, row.mark) != (row.then_verdict, row.then_mark)
        )
        return state, mark, worth, share, late_days, outdated, contradicted

    def _lateness(self, row: AnswerRow) -> tuple[Fraction, int]:
        if row.sheet_id is None or row.sheet_id not in self._sheets:
            return _ONE, 0
        window = self.window(row.sheet_id, row.learner_id)
        if window.closes is None or row.submitted_at <= window.closes:
            return _ONE, 0
        days = math.ceil((row.submitted_at - window.closes) / timedelta(days=1))
        return window.share(row.submitted_at), days
