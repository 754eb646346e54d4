"""Publishing a sheet's marks, taking that back, and what learners are told: their feedback page."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from fractions import Fraction

from sqlalchemy.orm import Session

from jentrow.core.exercises.markscheme import LedgerLine
from jentrow.core.marks.totals import ExerciseMark, rounded, sheet_sum
from jentrow.core.words import counted
from jentrow.records.database import ACTOR
from jentrow.records.exercises import find_sheet, list_exercises
from jentrow.records.marks import (
    answers_in,
    answers_of,
    decision_of,
    questions_about,
    standing_adjustments,
    texts_of,
)
from jentrow.records.models import Adjustment, Course, Grading, Learner, Question, Sheet, SheetEntry
from jentrow.records.people import learners_of
from jentrow.services.errors import NotFound, NotTaken
from jentrow.services.exercises.lateness import worth
from jentrow.services.marking.desk import standings_of
from jentrow.services.marking.ledgers import ledger_on_sheet
from jentrow.services.marking.standing import Answer
from jentrow.services.scope import CourseScope, course_in_scope


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


@dataclass(frozen=True)
class HeldUp:
    """What holds up publishing a sheet: how many answers that count."""

    undecided: int
    outdated: int
    waiting: int


def sheet_named(session: Session, slug: str) -> Sheet:
    """The record of a sheet. Raises :class:`NotFound`."""
    sheet = find_sheet(session, course_in_scope(session).id, slug)
    if sheet is None:
        raise NotFound(f"There is no sheet {slug!r}.")
    return sheet


def publish(scope: CourseScope, slug: str, *, anyway: bool = False) -> None:
    """Tells learners the marks and comments of a sheet from now on.

    Raises :class:`NotTaken` where answers are undecided, unless it is to be done ``anyway``.
    """
    with scope.records.writing() as session:
        sheet = sheet_named(session, slug)
        if sheet.published_at is not None:
            raise NotTaken(f"{sheet.title} is published already, by {sheet.published_by}.")
        held = _held_up(scope, session, sheet)
        if held.waiting or ((held.undecided or held.outdated) and not anyway):
            raise NotTaken(_held_words(sheet, held))
        sheet.published_at = datetime.now(UTC)
        sheet.published_by = session.info.get(ACTOR, "")
    scope.runtime.queue.tell_course(scope.course_id, learners=True)


def _held_words(sheet: Sheet, held: HeldUp) -> str:
    parts = [
        words
        for count, words in (
            (held.waiting, f"{counted(held.waiting, 'answer')} not graded yet"),
            (held.undecided, f"{counted(held.undecided, 'answer')} undecided"),
            (held.outdated, f"{counted(held.outdated, 'answer')} out of date"),
        )
        if count
    ]
    return f"{sheet.title} has {', '.join(parts)}: nothing was published."


def take_back(scope: CourseScope, slug: str) -> None:
    """Hides the marks and comments of a sheet from learners again."""
    with scope.records.writing() as session:
        sheet = sheet_named(session, slug)
        if sheet.published_at is None:
            raise NotTaken(f"{sheet.title} is not published.")
        sheet.published_at, sheet.published_by = None, ""
    scope.runtime.queue.tell_course(scope.course_id, learners=True)


def _held_up(scope: CourseScope, session: Session, sheet: Sheet) -> HeldUp:
    course = session.get_one(Course, sheet.course_id)
    exercises = [entry.exercise for entry in sheet.entries]
    rows = [row for row in answers_in(session, course.id) if row.sheet_id == sheet.id]
    known = {one.id for one in exercises}
    answers = standings_of(scope, session, course, exercises).of(
        [row for row in rows if row.exercise_id in known]
    )
    counting = [one for one in answers if one.counts]
    return HeldUp(
        sum(one.state == "undecided" for one in counting),
        sum(one.outdated for one in counting),
        sum(one.state == "waiting" for one in counting),
    )


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
        pages = FeedbackPages(scope, session, sheet)
        return [pages.of(one) for one in learners]


class FeedbackPages:
    """Makes the feedback pages of a sheet; what all of them need is looked up once."""

    def __init__(self, scope: CourseScope, session: Session, sheet: Sheet) -> None:
        self._session = session
        self._sheet = sheet
        course = session.get_one(Course, sheet.course_id)
        exercises = list(list_exercises(session, course.id))
        self._titles = {one.id: one.title for one in exercises}
        self._standings = standings_of(scope, session, course, exercises)
        self._adjusted: dict[int, list[Adjustment]] = {}
        for one in standing_adjustments(session, course.id):
            if one.sheet_id == sheet.id:
                self._adjusted.setdefault(one.learner_id, []).append(one)

    def of(self, learner: Learner) -> FeedbackPage:
        """A learner's marks and comments on the sheet."""
        session, sheet = self._session, self._sheet
        answers = self._standings.of(answers_of(session, learner.id, sheet.id))
        adjusted = self._adjusted.get(learner.id, [])
        return _page(session, sheet, learner, answers, adjusted, self._titles)


def _page(
    session: Session,
    sheet: Sheet,
    learner: Learner,
    answers: Sequence[Answer],
    adjusted: Sequence[Adjustment],
    titles: dict[int, str],
) -> FeedbackPage:
    excused = {one.exercise_id for one in adjusted if one.kind == "excused"}
    questions = questions_about(session, [one.row.id for one in answers])
    told = [
        _told(
            session,
            entry,
            [one for one in answers if one.counts and one.row.exercise_id == entry.exercise_id],
            questions,
            excused=entry.exercise_id in excused,
        )
        for entry in sheet.entries
    ]
    extra = sum(one.points for one in adjusted if one.kind == "extra")
    marks = [ExerciseMark(one.mark, one.points, one.state == "excused") for one in told]
    whole = sheet_sum(marks, sheet.best_of, extra)
    return FeedbackPage(
        sheet.slug, sheet.title, learner.id, learner.name, learner.code,
        rounded(whole.mark, 0.01), rounded(whole.points, 0.01), sheet.best_of, sheet.published_at,
        told, [extra_line(one, titles) for one in adjusted],
    )  # fmt: skip


def _told(
    session: Session,
    entry: SheetEntry,
    counting: Sequence[Answer],
    questions: Sequence[Question],
    *,
    excused: bool,
) -> FeedbackExercise:
    exercise = entry.exercise
    if not counting:
        state = "excused" if excused else "none"
        return FeedbackExercise(
            exercise.slug, exercise.title, worth(entry), state, None, 0, "", "", 0, "", [], []
        )
    last = counting[-1]
    known = [Fraction(str(one.worth)) for one in counting if one.worth is not None]
    mark = rounded(sum(known, Fraction(0)) / len(known), 0.01) if known else None
    state = min((one.state for one in counting), key=["waiting", "undecided", "decided"].index)
    decision = decision_of(session, last.row.decision_id)
    grading = None if last.row.grading_id is None else session.get(Grading, last.row.grading_id)
    return FeedbackExercise(
        exercise.slug,
        exercise.title,
        worth(entry),
        "excused" if excused else state,
        mark,
        last.row.id,
        texts_of(session, [last.row.id])[last.row.id],
        last.verdict,
        last.late_days,
        decision.comment if decision else "",
        ledger_on_sheet(grading, decision, last.mark, entry, last.share)
        if len(counting) == 1
        else [],
        [asked_line(one) for one in questions if one.submission_id == last.row.id],
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
