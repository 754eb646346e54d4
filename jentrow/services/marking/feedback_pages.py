"""Feedback pages: what a learner is told about a sheet, and what they will be before it is published."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from jentrow.core.exercises.markscheme import LedgerLine
from jentrow.core.marks.totals import ExerciseMark, mean_mark, rounded, sheet_sum
from jentrow.records.exercises import list_exercises
from jentrow.records.marks import (
    answers_on,
    decisions_numbered,
    gradings_numbered,
    questions_about,
    standing_adjustments,
    texts_of,
)
from jentrow.records.models import Adjustment, Course, Learner, Question, Sheet, SheetEntry
from jentrow.records.people import learners_of
from jentrow.services.errors import NotFound
from jentrow.services.exercises.lateness import worth
from jentrow.services.exercises.sheets import sheet_named
from jentrow.services.marking.ledgers import ledger_on_sheet
from jentrow.services.marking.standing import Answer, Standings
from jentrow.services.scope import CourseScope


@dataclass(frozen=True)
class AskedLine:
    """A question about a mark with its answer, as both sides see it."""

    id: int
    by_learner: bool
    asked_by: str
    asked_at: datetime
    text: str
    answer: str
    answered_by: str
    answered_at: datetime | None


@dataclass(frozen=True)
class FeedbackExercise:
    """What a learner is told about an exercise of a sheet.

    ``state`` is ``decided``, ``undecided``, ``waiting``, ``none`` (nothing handed in) or ``excused``;
    ``submission`` is the attempt that counts, the last of them where all do.
    """

    slug: str
    title: str
    points: float
    state: str
    mark: float | None
    submission: int
    sql: str
    verdict: str
    late_days: int
    comment: str
    ledger: list[LedgerLine]
    questions: list[AskedLine]


@dataclass(frozen=True)
class ExtraLine:
    """An extra mark, or an excuse, with its reason."""

    id: int
    kind: str
    exercise: str
    points: float
    reason: str
    by: str
    at: datetime


@dataclass(frozen=True)
class FeedbackPage:
    """A learner's marks and comments on a sheet; ``mark`` of ``points`` in all."""

    sheet: str
    title: str
    learner_id: int
    learner: str
    code: str
    mark: float
    points: float
    best_of: int | None
    published_at: datetime | None
    exercises: list[FeedbackExercise]
    extras: list[ExtraLine]


def feedback_pages(
    scope: CourseScope, slug: str, learner_id: int | None = None
) -> list[FeedbackPage]:
    """What each learner is told, or will be, about a sheet; of one learner where one is named."""
    with scope.records.session() as session:
        sheet = sheet_named(session, slug)
        learners = [
            one for one in learners_of(session, sheet.course_id) if learner_id in (None, one.id)
        ]
        if learner_id is not None and not learners:
            raise NotFound(f"There is no learner {learner_id} in this course.")
        pages = FeedbackPages(session, sheet, learner_id)
        return [pages.of(one) for one in learners]


class FeedbackPages:
    """Makes the feedback pages of a sheet; what they need is looked up once.

    With ``learner_id`` only that learner's page can be made.
    """

    def __init__(self, session: Session, sheet: Sheet, learner_id: int | None = None) -> None:
        self._sheet = sheet
        course = session.get_one(Course, sheet.course_id)
        exercises = list(list_exercises(session, course.id))
        self._titles = {one.id: one.title for one in exercises}
        standings = Standings(session, course, [sheet], exercises, {})
        found = standings.of(answers_on(session, sheet.id, learner_id))
        counting = [one for one in found if one.counts]
        self._answers: dict[tuple[int, int], list[Answer]] = {}
        for one in sorted(counting, key=lambda one: (one.row.submitted, one.row.id)):
            place = one.row.learner_id, one.row.exercise_id
            self._answers.setdefault(place, []).append(one)
        shown = [own[-1].row for own in self._answers.values()]
        self._texts = texts_of(session, [row.id for row in shown])
        self._gradings = gradings_numbered(session, [row.grading_id or 0 for row in shown])
        self._decisions = decisions_numbered(session, [row.decision_id or 0 for row in shown])
        self._questions: dict[int, list[Question]] = {}
        for asked in questions_about(session, [row.id for row in shown]):
            # What an instructor asks a colleague is none of the learner's.
            if asked.by_learner:
                self._questions.setdefault(asked.submission_id, []).append(asked)
        self._adjusted: dict[int, list[Adjustment]] = {}
        for adjustment in standing_adjustments(session, course.id):
            if adjustment.sheet_id == sheet.id:
                self._adjusted.setdefault(adjustment.learner_id, []).append(adjustment)

    def of(self, learner: Learner) -> FeedbackPage:
        """A learner's marks and comments on the sheet."""
        sheet = self._sheet
        adjusted = self._adjusted.get(learner.id, [])
        excused = {one.exercise_id for one in adjusted if one.kind == "excused"}
        told = [
            self._told(
                entry,
                self._answers.get((learner.id, entry.exercise_id), []),
                excused=entry.exercise_id in excused,
            )
            for entry in sheet.entries
        ]
        extra = sum(one.points for one in adjusted if one.kind == "extra")
        marks = [ExerciseMark(one.mark, one.points, one.state == "excused") for one in told]
        whole = sheet_sum(marks, sheet.best_of, extra)
        return FeedbackPage(
            sheet.slug,
            sheet.title,
            learner.id,
            learner.name,
            learner.code,
            rounded(whole.mark, 0.01),
            rounded(whole.points, 0.01),
            sheet.best_of,
            sheet.published_at,
            told,
            [extra_line(one, self._titles) for one in adjusted],
        )

    def _told(
        self, entry: SheetEntry, counting: Sequence[Answer], *, excused: bool
    ) -> FeedbackExercise:
        exercise = entry.exercise
        if not counting:
            state = "excused" if excused else "none"
            return FeedbackExercise(
                exercise.slug, exercise.title, worth(entry), state, None, 0, "", "", 0, "", [], []
            )
        last = counting[-1]
        state = min((one.state for one in counting), key=["waiting", "undecided", "decided"].index)
        decision = self._decisions.get(last.row.decision_id or 0)
        grading = self._gradings.get(last.row.grading_id or 0)
        return FeedbackExercise(
            exercise.slug,
            exercise.title,
            worth(entry),
            "excused" if excused else state,
            mean_mark([one.worth for one in counting]),
            last.row.id,
            self._texts[last.row.id],
            last.verdict,
            last.late_days,
            decision.comment if decision else "",
            ledger_on_sheet(grading, decision, last.mark, entry, last.share)
            if len(counting) == 1
            else [],
            [asked_line(one) for one in self._questions.get(last.row.id, [])],
        )


def asked_line(one: Question) -> AskedLine:
    """A question with its answer."""
    return AskedLine(
        one.id, one.by_learner, one.asked_by, one.asked_at, one.text, one.answer, one.answered_by,
        one.answered_at,
    )  # fmt: skip


def extra_line(one: Adjustment, titles: dict[int, str]) -> ExtraLine:
    """An extra mark or an excuse as pages show it."""
    return ExtraLine(
        one.id, one.kind, titles.get(one.exercise_id or 0, ""), one.points, one.reason, one.by,
        one.at,
    )  # fmt: skip
