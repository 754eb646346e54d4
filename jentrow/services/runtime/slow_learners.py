"""Whose queries took long of late: theirs wait among those that take long at once.

A short try that is in vain costs whoever waits beside it.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from typing import Final

from cachetools import TTLCache

REMEMBERED: Final = 100_000

ANSWER_SECONDS: Final = 300.0
"""How long an answer that took long is remembered."""

RUN_SECONDS: Final = 60.0
"""The same of Runs. People try things with them: one tells of the next answer, two of the next Run."""

TELLING_RUNS: Final = 2


class SlowLearners:
    """The learners whose last queries took long. Safe to share between threads."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        """``clock`` gives seconds."""
        self._answers: TTLCache[int, bool] = TTLCache(REMEMBERED, ANSWER_SECONDS, clock)
        self._runs: TTLCache[int, int] = TTLCache(REMEMBERED, RUN_SECONDS, clock)
        self._lock = threading.Lock()

    def note_answer(self, learner_id: int) -> None:
        """An answer of theirs took long."""
        with self._lock:
            self._answers[learner_id] = True

    def note_run(self, learner_id: int) -> None:
        """A Run of theirs took long."""
        with self._lock:
            self._runs[learner_id] = self._runs.get(learner_id, 0) + 1

    def are_runs_slow(self, learner_id: int) -> bool:
        """Whether their next Run had better begin where what takes long runs."""
        with self._lock:
            return self._runs.get(learner_id, 0) >= TELLING_RUNS

    def are_answers_slow(self, learner_id: int) -> bool:
        """The same of their next answer: most people hand in what they have just run."""
        with self._lock:
            return learner_id in self._answers or learner_id in self._runs
