"""A learner's own pages: the sheets that are open to them, and an exercise with its tables."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Final

from sqlalchemy.orm import Session

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import QueryFailure
from jentrow.core.errors import JentrowError, UnusableInput
from jentrow.core.exercises.deadlines import Standing, Window
from jentrow.core.exercises.exercise import Exercise as CoreExercise
from jentrow.core.exercises.outcomes import UNDECIDED
from jentrow.core.exercises.showing import glimpse
from jentrow.core.samples.rows import Page
from jentrow.core.samples.schema import TableSchema
from jentrow.records.exercises import list_sheets
from jentrow.records.models import (
    AnswerDraft,
    Course,
    Exercise,
    Learner,
    Sheet,
    SheetEntry,
    Submission,
)
from jentrow.records.practice import (
    attempts_at,
    attempts_on,
    bare_sheet,
    drafts_of,
    entry_of,
    exercise_slugs,
    extension_of,
    extensions_for,
)
from jentrow.services.access import LearnerDesk
from jentrow.services.contents import core_exercise
from jentrow.services.errors import NotFound
from jentrow.services.feedback import AttemptLine, attempt_line, feedback_opens
from jentrow.services.lanes import Lane
from jentrow.services.lateness import window_of
from jentrow.services.samples import table_counts
from jentrow.services.trying import TriedView
from jentrow.services.views import GlimpseView, glimpse_view

SHOWN_ROWS: Final = 500
RUN_SECONDS: Final = 2.0
RUN_ROWS: Final = 20_000
LONGEST_ANSWER: Final = 100_000


@dataclass(frozen=True)
class SheetTimes:
    """When answers to a sheet are taken from one learner, as instants; None for no bound.

    ``late`` says in words what becomes of an answer after ``closes``.
    """

    standing: Standing
    opens: datetime | None
    closes: datetime | None
    ends: datetime | None
    extended: bool
    late: str


@dataclass(frozen=True)
class ExerciseLine:
    """An exercise on a learner's sheet. ``best`` is None as long as nothing is to be told."""

    slug: str
    title: str
    points: float
    attempts: int
    attempts_left: int | None
    waiting: bool
    best: AttemptLine | None
    has_draft: bool


@dataclass(frozen=True)
class OwnSheet:
    """A sheet as a learner sees it; one that is not open yet shows its title and its times."""

    slug: str
    title: str
    times: SheetTimes
    points: float
    exercises: list[ExerciseLine]


@dataclass(frozen=True)
class OwnCourse:
    """A course as a learner sees it; ``now`` is the server's time."""

    title: str
    zone: str
    now: datetime
    archived: bool
    learner: str
    code: str
    sheets: list[OwnSheet]


@dataclass(frozen=True)
class OwnTable:
    """A table of the sample with the number of its rows in the open dataset."""

    table: TableSchema
    rows: int | None


@dataclass(frozen=True)
class DraftView:
    """What was typed and not handed in."""

    sql: str
    saved_at: datetime


@dataclass(frozen=True)
class OwnExercise:
    """An exercise as a learner sees it."""

    slug: str
    title: str
    prompt: str
    points: float
    engine: str
    sheet: str
    sheet_title: str
    times: SheetTimes
    now: datetime
    attempts_left: int | None
    attempts: list[AttemptLine]
    draft: DraftView | None
    shown: GlimpseView | None
    sample: str
    tables: list[OwnTable]
    previous: str | None
    next: str | None


@dataclass(frozen=True)
class Place:
    """An exercise on a sheet that is open to a learner, with all that is decided by."""

    course: Course
    learner_id: int
    sheet: Sheet
    entry: SheetEntry
    window: Window
    extended: bool

    @property
    def exercise(self) -> Exercise:
        """The exercise itself."""
        return self.entry.exercise


def place_of(session: Session, own: LearnerDesk, sheet: str, slug: str) -> Place:
    """An exercise on a sheet. Raises :class:`NotFound` for what is not open to the learner."""
    entry = entry_of(session, own.course_id, sheet, slug)
    if entry is not None:
        course = session.get_one(Course, own.course_id)
        record = bare_sheet(session, entry.sheet_id)
        extension = extension_of(session, own.learner_id, record.id)
        found = window_of(record, course, extension.closes if extension else None)
        if found.standing(own.desk.now()) != "not_yet":
            return Place(course, own.learner_id, record, entry, found, extension is not None)
    raise NotFound("There is no such exercise on a sheet that is open to you.")


def attempts_of(session: Session, place: Place) -> list[Submission]:
    """The learner's attempts at an exercise, as they came in."""
    return attempts_at(session, place.learner_id, place.sheet.id, place.exercise.id)


def own_course(own: LearnerDesk) -> OwnCourse:
    """The sheets of a learner, and how far they are."""
    now = own.desk.now()
    with own.desk.records.session() as session:
        course = session.get_one(Course, own.course_id)
        learner = session.get_one(Learner, own.learner_id)
        sheets = list_sheets(session, course.id)
        extensions = extensions_for(session, learner.id)
        attempts = attempts_on(session, learner.id, [sheet.id for sheet in sheets])
        drafts = {one.exercise_id for one in drafts_of(session, learner.id)}
        found = []
        for sheet in sheets:
            extension = extensions.get(sheet.id)
            times = window_of(sheet, course, extension.closes if extension else None)
            lines = [
                _line(
                    Place(course, learner.id, sheet, entry, times, extension is not None),
                    attempts.get((sheet.id, entry.exercise_id), []),
                    entry.exercise_id in drafts,
                    now,
                )
                for entry in sheet.entries
                if times.standing(now) != "not_yet"
            ]
            found.append(
                OwnSheet(
                    sheet.slug,
                    sheet.title,
                    _times(times, now, extended=extension is not None),
                    round(sum(line.points for line in lines), 2),
                    lines,
                )
            )
        return OwnCourse(
            course.title, course.zone, now, course.archived_at is not None, learner.name,
            learner.code, found,
        )  # fmt: skip


def _times(found: Window, now: datetime, *, extended: bool) -> SheetTimes:
    return SheetTimes(
        found.standing(now), found.opens, found.closes, found.ends, extended, _late_words(found)
    )


def _late_words(found: Window) -> str:
    if found.closes is None or found.late.rule == "refuse":
        return ""
    days = found.late.days
    end = "" if days is None else f", for {days} day{'' if days == 1 else 's'}"
    if found.late.rule == "accept":
        return f"late answers count in full{end}"
    return f"late answers lose {found.late.percent_a_day:g} % for each day begun{end}"


def worth(entry: SheetEntry) -> float:
    """What an exercise is worth on a sheet."""
    return entry.exercise.points if entry.points is None else entry.points


def _line(
    place: Place, attempts: Sequence[Submission], has_draft: bool, now: datetime
) -> ExerciseLine:
    lines = attempt_lines(place, attempts, now)
    told = [line for line in lines if line.mark is not None or line.verdict == UNDECIDED]
    best = max(
        told,
        key=lambda line: (line.mark or 0, line.verdict == UNDECIDED, line.number),
        default=None,
    )
    return ExerciseLine(
        place.exercise.slug,
        place.exercise.title,
        worth(place.entry),
        len(attempts),
        attempts_left(place, len(attempts)),
        any(one.grading is None for one in attempts),
        best,
        has_draft,
    )


def attempts_left(place: Place, used: int) -> int | None:
    """How many attempts are left; None where they are not counted."""
    return None if place.sheet.attempts is None else max(0, place.sheet.attempts - used)


def attempt_lines(place: Place, attempts: Sequence[Submission], now: datetime) -> list[AttemptLine]:
    """A learner's attempts in their order, told as far as they may be by now."""
    told = feedback_opens(core_exercise(place.exercise).feedback, place.window) <= now
    return [
        attempt_line(one, number, place.exercise, place.entry, place.window, told=told)
        for number, one in enumerate(attempts, 1)
    ]


def own_exercise(own: LearnerDesk, sheet: str, slug: str) -> OwnExercise:
    """An exercise with its tables, the learner's attempts and draft. Raises :class:`NotFound`."""
    now = own.desk.now()
    with own.desk.records.session() as session:
        place = place_of(session, own, sheet, slug)
        exercise = place.exercise
        attempts = attempts_of(session, place)
        draft = session.get(AnswerDraft, (own.learner_id, exercise.id))
        slugs = exercise_slugs(session, place.sheet.id)
        at = slugs.index(slug)
        return OwnExercise(
            exercise.slug,
            exercise.title,
            exercise.prompt,
            worth(place.entry),
            f"{exercise.engine} {own.desk.engine(exercise.engine).version}",
            place.sheet.slug,
            place.sheet.title,
            _times(place.window, now, extended=place.extended),
            now,
            attempts_left(place, len(attempts)),
            attempt_lines(place, attempts, now),
            DraftView(draft.sql, draft.saved_at) if draft else None,
            _glimpse(own, exercise, core_exercise(exercise)),
            exercise.sample.name,
            own_tables(own, exercise),
            slugs[at - 1] if at else None,
            slugs[at + 1] if at + 1 < len(slugs) else None,
        )


def _glimpse(own: LearnerDesk, exercise: Exercise, core: CoreExercise) -> GlimpseView | None:
    try:
        expected = own.desk.grader(exercise).expectations[0][0].result
    except JentrowError:
        return None  # the exercise is broken: its instructor sees that, a learner need not
    return glimpse_view(glimpse(expected, core.shown))


def own_tables(own: LearnerDesk, exercise: Exercise) -> list[OwnTable]:
    """The tables of an exercise's sample, in the open dataset."""
    shelved = own.desk.shelf.open(exercise.sample.datasets[0])
    counts = {one.name: one.rows for one in table_counts(shelved)}
    return [OwnTable(table, counts.get(table.name)) for table in shelved.dataset.tables]


def own_rows(
    own: LearnerDesk, sheet: str, slug: str, table: str, *, offset: int, limit: int
) -> tuple[TableSchema, Page]:
    """Rows of a table of the open dataset."""
    with own.desk.records.session() as session:
        record = place_of(session, own, sheet, slug).exercise.sample.datasets[0]
    shelved = own.desk.shelf.open(record)
    shape = shelved.dataset.table(table)
    return shape, shelved.look("page", table, offset=offset, limit=limit)


def keep_draft(own: LearnerDesk, sheet: str, slug: str, sql: str) -> datetime:
    """Keeps what a learner has typed; nothing is kept of an empty text."""
    checked_text(sql)
    now = own.desk.now()
    with own.desk.records.session() as session:
        exercise = place_of(session, own, sheet, slug).exercise
    with own.desk.records.writing() as session:
        draft = session.get(AnswerDraft, (own.learner_id, exercise.id))
        if not sql.strip():
            if draft is not None:
                session.delete(draft)
        elif draft is None:
            session.add(
                AnswerDraft(
                    learner_id=own.learner_id, exercise_id=exercise.id, sql=sql, saved_at=now
                )
            )
        else:
            draft.sql, draft.saved_at = sql, now
    return now


def checked_text(sql: str) -> str:
    """Text that can be kept. Raises :class:`UnusableInput`."""
    if len(sql) > LONGEST_ANSWER:
        raise UnusableInput(f"An answer has at most {LONGEST_ANSWER:,} characters.")
    if "\0" in sql or any("\ud800" <= sign <= "\udfff" for sign in sql):
        raise UnusableInput("The text holds characters that are no text: type it anew.")
    return sql


def run_query(own: LearnerDesk, sheet: str, slug: str, sql: str, lane: Lane) -> TriedView:
    """Runs a query on the open dataset, for trying. Raises :class:`TakesLong`."""
    checked_text(sql)
    with own.desk.records.session() as session:
        exercise = place_of(session, own, sheet, slug).exercise
        record = exercise.sample.datasets[0]
        limits = own.desk.settings.capped(core_exercise(exercise).rules.limits)
    engine = own.desk.engine(exercise.engine, use=lane.use)
    bounds = lane.bounds(
        Limits(min(RUN_SECONDS, limits.seconds), min(RUN_ROWS, limits.rows), limits.memory_mb)
    )
    loaded = engine.load(own.desk.shelf.source(record))
    outcome = engine.show(loaded, sql, bounds, SHOWN_ROWS, lane.patience)
    lane.check(outcome)
    if isinstance(outcome, QueryFailure):
        return TriedView(None, outcome.verdict, outcome.message, outcome.place, outcome.near)
    return TriedView(outcome, "ran", "", None, "")
