"""The marking desk: the answers to an exercise in their outcome groups, the largest first."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from datetime import datetime
from typing import Literal, TypeAlias

from sqlalchemy.orm import Session

from jentrow.core.errors import JentrowError
from jentrow.records.decisions import counts_by_decision, decisions_on
from jentrow.records.exercises import last_version, list_exercises, sheet_titles
from jentrow.records.explanations import explanations_of, texts_of
from jentrow.records.marks import (
    answers_to,
    open_questions,
    phrases_of,
    regrades_of,
)
from jentrow.records.models import Course, Decision, Exercise, Question
from jentrow.records.people import learners_of
from jentrow.services.exercises.overview import exercise_named
from jentrow.services.marking.course_answers import course_answers, standings_of
from jentrow.services.marking.desk_groups import OutcomeGroup, grouped
from jentrow.services.marking.explanations import Explanation, read_explanation, text_digest
from jentrow.services.scope import CourseScope, course_in_scope

Attempts: TypeAlias = Literal["counting", "all"]
"""The attempts on the desk: those that count as their sheets say, or every one."""


@dataclass(frozen=True)
class DecisionLine:
    """A decision in the history: ``count`` answers got a mark by it, ``joined`` of them later."""

    id: int
    at: datetime
    by: str
    mark: float | None
    comment: str
    reason: str
    ledger: list[dict[str, object]]
    groups: int
    count: int
    joined: int
    undone_at: datetime | None
    undone_by: str


@dataclass(frozen=True)
class QuestionLine:
    """A question that waits at an answer."""

    id: int
    exercise: str
    submission: int
    by_learner: bool
    asked_by: str
    asked_at: datetime
    text: str


@dataclass(frozen=True)
class RegradeLine:
    """Answers that were graded anew, by a version of the exercise."""

    id: int
    at: datetime
    by: str
    version: int
    count: int
    undone_at: datetime | None
    undone_by: str


@dataclass(frozen=True)
class DeskView:
    """The desk of one exercise.

    ``total`` counts the answers on it, ``decided`` those that are. ``last_decision`` is the number
    that a decision says it has seen, so that nobody decides over somebody else's head unawares.
    """

    slug: str
    title: str
    prompt: str
    sample: str
    points: float
    version: int
    attempts: Attempts
    total: int
    decided: int
    outdated: int
    contradicted: int
    last_decision: int
    groups: list[OutcomeGroup]
    history: list[DecisionLine]
    regrades: list[RegradeLine]
    questions: list[QuestionLine]
    phrases: list[str]


@dataclass(frozen=True)
class DeskLine:
    """An exercise in the list of what is to be marked; counts are of the attempts that count."""

    slug: str
    title: str
    sheets: list[str]
    points: float
    total: int
    undecided: int
    outdated: int
    questions: int


def desk_view(scope: CourseScope, slug: str, attempts: Attempts = "counting") -> DeskView:
    """The answers to an exercise in their groups. Raises :class:`NotFound`."""
    with scope.records.session() as session:
        exercise = exercise_named(session, slug)
        course = session.get_one(Course, exercise.course_id)
        answers = standings_of(scope, session, course, [exercise]).of(
            answers_to(session, exercise.id)
        )
        decisions = decisions_on(session, exercise.id)
        counts = counts_by_decision(session, exercise.id)
        names = {one.id: one.name for one in learners_of(session, course.id)}
        on_desk = [one for one in answers if one.counts or attempts == "all"]
        single = {one.id for one in decisions if not one.groups}
        groups = grouped(session, on_desk, names, single, _known_of(scope, session, exercise))
        return DeskView(
            slug=exercise.slug,
            title=exercise.title,
            prompt=exercise.prompt,
            sample=exercise.sample.name,
            points=exercise.points,
            version=last_version(session, exercise.id),
            attempts=attempts,
            total=len(on_desk),
            decided=sum(one.state == "decided" for one in on_desk),
            outdated=sum(one.outdated for one in answers),
            contradicted=sum(one.contradicted for one in answers),
            last_decision=max((one.id for one in decisions), default=0),
            groups=groups,
            history=[decision_line(one, *counts.get(one.id, (0, 0))) for one in decisions],
            regrades=[
                RegradeLine(
                    one.id, one.at, one.by, one.version, len(one.before), one.undone_at,
                    one.undone_by,
                )
                for one in regrades_of(session, exercise.id)
            ],
            questions=[
                question_line(one)
                for one in open_questions(session, course.id)
                if one.exercise_id == exercise.id
            ],
            phrases=[one.text for one in phrases_of(session, course.id)],
        )  # fmt: skip


def desk_lines(scope: CourseScope) -> list[DeskLine]:
    """What there is to mark, exercise by exercise, in their order."""
    with scope.records.session() as session:
        course = course_in_scope(session)
        exercises = list(list_exercises(session, course.id))
        on = sheet_titles(session, course.id)
        answers = list(course_answers(scope, session, course, exercises))
        questions = Counter(one.exercise_id for one in open_questions(session, course.id))
    counting = [one for one in answers if one.counts]
    total = Counter(one.row.exercise_id for one in counting)
    undecided = Counter(one.row.exercise_id for one in counting if one.state == "undecided")
    outdated = Counter(one.row.exercise_id for one in answers if one.outdated)
    return [
        DeskLine(
            one.slug, one.title, on.get(one.id, []), one.points, total[one.id], undecided[one.id],
            outdated[one.id], questions[one.id],
        )
        for one in exercises
    ]  # fmt: skip


def decision_line(one: Decision, count: int, joined: int) -> DecisionLine:
    """A decision as the history shows it."""
    return DecisionLine(
        one.id, one.at, one.by, one.mark, one.comment, one.reason, list(one.ledger),
        len(one.groups), count, joined, one.undone_at, one.undone_by,
    )  # fmt: skip


def question_line(one: Question) -> QuestionLine:
    """A question as pages show it."""
    return QuestionLine(
        one.id, one.exercise.slug, one.submission_id, one.by_learner, one.asked_by, one.asked_at,
        one.text,
    )  # fmt: skip


def _known_of(scope: CourseScope, session: Session, exercise: Exercise) -> dict[int, Explanation]:
    """What is known of each answer to an exercise, by the answer's number."""
    try:
        measure = scope.runtime.graders.made_with(exercise).measure
    except JentrowError:
        return {}
    found = explanations_of(session, exercise.id, measure)
    if not found:
        return {}
    read = {text: read_explanation(one) for text, one in found.items()}
    digests = {id: text_digest(sql) for id, sql in texts_of(session, exercise.id).items()}
    return {id: read[digest] for id, digest in digests.items() if digest in read}
