"""The grading queue: what waits in the records is graded, and kept, whatever happens in between."""

from __future__ import annotations

import logging
import os
import secrets
import socket
import threading
import time
from collections import Counter
from collections.abc import Callable
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field, replace
from functools import partial
from typing import TYPE_CHECKING, Final

from jentrow.core.engines.protocol import Judging
from jentrow.core.errors import EngineUnavailable, JentrowError
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.grading.outcomes import Outcome
from jentrow.core.processes.workers import PoolClosed
from jentrow.records.claims import (
    Batch,
    begin,
    claim_batch,
    drop_tasks,
    is_any_waiting,
    note_lost,
    release,
    release_all_of,
    release_stale,
)
from jentrow.records.database import Records
from jentrow.records.errors import RecordsUnavailable
from jentrow.records.exercises import last_version
from jentrow.records.models import Course, Exercise
from jentrow.records.submissions import learners_of
from jentrow.records.tasks import (
    HANDED_IN,
    SLOW,
    TAKEN_IN,
    WAITS_FOR_ENGINE,
    Waiting,
    add_forgotten,
    block_tasks,
    count_tasks,
    exercises_waiting_for_engines,
    paused_courses,
    put_back,
    unblock_tasks,
    waiting_of,
)
from jentrow.services.runtime.engines import Engines
from jentrow.services.runtime.graders import Graders, MadeWith
from jentrow.services.runtime.keeping_meanwhile import KeepingMeanwhile
from jentrow.services.runtime.kept_outcomes import keep_outcomes
from jentrow.services.runtime.late_readings import LateReadings
from jentrow.services.runtime.queue_lanes import ALL, RUNNING, STEADY, QueueLane
from jentrow.services.runtime.queue_state import QueueState
from jentrow.services.runtime.slow_learners import SlowLearners

if TYPE_CHECKING:
    from collections.abc import Iterator


_LOG: Final = logging.getLogger(__name__)

KEPT_TOGETHER: Final = 2_000
"""So many are kept while the rest is judged, sooner than that: judging leaves the server idle."""

HURRY: Final = Judging(seconds=0.15, judging_seconds=0.15)
"""How long an answer that was handed in may take before it waits among those that take long."""

LOOK_SECONDS: Final = 10.0
"""After how long what waits is looked at unasked: grading may have been let go on beside the server."""

COUNT_SECONDS: Final = 0.25
"""How often what waits is counted while a batch is graded: that takes longer the more waits."""

AGAIN_SECONDS: Final = 2.0
"""After how long what could not be kept is tried again."""


@dataclass(slots=True)
class _Judged:
    """What was judged of a batch and is not kept yet, by submission."""

    outcomes: dict[int, Outcome] = field(default_factory=dict)
    slow: list[int] = field(default_factory=list)
    lost: list[int] = field(default_factory=list)

    def __len__(self) -> int:
        return len(self.outcomes) + len(self.slow) + len(self.lost)


Listener = Callable[[], None]

Progress = Callable[[int, int], None]
"""Told how many submissions are graded, and of how many."""


class GradingQueue:
    """Grades what waits, one batch after the other. Safe to share between threads."""

    def __init__(
        self, records: Records, graders: Graders, engines: Engines, slow: SlowLearners
    ) -> None:
        self._records = records
        self._graders = graders
        self._engines = engines
        self._readings = LateReadings(records, graders, self.tell_course)
        self._claimer = f"{socket.gethostname()} {os.getpid()} {secrets.token_hex(4)}"
        self._changed = threading.Condition()
        self._states: dict[int, QueueState] = {}
        self._all_paused = False
        self._sizes = {one.name: one.size() for one in (*RUNNING, ALL)}
        self._wanted: set[str] = set()
        self._at_work: set[str] = set()
        self._graded_of: Counter[int] = Counter()
        self._slow = slow
        self._counted = 0.0
        self._is_counted = True
        self._closing = False
        self._threads: list[threading.Thread] = []
        self._listeners: set[Listener] = set()

    # looking

    def state_of(self, course_id: int) -> QueueState:
        """Where the grading of a course stands now."""
        with self._changed:
            return self._states.get(course_id, QueueState(stopped=self._all_paused))

    @property
    def ready(self) -> int:
        """How many submissions wait, of all courses, and can be graded now."""
        with self._changed:
            return self._ready()

    def _ready(self) -> int:
        if self._all_paused:
            return 0
        return sum(state.ready for state in self._states.values() if not state.paused)

    def subscribe(self, listener: Listener) -> Callable[[], None]:
        """Calls a listener whenever the state changes; returns what ends that."""
        with self._changed:
            self._listeners.add(listener)
        return lambda: self._listeners.discard(listener)

    def tell(self) -> None:
        """Has every listener look again: something that concerns them has changed elsewhere."""
        with self._told():
            pass

    def tell_course(self, course_id: int, *, learners: bool = False) -> None:
        """Has the pages of a course look again: marks were decided, published, asked about.

        Only what ``learners`` can see is news to them.
        """
        with self._told():
            state = self._states.get(course_id, QueueState(stopped=self._all_paused))
            self._states[course_id] = replace(
                state, news=state.news + 1, news_of_learners=state.news_of_learners + learners
            )

    def graded_of(self, learner_id: int) -> int:
        """How many of a learner's submissions were graded since the server started."""
        return self._graded_of.get(learner_id, 0)

    def priority_of(self, learner_id: int) -> int:
        """Where an answer that this learner hands in waits: the quick are not behind the slow."""
        return SLOW if self._slow.are_answers_slow(learner_id) else HANDED_IN

    def wait_until_idle(self, seconds: float = 60) -> bool:
        """Waits until nothing is left that can be graded; false where that takes too long."""
        with self._changed:
            return self._changed.wait_for(
                lambda: not (self._ready() or self._wanted or self._at_work), seconds
            )

    # driving

    def start(self) -> None:
        """Begins to grade in the background; what an earlier server left comes first."""
        self._take_over()
        self._threads = [
            threading.Thread(
                target=self._run, args=(lane,), name=f"grading, {lane.name}", daemon=True
            )
            for lane in RUNNING
        ]
        for thread in self._threads:
            thread.start()
        self.wake()

    def _take_over(self) -> None:
        with self._records.writing(on_disk=False) as session:
            release_stale(session, self._claimer)
            add_forgotten(session)

    def wake(self) -> None:
        """Tells that something waits, or may be graded again."""
        self._count()
        with self._changed:
            self._wanted |= {lane.name for lane in RUNNING}
            self._changed.notify_all()

    def pause(self, course_id: int) -> None:
        """Stops the grading of a course after the answer in hand, until it is resumed."""
        self._set_paused(course_id, paused=True)

    def resume(self, course_id: int) -> None:
        """Goes on."""
        self._set_paused(course_id, paused=False)

    def _is_paused(self, course_id: int) -> bool:
        state = self._states.get(course_id)
        return self._all_paused or (state is not None and state.paused)

    def _set_paused(self, course_id: int, *, paused: bool) -> None:
        with self._records.writing() as session:
            session.get_one(Course, course_id).grading_paused = paused
        self.wake()

    def closing(self) -> None:
        """Begins nothing more."""
        with self._changed:
            self._closing = True
            self._changed.notify_all()

    def close(self) -> None:
        """Ends the work; what is in hand waits in the records, as all that waits does."""
        self.closing()
        for thread in self._threads:
            thread.join()
        with suppress(RecordsUnavailable), self._records.writing(on_disk=False) as session:
            release_all_of(session, self._claimer)

    def drain(self, progress: Progress = lambda done, total: None) -> int:
        """Grades everything that waits, in the caller's thread; returns how much that was."""
        self._take_over()
        self._count()
        done = 0
        while batch := self._next_batch(ALL):
            done += batch
            progress(done, done + self.ready)
        self._readings.read_all(lambda: False)
        return done

    def _run(self, lane: QueueLane) -> None:
        while True:
            with self._changed:
                woken = self._changed.wait_for(
                    lambda: self._closing or lane.name in self._wanted, LOOK_SECONDS
                )
                if self._closing:
                    return
            if lane is STEADY:
                with suppress(RecordsUnavailable):
                    self.look_for_engines()
            with self._changed:
                if not woken and not self._all_paused and not self._ready():
                    continue
                # What comes from here on wakes the lane again.
                self._wanted.discard(lane.name)
                self._at_work.add(lane.name)
            again = False
            try:
                while not self._closing and self._next_batch(lane):
                    pass
                self._count()
                if lane is STEADY:
                    self._readings.read_all(self._has_better_to_do)
            except RecordsUnavailable:
                # The records were busy, or the disk is full for now: nothing is wrong with the
                # answers, and nothing is lost.
                _LOG.exception("gradings could not be kept, and are tried again")
                again = True
                with self._changed:
                    self._changed.wait_for(lambda: self._closing, AGAIN_SECONDS)
            with self._changed:
                self._at_work.discard(lane.name)
                if again:
                    self._wanted.add(lane.name)
                self._changed.notify_all()

    def _has_better_to_do(self) -> bool:
        return self._closing or STEADY.name in self._wanted

    def look_for_engines(self) -> None:
        """Lets answers be graded again whose engine did not answer, and does now."""
        with self._records.session() as session:
            waiting = exercises_waiting_for_engines(session)
        back = [id for id, engine in waiting.items() if self._engines.state(engine).answers]
        if back:
            with self._records.writing(on_disk=False) as session:
                unblock_tasks(session, back)
            self.wake()

    def _next_batch(self, lane: QueueLane) -> int:
        """Grades one batch; returns how many submissions that were, 0 where nothing waits."""
        # A lane that finds nothing holds up no other: only one at a time writes.
        with self._records.session() as session:
            if not is_any_waiting(session, lane.priorities):
                return 0
        with self._records.writing(on_disk=False) as session:
            batch = claim_batch(
                session, self._claimer, self._sizes[lane.name].answers, lane.priorities
            )
            if batch is None:
                return 0
            exercise = session.get_one(Exercise, batch.exercise_id)
            version = last_version(session, exercise.id)
        self._tell(exercise)
        try:
            self._grade(lane, exercise, version, batch)
        except (RecordsUnavailable, PoolClosed):
            self._release(batch)
            if not self._closing:
                raise
        except EngineUnavailable as problem:
            # No verdict comes of it: the answers wait until the engine answers again.
            with self._records.writing(on_disk=False) as session:
                release(session, batch.generations)
                block_tasks(session, exercise.id, f"{WAITS_FOR_ENGINE}{problem}")
            self._count()
        except Exception as problem:  # noqa: BLE001
            # Whatever goes wrong with one exercise, the others go on.
            if not isinstance(problem, JentrowError):
                _LOG.exception("grading the answers to %s", exercise.slug)
            with self._records.writing(on_disk=False) as session:
                release(session, batch.generations)
                block_tasks(session, exercise.id, str(problem) or type(problem).__name__)
            self._count()
        return len(batch.claimed)

    def _release(self, batch: Batch) -> None:
        with suppress(RecordsUnavailable), self._records.writing(on_disk=False) as session:
            release(session, batch.generations)

    def _grade(self, lane: QueueLane, exercise: Exercise, version: int, batch: Batch) -> None:
        grader, made_with = self._graders.with_measure(exercise)
        if lane.hurried:
            grader = grader.elsewhere(self._engines.get(exercise.engine, use="hurried"), HURRY)
        elif batch.priority == TAKEN_IN:
            # So many come at once that how they stand is wanted first, and why a little later.
            grader = grader.unexplained()
        with self._records.writing(on_disk=False) as session:
            begin(session, batch.generations)
        began = time.monotonic()
        size, of = self._sizes[lane.name], len(batch.claimed)
        with KeepingMeanwhile(
            partial(self._settle, exercise, version, made_with, batch)
        ) as keeping:
            done = self._judge(lane, exercise, grader, batch, keeping)
        if not self._is_counted:
            self._count()
        if done < of:
            self._release(batch)
        size.note(done, time.monotonic() - began)

    def _judge(
        self,
        lane: QueueLane,
        exercise: Exercise,
        grader: Grader,
        batch: Batch,
        keeping: KeepingMeanwhile[_Judged],
    ) -> int:
        """Judges a batch, or what there is time for; returns how many that were, all kept."""
        found, done = _Judged(), 0
        began = kept = time.monotonic()
        size, of = self._sizes[lane.name], len(batch.claimed)
        for places, outcome in grader.judged([one.sql for one in batch.claimed]):
            if self._closing:
                raise PoolClosed
            ids = [batch.claimed[at].submission_id for at in places]
            if outcome is None:
                found.lost += ids
            elif not grader.is_settled(outcome):
                found.slow += ids
            else:
                found.outcomes.update(dict.fromkeys(ids, outcome))
            done += len(ids)
            now = time.monotonic()
            if now - kept > lane.keeping_seconds or (
                len(found) >= KEPT_TOGETHER and keeping.is_free
            ):
                keeping.begin(found)
                found, kept = _Judged(), now
            is_enough = size.is_too_long(of, now - began) or self._is_paused(exercise.course_id)
            if is_enough and done < of:
                break
        keeping.finish(found)
        return done

    def _settle(
        self,
        exercise: Exercise,
        version: int,
        made_with: MadeWith,
        batch: Batch,
        found: _Judged,
    ) -> None:
        """Keeps what was judged of a batch, and tells whoever waits for it."""
        outcomes, slow, lost = found.outcomes, found.slow, found.lost
        with self._records.writing(on_disk=False) as session:
            learners = keep_outcomes(session, exercise.id, version, made_with, outcomes)
            generations = batch.generations
            if self._graders.made_with(exercise) == made_with:
                drop_tasks(session, {id: generations[id] for id in outcomes})
            else:  # rows were edited meanwhile
                release(session, outcomes)
            slow_learners = learners_of(session, slow) if slow else []
            if slow:
                # What else they handed in meanwhile: a short try of each would hold up the others.
                more = waiting_of(session, slow_learners, HANDED_IN)
                put_back(session, [*slow, *more], SLOW)
            note_lost(session, lost)
        for learner in slow_learners:
            self._slow.note_answer(learner)
        with self._changed:
            self._graded_of.update(learners)
            state = self._states.get(exercise.course_id, QueueState())
            self._states[exercise.course_id] = replace(state, graded=state.graded + len(outcomes))
            if slow or lost or outcomes:  # whose texts are still to be read
                self._wanted.add(STEADY.name)
        self._is_counted = False
        if time.monotonic() > self._counted + COUNT_SECONDS:
            self._count()

    # telling

    def _count(self) -> None:
        # Said first: what others keep from here on is counted again.
        self._counted, self._is_counted = time.monotonic(), True
        with self._records.session() as session:
            counts = count_tasks(session)
            stopped, paused = paused_courses(session)
        with self._told():
            self._all_paused = stopped
            for course_id in {*counts, *self._states, *paused}:
                before = self._states.get(course_id, QueueState())
                found = counts.get(course_id, Waiting())
                ready = found.all - found.blocked
                total = max(before.total, before.done + ready) if ready else 0
                self._states[course_id] = replace(
                    before,
                    waiting=found.all,
                    blocked=found.blocked,
                    done=total - ready,
                    total=total,
                    paused=course_id in paused,
                    stopped=stopped,
                )

    def _tell(self, exercise: Exercise) -> None:
        with self._told():
            before = self._states.get(exercise.course_id, QueueState())
            self._states[exercise.course_id] = replace(before, exercise=exercise.title)

    @contextmanager
    def _told(self) -> Iterator[None]:
        with self._changed:
            yield
            self._changed.notify_all()
            listeners = list(self._listeners)
        for listener in listeners:
            listener()
