"""The grading queue: what waits in the records is graded, and kept, whatever happens in between."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import TYPE_CHECKING, Any, Final

from sqlalchemy import select

from jentrow.core.errors import JentrowError
from jentrow.core.exercises.grading import Outcome
from jentrow.records.models import Exercise, Submission
from jentrow.records.submissions import keep_gradings
from jentrow.records.tasks import (
    add_forgotten,
    block_tasks,
    count_tasks,
    drop_tasks,
    next_batch,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from jentrow.services.desk import Desk

_LOG: Final = logging.getLogger(__name__)

BATCH: Final = 200
"""Submissions that are graded together and kept in one transaction: what comes with a higher
priority waits for no more than these."""


@dataclass(frozen=True, slots=True)
class QueueState:
    """Where the queue stands.

    ``done`` of ``total`` since the queue was last empty. ``blocked`` submissions wait for their
    exercise to be mended. ``graded`` counts all gradings since the server started, so that a page
    knows when to look again.
    """

    waiting: int = 0
    blocked: int = 0
    done: int = 0
    total: int = 0
    graded: int = 0
    paused: bool = False
    exercise: str = ""


Listener = Callable[[], None]


class GradingQueue:
    """Grades what waits, one batch after the other. Safe to share between threads."""

    def __init__(self, desk: Desk) -> None:
        self._desk = desk
        self._changed = threading.Condition()
        self._state = QueueState()
        self._wanted = False
        self._closing = False
        self._thread: threading.Thread | None = None
        self._listeners: set[Listener] = set()

    # looking

    @property
    def state(self) -> QueueState:
        """Where the queue stands now."""
        with self._changed:
            return self._state

    def subscribe(self, listener: Listener) -> Callable[[], None]:
        """Calls a listener whenever the state changes; returns what ends that."""
        with self._changed:
            self._listeners.add(listener)
        return lambda: self._listeners.discard(listener)

    def wait_until_idle(self, seconds: float = 60) -> bool:
        """Waits until nothing is left that can be graded; false where that takes too long."""
        with self._changed:
            return self._changed.wait_for(
                lambda: self._state.waiting <= self._state.blocked and not self._wanted, seconds
            )

    # driving

    def start(self) -> None:
        """Begins to grade in the background; what an earlier server left comes first."""
        with self._desk.records.session() as session:
            add_forgotten(session)
        self._thread = threading.Thread(target=self._run, name="grading", daemon=True)
        self._thread.start()
        self.wake()

    def wake(self) -> None:
        """Tells that something waits, or may be graded again."""
        self._count()
        with self._changed:
            self._wanted = True
            self._changed.notify_all()

    def pause(self) -> None:
        """Stops after the batch in hand."""
        self._tell(paused=True)

    def resume(self) -> None:
        """Goes on."""
        self._tell(paused=False)
        self.wake()

    def close(self) -> None:
        """Ends the work after the batch in hand; what waits, waits in the records."""
        with self._changed:
            self._closing = True
            self._changed.notify_all()
        if self._thread is not None:
            self._thread.join()

    def drain(self, progress: Callable[[int, int], None] = lambda done, total: None) -> int:
        """Grades everything that waits, in the caller's thread; returns how much that was."""
        with self._desk.records.session() as session:
            add_forgotten(session)
        self._count()
        done = 0
        while batch := self._next_batch():
            done += batch
            progress(done, done + self.state.waiting - self.state.blocked)
        return done

    def _run(self) -> None:
        while True:
            with self._changed:
                self._changed.wait_for(
                    lambda: self._closing or (self._wanted and not self._state.paused)
                )
                if self._closing:
                    return
            if not self._next_batch():
                with self._changed:
                    self._wanted = False
                self._count()
                with self._changed:
                    if self._state.waiting > self._state.blocked:
                        self._wanted = True  # something came in between
                    self._changed.notify_all()

    def _next_batch(self) -> int:
        """Grades one batch; returns how many submissions that were, 0 where nothing waits."""
        with self._desk.records.session() as session:
            batch = next_batch(session, BATCH)
            if batch is None:
                return 0
            exercise = session.get_one(Exercise, batch.exercise_id)
        self._tell(exercise=exercise.title)
        ids = list(batch.texts)
        try:
            grader = self._desk.grader(exercise)
            outcomes = dict(grader.grade_many(list(batch.texts.values())))
        except Exception as problem:  # noqa: BLE001
            # Whatever goes wrong with one exercise, the others go on.
            if not isinstance(problem, JentrowError):
                _LOG.exception("grading the answers to %s", exercise.slug)
            with self._desk.records.session() as session:
                block_tasks(session, exercise.id, str(problem) or type(problem).__name__)
            self._count()
            return len(ids)
        self._keep(exercise, ids, outcomes)
        return len(ids)

    def _keep(self, exercise: Exercise, ids: list[int], outcomes: dict[int, Outcome]) -> None:
        version = f"{exercise.engine} {self._desk.engine(exercise.engine).version}"
        with self._desk.records.session() as session:
            alive = set(session.scalars(select(Submission.id).where(Submission.id.in_(ids))))
            keep_gradings(
                session,
                [_values(id, outcomes[at], version) for at, id in enumerate(ids) if id in alive],
            )
            drop_tasks(session, ids)
        with self._changed:
            self._state = replace(self._state, graded=self._state.graded + len(ids))
        self._count()

    # telling

    def _count(self) -> None:
        with self._desk.records.session() as session:
            waiting, blocked = count_tasks(session)
        with self._told():
            before = self._state
            ready = waiting - blocked
            if ready == 0:
                total = done = 0
            else:
                total = max(before.total, before.done + ready)
                done = total - ready
            self._state = replace(before, waiting=waiting, blocked=blocked, done=done, total=total)

    def _tell(self, *, paused: bool | None = None, exercise: str | None = None) -> None:
        with self._told():
            before = self._state
            self._state = replace(
                before,
                paused=before.paused if paused is None else paused,
                exercise=before.exercise if exercise is None else exercise,
            )

    @contextmanager
    def _told(self) -> Iterator[None]:
        with self._changed:
            yield
            self._changed.notify_all()
            listeners = list(self._listeners)
        for listener in listeners:
            listener()


def _values(submission_id: int, outcome: Outcome, engine: str) -> dict[str, Any]:
    """What is kept of an outcome."""
    return {
        "submission_id": submission_id,
        "verdict": outcome.verdict,
        "mark": outcome.mark,
        "answer": outcome.answer,
        "findings": [finding.to_json() for finding in outcome.findings],
        "ledger": [line.to_json() for line in outcome.ledger],
        "engine": engine,
        "graded_at": datetime.now(UTC),
    }
