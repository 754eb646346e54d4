"""A learner's own pages: the sheets that are open to them, and an exercise with its tables."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from jentrow.core.engines.labels import copy_engine
from jentrow.core.errors import JentrowError
from jentrow.core.exercises.deadlines import Standing, Window
from jentrow.core.exercises.exercise import Exercise as CoreExercise
from jentrow.core.exercises.grading.outcomes import UNDECIDED
from jentrow.core.exercises.showing import glimpse
from jentrow.core.marks.attempts import counting_attempts
from jentrow.core.marks.totals import ExerciseMark, mean_mark, rounded, sheet_sum
from jentrow.core.samples.rows.pages import Page
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.samples.tablenotes import noted
from jentrow.records.contents import core_exercise
from jentrow.records.exercises import find_sheet, list_sheets
from jentrow.records.models import (
    AnswerDraft,
    Course,
    Exercise,
    Learner,
    Submission,
)
from jentrow.records.practice import (
    attempts_on,
    drafts_of,
    exercise_slugs,
    extensions_for,
)
from jentrow.services.errors import NotFound
from jentrow.services.exercises.lateness import window_of, worth
from jentrow.services.exercises.overview import GlimpseView, glimpse_view
from jentrow.services.learners.feedback import AttemptLine
from jentrow.services.learners.places import (
    Place,
    attempt_lines,
    attempts_left,
    attempts_of,
    place_of,
)
from jentrow.services.marking.feedback_pages import FeedbackPage, FeedbackPages
from jentrow.services.samples.catalogue import table_counts, table_notes_of
from jentrow.services.scope import LearnerScope


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
    """An exercise on a learner's sheet.

    ``best`` is None as long as nothing is to be told; ``mark`` is what counts of what is, by which
    of the attempts count on the sheet.
    """

    slug: str
    title: str
    points: float
    attempts: int
    attempts_left: int | None
    waiting: bool
    best: AttemptLine | None
    mark: float | None
    has_draft: bool


@dataclass(frozen=True)
class OwnSheet:
    """A sheet as a learner sees it; one that is not open yet shows its title and its times.

    ``earned`` of ``points`` is what it comes to by now: with the best so many of its exercises,
    where no more count.
    """

    slug: str
    title: str
    times: SheetTimes
    earned: float
    points: float
    exercises: list[ExerciseLine]
    published: bool


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
    """An exercise as a learner sees it; ``functions`` are those that its engine has.

    ``engine`` is its label, ``engine_name`` its name, ``copy_engine`` the name of that of a private
    copy. ``copy_note`` says on what a private copy runs, where that is another engine, or what it has not.

    With ``steps`` they may look at their queries step by step.
    """

    slug: str
    title: str
    prompt: str
    points: float
    engine: str
    engine_name: str
    copy_engine: str
    copy_note: str
    functions: tuple[str, ...]
    steps: bool
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


def own_course(own: LearnerScope) -> OwnCourse:
    """The sheets of a learner, and how far they are."""
    now = own.runtime.now()
    with own.records.session() as session:
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
            marks = [ExerciseMark(line.mark, line.points) for line in lines]
            comes_to = sheet_sum(marks, sheet.best_of)
            found.append(
                OwnSheet(
                    sheet.slug,
                    sheet.title,
                    _times(times, now, extended=extension is not None),
                    rounded(comes_to.mark, 0.01),
                    rounded(comes_to.points, 0.01),
                    lines,
                    sheet.published_at is not None,
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


def _line(
    place: Place, attempts: Sequence[Submission], has_draft: bool, now: datetime
) -> ExerciseLine:
    lines = attempt_lines(place, attempts, now)
    told = [line for line in lines if line.mark is not None or line.verdict == UNDECIDED]
    counting = counting_attempts([line.mark for line in lines], place.sheet.counting)  # type: ignore[arg-type]
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
        mean_mark([lines[at].mark for at in counting]),
        has_draft,
    )


def own_exercise(own: LearnerScope, sheet: str, slug: str) -> OwnExercise:
    """An exercise with its tables, the learner's attempts and draft. Raises :class:`NotFound`."""
    now = own.runtime.now()
    with own.records.session() as session:
        place = place_of(session, own, sheet, slug)
        exercise = place.exercise
        attempts = attempts_of(session, place)
        draft = session.get(AnswerDraft, (own.learner_id, exercise.id))
        slugs = exercise_slugs(session, place.sheet.id)
        at = slugs.index(slug)
        engine = own.runtime.engines.state(exercise.engine)
        return OwnExercise(
            exercise.slug,
            exercise.title,
            exercise.prompt,
            worth(place.entry),
            own.runtime.engines.label(exercise.engine),
            exercise.engine,
            copy_engine(exercise.engine),
            engine.no_copies or engine.copies_lack,
            engine.functions,
            core_exercise(exercise).feedback.steps,
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


def _glimpse(own: LearnerScope, exercise: Exercise, core: CoreExercise) -> GlimpseView | None:
    try:
        expected = own.runtime.graders.of(exercise).expectations[0][0].result
    except JentrowError:
        return None  # the exercise is broken: its instructor sees that, a learner need not
    return glimpse_view(glimpse(expected, core.shown))


def own_tables(own: LearnerScope, exercise: Exercise) -> list[OwnTable]:
    """The tables of an exercise's sample, in the open dataset."""
    opened = own.runtime.datasets.open(exercise.sample.datasets[0])
    counts = {one.name: one.rows for one in table_counts(opened)}
    tables = noted(opened.dataset.tables, table_notes_of(exercise.sample))
    return [
        OwnTable(table, None if table.stands_in else counts.get(table.name)) for table in tables
    ]


def own_marks(own: LearnerScope, slug: str) -> FeedbackPage:
    """A learner's marks and comments on a sheet. Raises :class:`NotFound` unless it is published."""
    with own.records.session() as session:
        course = session.get_one(Course, own.course_id)
        sheet = find_sheet(session, course.id, slug)
        if sheet is None or sheet.published_at is None:
            raise NotFound("The marks of this sheet are not published yet.")
        learner = session.get_one(Learner, own.learner_id)
        return FeedbackPages(session, sheet, learner.id).of(learner)


def own_rows(
    own: LearnerScope, sheet: str, slug: str, table: str, *, offset: int, limit: int
) -> tuple[TableSchema, Page]:
    """Rows of a table of the open dataset."""
    with own.records.session() as session:
        record = place_of(session, own, sheet, slug).exercise.sample.datasets[0]
    opened = own.runtime.datasets.open(record)
    shape = opened.dataset.table(table)
    return shape, opened.look("page", table, offset=offset, limit=limit)
