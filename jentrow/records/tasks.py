"""Queries about the submissions that wait to be graded."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Final

from sqlalchemy import and_, delete, func, insert, literal, select, update
from sqlalchemy.orm import Session

from jentrow.records.models import Exercise, Grading, GradingTask, Submission

HANDED_IN: Final = 0
SLOW: Final = 1
TAKEN_IN: Final = 2
ANEW: Final = 3
"""What goes first: what a learner waits for; then what of that takes long, what was taken in from
files, and what is graded anew."""


def add_tasks(session: Session, submissions: Sequence[Submission], priority: int) -> None:
    """Lets submissions wait to be graded; those that wait already do so as they did."""
    waiting = set(
        session.scalars(
            select(GradingTask.submission_id).where(
                GradingTask.exercise_id.in_({one.exercise_id for one in submissions})
            )
        )
    )
    now = datetime.now(UTC)
    session.add_all(
        GradingTask(
            submission_id=one.id, exercise_id=one.exercise_id, priority=priority, queued_at=now
        )
        for one in submissions
        if one.id not in waiting
    )


def add_forgotten(session: Session) -> None:
    """Lets every submission wait that has neither a grading nor a task: nothing is ever lost."""
    missing = (
        select(
            Submission.id,
            Submission.exercise_id,
            literal(TAKEN_IN),
            literal(datetime.now(UTC).replace(tzinfo=None)),
        )
        .outerjoin(Grading, Grading.submission_id == Submission.id)
        .outerjoin(GradingTask, GradingTask.submission_id == Submission.id)
        .where(Grading.submission_id.is_(None), GradingTask.submission_id.is_(None))
    )
    columns = ["submission_id", "exercise_id", "priority", "queued_at"]
    session.execute(insert(GradingTask).from_select(columns, missing))


@dataclass(frozen=True, slots=True)
class Batch:
    """Submissions to one exercise that are graded together, with their texts."""

    exercise_id: int
    texts: dict[int, str]


def next_batch(session: Session, most: int, priorities: Collection[int]) -> Batch | None:
    """The submissions of these priorities that come next, all of one exercise and one priority."""
    ready = and_(GradingTask.problem == "", GradingTask.priority.in_(priorities))
    order = (GradingTask.priority, GradingTask.queued_at, GradingTask.submission_id)
    first = session.execute(
        select(GradingTask.exercise_id, GradingTask.priority).where(ready).order_by(*order).limit(1)
    ).one_or_none()
    if first is None:
        return None
    exercise_id, priority = first
    found = session.execute(
        select(Submission.id, Submission.sql)
        .join(GradingTask, GradingTask.submission_id == Submission.id)
        .where(ready, GradingTask.exercise_id == exercise_id, GradingTask.priority == priority)
        .order_by(*order)
        .limit(most)
    )
    return Batch(exercise_id, {id: sql for id, sql in found})  # noqa: C416


def drop_tasks(session: Session, submission_ids: Sequence[int]) -> None:
    """Takes submissions off the queue: they are graded."""
    session.execute(delete(GradingTask).where(GradingTask.submission_id.in_(submission_ids)))


def put_back(session: Session, submission_ids: Sequence[int], priority: int) -> None:
    """Lets submissions wait among those of another priority."""
    session.execute(
        update(GradingTask)
        .where(GradingTask.submission_id.in_(submission_ids))
        .values(priority=priority)
    )


def block_tasks(session: Session, exercise_id: int, problem: str) -> None:
    """Notes why the answers to an exercise cannot be graded; empty for: try again."""
    session.execute(
        update(GradingTask).where(GradingTask.exercise_id == exercise_id).values(problem=problem)
    )


def unblock_sample(session: Session, sample_id: int) -> None:
    """Tries again what could not be graded over a sample whose rows have changed."""
    over = select(Exercise.id).where(Exercise.sample_id == sample_id)
    session.execute(
        update(GradingTask)
        .where(GradingTask.exercise_id.in_(over), GradingTask.problem != "")
        .values(problem="")
    )


def count_tasks(session: Session) -> tuple[int, int]:
    """How many submissions wait, and how many of them cannot be graded as things are."""
    everything = func.count(GradingTask.submission_id)
    waiting, blocked = session.execute(
        select(everything, everything.filter(GradingTask.problem != ""))
    ).one()
    return waiting, blocked
