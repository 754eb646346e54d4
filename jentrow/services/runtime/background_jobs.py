"""Long work that nobody waits for: one job a course, with its progress, stopped when asked to."""

from __future__ import annotations

import threading
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, replace
from typing import TypeAlias

from jentrow.core.errors import JentrowError

Job: TypeAlias = Callable[["Progress"], None]


@dataclass(frozen=True)
class JobState:
    """How far a job is; ``running`` is false before it begins and after its end."""

    done: int = 0
    total: int = 0
    running: bool = False
    problem: str = ""


class Progress:
    """What a job tells of itself, and asks."""

    def __init__(self, tell: Callable[[int, int], None], stopping: threading.Event) -> None:
        self.tell = tell
        self._stopping = stopping

    @property
    def is_stopped(self) -> bool:
        """Whether somebody wants it to end."""
        return self._stopping.is_set()

    def wait(self, seconds: float) -> None:
        """Waits, but not longer than until it is to end."""
        self._stopping.wait(seconds)


class BackgroundJobs:
    """The jobs of all courses. Safe to share between threads."""

    def __init__(self) -> None:
        self._states: dict[int, JobState] = {}
        self._threads: dict[int, tuple[threading.Thread, threading.Event]] = {}
        self._lock = threading.Lock()

    def state_of(self, course_id: int) -> JobState:
        """How far a course's job is."""
        with self._lock:
            return self._states.get(course_id, JobState())

    def start(self, course_id: int, job: Job) -> None:
        """Begins a job; one that runs goes on instead."""
        with self._lock:
            if self._states.get(course_id, JobState()).running:
                return
            self._states[course_id] = JobState(running=True)
            stopping = threading.Event()
            thread = threading.Thread(
                target=self._run, args=(course_id, job, stopping), name="analysis", daemon=True
            )
            self._threads[course_id] = thread, stopping
        thread.start()

    def stop(self, course_id: int) -> None:
        """Ends a job after what it is at."""
        with self._lock:
            found = self._threads.get(course_id)
        if found is not None:
            found[1].set()

    def wait(self, course_id: int) -> None:
        """Waits until a course's job has ended."""
        with self._lock:
            found = self._threads.get(course_id)
        if found is not None:
            found[0].join()

    def close(self) -> None:
        """Ends all of them."""
        with self._lock:
            running = list(self._threads.values())
        for _, stopping in running:
            stopping.set()
        for thread, _ in running:
            thread.join()

    def _run(self, course_id: int, job: Job, stopping: threading.Event) -> None:
        def tell(done: int, total: int) -> None:
            with self._lock:
                self._states[course_id] = replace(self._states[course_id], done=done, total=total)

        problem = ""
        try:
            job(Progress(tell, stopping))
        except JentrowError as found:
            problem = str(found)
        finally:
            with self._lock, suppress(KeyError):
                state = self._states[course_id]
                self._states[course_id] = replace(state, running=False, problem=problem)
