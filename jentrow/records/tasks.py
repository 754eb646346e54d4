"""Queries about the submissions that wait to be graded."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Final

from sqlalchemy import bindparam, func, literal, select, update
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session

from jentrow.records.models import Course, Exercise, GradingTask, Setting, Submission
from jentrow.records.numbers import among, among_given, given

HANDED_IN: Final = 0
SLOW: Final = 1
TAKEN_IN: Final = 2
ANEW: Final = 3
"""What goes first: what a learner waits for; then what of that takes long, what was taken in from
files, and what is graded anew."""

IN_TURN: Final = (HANDED_IN, SLOW)
"""Where learners take turns: nobody's second answer goes before another's first."""

WAITS_FOR_ENGINE: Final = "It waits for its engine: "
"""What the problem of an answer begins with that is graded when its engine answers again."""

_PAUSED: Final = "grading_paused"

_UNSEEN: Final = {"synchronize_session": False}
"""For changes to tasks that no session holds as objects."""


def add_tasks(session: Session, submissions: Sequence[Submission], priority: int) -> None:
    """Lets submissions wait to be graded; those that wait already are graded anew in any case."""
    now = datetime.now(UTC)
    turns = _Turns(session, priority, {one.learner_id for one in submissions})
    rows = [
        {
            "submission_id": one.id, "exercise_id": one.exercise_id, "priority": priority,
            "turn": turns.next_of(one.learner_id), "queued_at": now,
        }
        for one in submissions
    ]  # fmt: skip
    if rows:
        session.connection().execute(_ADDED, rows)


# Each answer that is handed in asks this while all others who write wait: it is written once.

_FIRST_TURN: Final = select(func.min(GradingTask.turn)).where(
    GradingTask.priority == bindparam("of"),
    GradingTask.problem == "",
    GradingTask.claimed_by.is_(None),
)
_LAST_TURNS: Final = (
    select(Submission.learner_id, func.max(GradingTask.turn))
    .join(GradingTask, GradingTask.submission_id == Submission.id)
    .where(GradingTask.priority == bindparam("of"), among_given(Submission.learner_id))
    .group_by(Submission.learner_id)
)
_ADDED: Final = insert(GradingTask).on_conflict_do_update(
    index_elements=["submission_id"],
    set_={"generation": GradingTask.generation + 1, "problem": "", "tries": 0},
)


class _Turns:
    """Which turn the next answers of learners have among what waits at a priority.

    Whoever has nothing waiting joins the round that it is now, before those in it who have been
    served (even numbers, and odd ones); each further answer of theirs comes a round later. So nobody's
    second answer goes before another's first, whenever that comes. (After start-time fair queueing:
    Goyal, Vin and Cheng 1996.)
    """

    def __init__(self, session: Session, priority: int, learner_ids: Collection[int]) -> None:
        self._in_turn = priority in IN_TURN
        if not self._in_turn:
            return
        connection, of = session.connection(), {"of": priority}
        self._round = (connection.scalar(_FIRST_TURN, of) or 0) // 2
        own = connection.execute(_LAST_TURNS, of | given(learner_ids))
        self._last = {learner_id: last for learner_id, last in own}  # noqa: C416

    def next_of(self, learner_id: int) -> int:
        """The turn of one more answer of this learner."""
        if not self._in_turn:
            return 0
        last = self._last.get(learner_id)
        turn = 2 * self._round if last is None else 2 * max(self._round, last // 2 + 1) + 1
        self._last[learner_id] = turn
        return turn


def add_forgotten(session: Session) -> None:
    """Lets every submission wait that has neither a grading nor a task: nothing is ever lost."""
    missing = (
        select(
            Submission.id,
            Submission.exercise_id,
            literal(TAKEN_IN),
            literal(datetime.now(UTC).replace(tzinfo=None)),
        )
        .outerjoin(GradingTask, GradingTask.submission_id == Submission.id)
        .where(Submission.grading_id.is_(None), GradingTask.submission_id.is_(None))
    )
    columns = ["submission_id", "exercise_id", "priority", "queued_at"]
    session.execute(insert(GradingTask).from_select(columns, missing))


def put_back(session: Session, submission_ids: Sequence[int], priority: int) -> None:
    """Lets submissions wait among those of another priority, in turns of their own there."""
    found = session.execute(
        select(Submission.id, Submission.learner_id)
        .where(among(Submission.id, submission_ids))
        .order_by(Submission.id)
    ).all()
    turns = _Turns(session, priority, {one.learner_id for one in found})
    for one in found:
        session.execute(
            update(GradingTask)
            .where(GradingTask.submission_id == one.id)
            .values(
                priority=priority,
                turn=turns.next_of(one.learner_id),
                claimed_by=None,
                claimed_at=None,
            )
        )


def waiting_of(session: Session, learner_ids: Collection[int], priority: int) -> list[int]:
    """The submissions of learners that wait at a priority and that nobody has claimed."""
    asked = (
        select(GradingTask.submission_id)
        .join(Submission, Submission.id == GradingTask.submission_id)
        .where(
            among(Submission.learner_id, learner_ids),
            GradingTask.priority == priority,
            GradingTask.claimed_by.is_(None),
        )
    )
    return list(session.scalars(asked))


def block_tasks(session: Session, exercise_id: int, problem: str) -> None:
    """Notes why the answers to an exercise cannot be graded."""
    session.execute(
        update(GradingTask)
        .where(GradingTask.exercise_id == exercise_id, GradingTask.problem == "")
        .values(problem=problem)
    )


def exercises_waiting_for_engines(session: Session) -> dict[int, str]:
    """The exercises whose answers wait for their engine, with its name."""
    found = session.execute(
        select(Exercise.id, Exercise.engine)
        .join(GradingTask, GradingTask.exercise_id == Exercise.id)
        .where(GradingTask.problem.startswith(WAITS_FOR_ENGINE))
        .distinct()
    )
    return {row.id: row.engine for row in found}


def unblock_tasks(session: Session, exercise_ids: Collection[int]) -> None:
    """Lets the answers to exercises be graded whose engine answers again."""
    session.execute(
        update(GradingTask)
        .where(
            among(GradingTask.exercise_id, exercise_ids),
            GradingTask.problem.startswith(WAITS_FOR_ENGINE),
        )
        .values(problem=""),
        execution_options=_UNSEEN,
    )


def renew_tasks(session: Session, exercise_ids: Collection[int]) -> None:
    """The exercises, or their rows, have changed: what waits, or is being graded, is so anew."""
    session.execute(
        update(GradingTask)
        .where(among(GradingTask.exercise_id, exercise_ids))
        .values(problem="", tries=0, generation=GradingTask.generation + 1),
        execution_options=_UNSEEN,
    )


def renew_sample(session: Session, sample_id: int) -> None:
    """The same for all exercises over a sample."""
    over = session.scalars(select(Exercise.id).where(Exercise.sample_id == sample_id))
    renew_tasks(session, list(over))


def count_ready(session: Session, exercise_id: int) -> int:
    """How many submissions to an exercise wait, or are being graded, and can be graded."""
    waiting = select(func.count()).where(
        GradingTask.exercise_id == exercise_id, GradingTask.problem == ""
    )
    return session.scalar(waiting) or 0


def problems_of(session: Session, exercise_id: int) -> dict[int, str]:
    """Why submissions to an exercise cannot be graded as things are."""
    rows = session.execute(
        select(GradingTask.submission_id, GradingTask.problem).where(
            GradingTask.exercise_id == exercise_id, GradingTask.problem != ""
        )
    )
    return {id: problem for id, problem in rows}  # noqa: C416


@dataclass(frozen=True, slots=True)
class Waiting:
    """How many submissions of a course wait, and how many of them cannot be graded as things are."""

    all: int = 0
    blocked: int = 0


_COUNT: Final = func.count(GradingTask.submission_id)
_COUNTED: Final = (
    select(Exercise.course_id, _COUNT, _COUNT.filter(GradingTask.problem != ""))
    .join(Exercise, Exercise.id == GradingTask.exercise_id)
    .group_by(Exercise.course_id)
)


def count_tasks(session: Session) -> dict[int, Waiting]:
    """What waits, by course."""
    rows = session.connection().execute(_COUNTED)
    return {course_id: Waiting(waiting, blocked) for course_id, waiting, blocked in rows}


# pausing


ALL_PAUSED: Final = select(Setting.name).where(Setting.name == _PAUSED)
"""Whether an administrator has stopped all grading: a row, or none."""


def pause_all(session: Session, *, paused: bool) -> None:
    """Stops the grading of all courses, or lets it go on."""
    found = session.get(Setting, _PAUSED)
    if paused and found is None:
        session.add(Setting(name=_PAUSED, value="1"))
    elif not paused and found is not None:
        session.delete(found)


_PAUSED_COURSES: Final = select(Course.id).where(Course.grading_paused.is_(True))


def paused_courses(session: Session) -> tuple[bool, frozenset[int]]:
    """Whether all grading is stopped, and the courses whose grading is."""
    connection = session.connection()
    courses = frozenset(connection.scalars(_PAUSED_COURSES))
    return connection.scalar(ALL_PAUSED) is not None, courses
