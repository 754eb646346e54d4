"""The grading queue: what waits in the records is graded, and kept, whatever happens in between."""

from __future__ import annotations

import logging
import threading
from collections import Counter
from collections.abc import Callable
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import TYPE_CHECKING, Any, Final

from sqlalchemy import select

from jentrow.core.batches import batched
from jentrow.core.engines.protocol import Judging
from jentrow.core.errors import JentrowError
from jentrow.core.exercises.outcomes import Outcome
from jentrow.records.errors import RecordsUnavailable
from jentrow.records.models import Exercise, Submission
from jentrow.records.submissions import keep_gradings
from jentrow.records.tasks import (
    ANEW,
    HANDED_IN,
    SLOW,
    TAKEN_IN,
    add_forgotten,
    block_tasks,
    count_tasks,
    drop_tasks,
    next_batch,
    put_back,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from jentrow.services.desk import Desk

_LOG: Final = logging.getLogger(__name__)

BATCH: Final = 200
"""Submissions that are graded together and kept in one transaction."""

HURRIED_BATCH: Final = 16
"""Of what was handed in, so many are kept together: whoever waits need not wait for more."""

HURRY: Final = Judging(seconds=0.25, judging_seconds=0.5)
"""How long an answer that was handed in may take before it waits among those that take long."""

AGAIN_SECONDS: Final = 2.0
"""After how long what could not be kept is tried again."""


@dataclass(frozen=True, slots=True)
class Lane:
    """What one thread of the queue takes: tasks of these priorities, in their order.

    The hurried lane has worker processes of its own, so that nothing holds up whoever waits.
    """

    name: str
    priorities: tuple[int, ...]
    hurried: bool


HURRIED: Final = Lane("hurried", (HANDED_IN,), hurried=True)
STEADY: Final = Lane("steady", (SLOW, TAKEN_IN, ANEW), hurried=False)
ALL: Final = Lane("all", (HANDED_IN, SLOW, TAKEN_IN, ANEW), hurried=False)


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
    course_id: int = 0


Listener = Callable[[], None]


class GradingQueue:
    """Grades what waits, one batch after the other. Safe to share between threads."""

    def __init__(self, desk: Desk) -> None:
        self._desk = desk
        self._changed = threading.Condition()
        self._state = QueueState()
        self._wanted: set[str] = set()
        self._at_work: set[str] = set()
        self._graded_of: Counter[int] = Counter()
        self._closing = False
        self._threads: list[threading.Thread] = []
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

    def graded_of(self, learner_id: int) -> int:
        """How many of a learner's submissions were graded since the server started."""
        return self._graded_of.get(learner_id, 0)

    def wait_until_idle(self, seconds: float = 60) -> bool:
        """Waits until nothing is left that can be graded; false where that takes too long."""
        with self._changed:
            return self._changed.wait_for(
                lambda: (
                    self._state.waiting <= self._state.blocked
                    and not self._wanted
                    and not self._at_work
                ),
                seconds,
            )

    # driving

    def start(self) -> None:
        """Begins to grade in the background; what an earlier server left comes first."""
        with self._desk.records.session() as session:
            add_forgotten(session)
        self._threads = [
            threading.Thread(
                target=self._run, args=(lane,), name=f"grading, {lane.name}", daemon=True
            )
            for lane in (HURRIED, STEADY)
        ]
        for thread in self._threads:
            thread.start()
        self.wake()

    def wake(self) -> None:
        """Tells that something waits, or may be graded again."""
        self._count()
        with self._changed:
            self._wanted |= {HURRIED.name, STEADY.name}
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
        for thread in self._threads:
            thread.join()

    def drain(self, progress: Callable[[int, int], None] = lambda done, total: None) -> int:
        """Grades everything that waits, in the caller's thread; returns how much that was."""
        with self._desk.records.session() as session:
            add_forgotten(session)
        self._count()
        done = 0
        while batch := self._next_batch(ALL):
            done += batch
            progress(done, done + self.state.waiting - self.state.blocked)
        return done

    def _run(self, lane: Lane) -> None:
        while True:
            with self._changed:
                self._changed.wait_for(
                    lambda: self._closing or (lane.name in self._wanted and not self._state.paused)
                )
                if self._closing:
                    return
                # What comes from here on wakes the lane again.
                self._wanted.discard(lane.name)
                self._at_work.add(lane.name)
            again = False
            try:
                while not self._closing and not self.state.paused and self._next_batch(lane):
                    pass
                self._count()
            except RecordsUnavailable:
                # The records were busy, or the disk is full for now: nothing is wrong with the
                # answers, and nothing is lost.
                _LOG.exception("gradings could not be kept, and are tried again")
                again = True
                with self._changed:
                    self._changed.wait_for(lambda: self._closing, AGAIN_SECONDS)
            with self._changed:
                self._at_work.discard(lane.name)
                if again or self._state.paused:
                    self._wanted.add(lane.name)
                self._changed.notify_all()

    def _next_batch(self, lane: Lane) -> int:
        """Grades one batch; returns how many submissions that were, 0 where nothing waits."""
        with self._desk.records.session() as session:
            batch = next_batch(session, BATCH, lane.priorities)
            if batch is None:
                return 0
            exercise = session.get_one(Exercise, batch.exercise_id)
        self._tell(exercise=exercise)
        ids = list(batch.texts)
        try:
            self._grade(lane, exercise, batch.texts)
        except RecordsUnavailable:
            raise
        except Exception as problem:  # noqa: BLE001
            # Whatever goes wrong with one exercise, the others go on.
            if not isinstance(problem, JentrowError):
                _LOG.exception("grading the answers to %s", exercise.slug)
            with self._desk.records.session() as session:
                block_tasks(session, exercise.id, str(problem) or type(problem).__name__)
            self._count()
        return len(ids)

    def _grade(self, lane: Lane, exercise: Exercise, texts: dict[int, str]) -> None:
        grader = self._desk.grader(exercise)
        ids = list(texts)
        if not lane.hurried:
            outcomes = dict(grader.grade_many(list(texts.values())))
            self._keep(exercise, {ids[at]: outcome for at, outcome in outcomes.items()})
            return
        hurried = grader.elsewhere(self._desk.engine(exercise.engine, use="hurried"), HURRY)
        for some in batched(ids, HURRIED_BATCH):
            outcomes = dict(hurried.grade_many([texts[id] for id in some]))
            found = {some[at]: outcome for at, outcome in outcomes.items()}
            slow = [id for id, one in found.items() if not hurried.is_settled(one)]
            if slow:
                with self._desk.records.session() as session:
                    put_back(session, slow, SLOW)
            self._keep(exercise, {id: one for id, one in found.items() if id not in slow})
            if slow:
                self.wake()

    def _keep(self, exercise: Exercise, outcomes: dict[int, Outcome]) -> None:
        version = f"{exercise.engine} {self._desk.engine(exercise.engine).version}"
        with self._desk.records.session() as session:
            rows = session.execute(
                select(Submission.id, Submission.learner_id).where(Submission.id.in_(outcomes))
            )
            alive = {id: learner_id for id, learner_id in rows}  # noqa: C416
            keep_gradings(
                session,
                [_values(id, one, version) for id, one in outcomes.items() if id in alive],
            )
            drop_tasks(session, list(outcomes))
        with self._changed:
            self._graded_of.update(alive.values())
            self._state = replace(self._state, graded=self._state.graded + len(outcomes))
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

    def _tell(self, *, paused: bool | None = None, exercise: Exercise | None = None) -> None:
        with self._told():
            before = self._state
            self._state = replace(
                before,
                paused=before.paused if paused is None else paused,
                exercise=before.exercise if exercise is None else exercise.title,
                course_id=before.course_id if exercise is None else exercise.course_id,
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
        "undecided": outcome.undecided,
        "graded_at": datetime.now(UTC),
    }
