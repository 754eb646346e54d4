"""What each answer stands at: its state, its mark on its sheet, and whether it counts."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime, timedelta
from fractions import Fraction
from functools import lru_cache
from typing import Literal, NamedTuple, TypeAlias

from sqlalchemy.orm import Session

from jentrow.core.exercises.deadlines import Window, mark_on_sheet
from jentrow.core.exercises.grading.outcomes import standing_of
from jentrow.core.exercises.sheets import Counting
from jentrow.core.marks.attempts import counting_attempts
from jentrow.records.marks import AnswerRow, instant_text
from jentrow.records.models import Course, Exercise, Sheet
from jentrow.records.people import extensions_of
from jentrow.services.exercises.lateness import window_of

State: TypeAlias = Literal["waiting", "undecided", "decided"]
"""Not graded yet; graded, and somebody has to look; or settled."""

_mark_on_sheet = lru_cache(maxsize=4096)(mark_on_sheet)
_ONE = Fraction(1)


class Answer(NamedTuple):
    """A submission as it stands.

    ``mark`` is of the exercise's own points, ``worth`` of the points on its sheet and after
    lateness; both None without a grading. ``late_days`` counts days begun after closing.
    ``contradicted`` says that a mark was decided for it, and that grading has come to something else
    since. ``counts`` is told only after all attempts of its learner were seen.
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
        self._closing: dict[tuple[int, datetime | None], str | None] = {}
        self._worth: dict[tuple[int | None, int], float | None] = {
            (sheet.id, entry.exercise_id): entry.points
            for sheet in self._sheets.values()
            for entry in sheet.entries
        }
        self._extensions = {
            (one.sheet_id, one.learner_id): one.closes
            for one in extensions_of(session, self._sheets)
        }
        self._windows: dict[tuple[int, datetime | None], Window] = {}
        self.measures = measures
        self.signature = str(
            (
                self._worth,
                self._extensions,
                [(one.id, one.closes, one.late, one.counting) for one in self._sheets.values()],
                course.zone,
            )
        )
        """What is another whenever the sheets make something else of the same gradings."""

    def window(self, sheet_id: int, learner_id: int) -> Window:
        """When a learner's answers to a sheet are taken."""
        extended = self._extensions.get((sheet_id, learner_id))
        key = sheet_id, extended
        if key not in self._windows:
            self._windows[key] = window_of(self._sheets[sheet_id], self._course, extended)
        return self._windows[key]

    def of(self, rows: Sequence[AnswerRow]) -> list[Answer]:
        """The answers of rows, in their order, each told whether it counts."""
        attempts: dict[tuple[int, int, int | None], list[int]] = {}
        for at, row in enumerate(rows):
            attempts.setdefault((row.learner_id, row.exercise_id, row.sheet_id), []).append(at)
        found = [self._standing(row) for row in rows]
        counts = [True] * len(rows)
        for (_, _, sheet_id), places in attempts.items():
            if len(places) == 1:
                continue  # the only one counts
            places.sort(key=lambda at: (rows[at].submitted, rows[at].id))
            sheet = self._sheets.get(sheet_id) if sheet_id is not None else None
            how: Counting = sheet.counting if sheet is not None else "best"  # type: ignore[assignment]
            counting = counting_attempts([found[at][2] for at in places], how)
            for nth, at in enumerate(places):
                counts[at] = nth in counting
        return [
            Answer(row, *standing, counted)
            for row, standing, counted in zip(rows, found, counts, strict=True)
        ]

    def _standing(
        self, row: AnswerRow
    ) -> tuple[State, float | None, float | None, Fraction, int, bool, bool]:
        """Everything that an :class:`Answer` says of a row, but whether it counts."""
        share, late_days = _ONE, 0
        closes = self._closes(row)
        if closes is not None and row.submitted > closes:
            share, late_days = self._lateness(row)
        decided = row.decided_mark is not None
        mark = row.decided_mark if decided else row.mark
        state: State = "waiting" if row.verdict is None else "undecided"
        if decided or (row.verdict == "correct" and not row.undecided):
            state = "decided"
        outdated = row.measure is not None and row.measure != self.measures.get(
            row.exercise_id, row.measure
        )
        contradicted = (
            decided
            and row.grading_id != row.then_grading_id
            and (row.verdict, row.mark) != (row.then_verdict, row.then_mark)
        )
        worth = self._on_sheet(row, mark, share)
        return state, mark, worth, share, late_days, outdated, contradicted

    def _on_sheet(self, row: AnswerRow, mark: float | None, share: Fraction) -> float | None:
        points = self._worth.get((row.sheet_id, row.exercise_id))
        if mark is None or (points is None and share is _ONE):
            return mark
        return _mark_on_sheet(mark, self._exercises[row.exercise_id].points, points, share)

    def _closes(self, row: AnswerRow) -> str | None:
        """When the sheet of an answer closes for its learner, as the records hold times."""
        if row.sheet_id is None or row.sheet_id not in self._sheets:
            return None
        key = row.sheet_id, self._extensions.get((row.sheet_id, row.learner_id))
        if key not in self._closing:
            closes = self.window(row.sheet_id, row.learner_id).closes
            self._closing[key] = None if closes is None else instant_text(closes)
        return self._closing[key]

    def _lateness(self, row: AnswerRow) -> tuple[Fraction, int]:
        window = self.window(row.sheet_id or 0, row.learner_id)
        if window.closes is None:
            return _ONE, 0
        days = math.ceil((row.submitted_at - window.closes) / timedelta(days=1))
        share = window.share(row.submitted_at)
        return (_ONE if share == 1 else share), days
