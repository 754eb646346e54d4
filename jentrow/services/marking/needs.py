"""What needs an instructor: everything in a course that waits for somebody, each with its place."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Final, Literal, TypeAlias

from sqlalchemy.orm import Session

from jentrow.core.errors import JentrowError
from jentrow.core.exercises.trials import run_trials
from jentrow.core.words import counted
from jentrow.records.exercises import list_exercises, list_sheets, sheet_titles
from jentrow.records.marks import open_questions
from jentrow.records.models import Course, Exercise, Sheet
from jentrow.records.people import learners_of
from jentrow.records.sheetless import sheetless_counts
from jentrow.records.tasks import problems_of
from jentrow.services.exercises.lateness import window_of
from jentrow.services.marking.course_answers import CourseAnswers, course_answers
from jentrow.services.marking.standing import Answer
from jentrow.services.scope import CourseScope, course_in_scope

NeedKind: TypeAlias = Literal[
    "question", "undecided", "outdated", "contradicted", "set_aside", "sheetless", "trials",
    "publish", "closing", "silent",
]  # fmt: skip
CLOSING_SOON: Final = timedelta(days=3)
NAMED: Final = 4
"""So many learners are named where some fell silent."""


@dataclass(frozen=True)
class Need:
    """Something that waits: how much of it, in words, and the page where it is dealt with.

    ``exercise``, ``sheet`` and ``submission`` are the place; empty or 0 where they are none of it.
    ``urgent`` holds something up: a learner who asks, a sheet that could be published.
    """

    kind: NeedKind
    count: int
    title: str
    says: str
    exercise: str = ""
    sheet: str = ""
    submission: int = 0
    urgent: bool = False


def needs(scope: CourseScope) -> list[Need]:
    """What waits in a course, what holds something up first. Trials are looked at by themselves."""
    with scope.records.session() as session:
        course = course_in_scope(session)
        exercises = list(list_exercises(session, course.id))
        sheets = list_sheets(session, course.id)
        answers = course_answers(scope, session, course, exercises)
        found = [
            *_questions(session, course),
            *_undecided(course, exercises, sheets, answers, scope.runtime.now()),
            *_set_aside(session, exercises),
            *_sheetless(session, course, exercises),
            *_sheets(session, course, sheets, answers, scope.runtime.now()),
        ]
    return sorted(found, key=lambda one: not one.urgent)


def failing_trials(scope: CourseScope) -> list[Need]:
    """The exercises of which a trial does not hold, or whose reference answer does not run."""
    with scope.records.session() as session:
        exercises = list(list_exercises(session, course_in_scope(session).id))
    found: list[Need] = []
    for one in exercises:
        try:
            failing = [trial for trial in run_trials(scope.runtime.graders.of(one))
                       if not trial.holds]  # fmt: skip
        except JentrowError as problem:
            found.append(Need("trials", 1, one.title, str(problem), one.slug, urgent=True))
            continue
        if failing:
            says = "; ".join(f"{trial.trial.name}: {trial.said}" for trial in failing[:2])
            found.append(Need("trials", len(failing), one.title, says, one.slug, urgent=True))
    return found


def _questions(session: Session, course: Course) -> Iterator[Need]:
    for one in open_questions(session, course.id):
        asks = "asks about" if one.by_learner else "asks a second reader about"
        yield Need(
            "question", 1, f"{one.asked_by} {asks} {one.exercise.title}", one.text, one.exercise.slug,
            submission=one.submission_id, urgent=True,
        )  # fmt: skip


def _undecided(
    course: Course,
    exercises: Sequence[Exercise],
    sheets: Sequence[Sheet],
    answers: CourseAnswers,
    now: datetime,
) -> Iterator[Need]:
    closed = {
        sheet.id
        for sheet in sheets
        if window_of(sheet, course, None).standing(now) in ("late", "closed")
        and sheet.published_at is None
    }
    for exercise in exercises:
        own = answers.by_exercise.get(exercise.id, [])
        undecided = [one for one in own if one.counts and one.state == "undecided"]
        if undecided:
            unknown = sum(bool(one.row.undecided) for one in undecided)
            holds_up = any(one.row.sheet_id in closed for one in undecided)
            yield Need(
                "undecided", len(undecided), exercise.title,
                ("holds up publishing" if holds_up else "of answers that count")
                + (f"; of {unknown} nobody can tell by running them" if unknown else ""),
                exercise.slug, urgent=holds_up,
            )  # fmt: skip
        if outdated := sum(one.outdated for one in own):
            says = "the exercise, its rows or the engine changed since they were graded"
            yield Need("outdated", outdated, exercise.title, says, exercise.slug, urgent=True)
        if contradicted := sum(one.contradicted for one in own):
            says = "a mark was decided, and grading says something else by now"
            yield Need("contradicted", contradicted, exercise.title, says, exercise.slug)


def _set_aside(session: Session, exercises: Sequence[Exercise]) -> Iterator[Need]:
    for one in exercises:
        problems = problems_of(session, one.id)
        for said in dict.fromkeys(problems.values()):
            ids = [id for id, problem in problems.items() if problem == said]
            yield Need(
                "set_aside", len(ids), one.title, said, one.slug, submission=ids[0], urgent=True
            )


def _sheetless(session: Session, course: Course, exercises: Sequence[Exercise]) -> Iterator[Need]:
    counts = sheetless_counts(session, course.id)
    titles = sheet_titles(session, course.id) if counts else {}
    for one in exercises:
        if one.id not in counts:
            continue
        having = titles.get(one.id)
        says = (
            f"they are in no marks: the exercise is on {' and on '.join(having)}, and nobody has said "
            "where they belong"
            if having
            else "they are in no marks, as the exercise is on no sheet"
        )
        yield Need("sheetless", counts[one.id], one.title, says, one.slug)


def _sheets(
    session: Session,
    course: Course,
    sheets: Sequence[Sheet],
    answers: CourseAnswers,
    now: datetime,
) -> Iterator[Need]:
    names = {one.id: one.name for one in learners_of(session, course.id)}
    counting: dict[int | None, list[Answer]] = {}
    for one in answers:
        if one.counts:
            counting.setdefault(one.row.sheet_id, []).append(one)
    for sheet in sheets:
        own = counting.get(sheet.id, [])
        window = window_of(sheet, course, None)
        standing = window.standing(now)
        if standing == "open" and window.closes and window.closes - now <= CLOSING_SOON:
            handed_in = len({one.row.learner_id for one in own})
            says = f"{handed_in} of {counted(len(names), 'learner')} have handed something in"
            yield Need("closing", 1, f"{sheet.title} closes soon", says, sheet=sheet.slug)
        waits = any(one.state != "decided" or one.outdated for one in own)
        if own and standing in ("late", "closed") and sheet.published_at is None and not waits:
            yield Need(
                "publish", len(own), sheet.title, "all is decided: its marks can be published",
                sheet=sheet.slug, urgent=True,
            )  # fmt: skip
    active = {sheet: {one.row.learner_id for one in own} for sheet, own in counting.items()}
    yield from _silent(names, sheets, active, course, now)


def _silent(
    names: dict[int, str],
    sheets: Sequence[Sheet],
    active: Mapping[int | None, set[int]],
    course: Course,
    now: datetime,
) -> Iterator[Need]:
    """Learners who handed in to an earlier sheet, and nothing to the latest that is under way.

    ``active`` has, by sheet, who handed in to it.
    """
    begun = [
        sheet for sheet in sheets
        if window_of(sheet, course, None).standing(now) != "not_yet" and sheet.entries
    ]  # fmt: skip
    if len(begun) < 2:
        return
    *earlier, latest = begun
    before = {learner for sheet in earlier for learner in active.get(sheet.id, ())}
    lately = active.get(latest.id, set())
    silent = sorted(names[id] for id in before - lately if id in names)
    if silent and lately:
        more = f" and {len(silent) - NAMED} more" if len(silent) > NAMED else ""
        yield Need(
            "silent", len(silent), f"handed in nothing to {latest.title}",
            ", ".join(silent[:NAMED]) + more, sheet=latest.slug,
        )  # fmt: skip
