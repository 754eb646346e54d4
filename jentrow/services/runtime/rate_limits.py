"""How often one learner may ask for something that costs the server's time."""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Final

from cachetools import LRUCache

from jentrow.services.errors import TooOften

MINUTE: Final = 60.0
REMEMBERED: Final = 10_000


@dataclass
class _Lane:
    at_work: threading.Semaphore
    times: deque[float] = field(default_factory=deque)


class Pace:
    """So many at once for each learner, and at most ``most`` in a minute. Safe between threads."""

    def __init__(
        self,
        what: str,
        most: int,
        clock: Callable[[], float] = time.monotonic,
        *,
        at_once: int = 1,
    ) -> None:
        """``what`` is called so in words, such as "query"; ``clock`` gives seconds."""
        self._at_once = at_once
        self._what = what
        self._most = most
        self._clock = clock
        self._lanes: LRUCache[int, _Lane] = LRUCache(REMEMBERED)
        self._lock = threading.Lock()

    @contextmanager
    def turn(self, learner_id: int) -> Iterator[None]:
        """The learner's turn for the time of the context. Raises :class:`TooOften`."""
        with self._lock:
            lane = self._lanes.setdefault(learner_id, _Lane(threading.Semaphore(self._at_once)))
        if not lane.at_work.acquire(blocking=False):
            raise TooOften(f"Your last {self._what} is still at work: wait until it is done.")
        try:
            now = self._clock()
            while lane.times and now - lane.times[0] >= MINUTE:
                lane.times.popleft()
            if len(lane.times) >= self._most:
                wait = MINUTE - (now - lane.times[0])
                raise TooOften(
                    f"That was {self._most} times within a minute: "
                    f"wait {round(wait) or 1} seconds.",
                    wait,
                )
            lane.times.append(now)
            yield
        finally:
            lane.at_work.release()


RUNS_A_MINUTE: Final = 40
HAND_INS_A_MINUTE: Final = 20
LOOKS_A_MINUTE: Final = 240
LOOKS_AT_ONCE: Final = 4
"""A page asks for several things of a private copy at once, and there are several pages."""


class Rates:
    """How often a learner may ask for each thing."""

    def __init__(self) -> None:
        self.runs = Pace("query", RUNS_A_MINUTE)
        self.hand_ins = Pace("answer", HAND_INS_A_MINUTE)
        self.looks = Pace("look at your copy", LOOKS_A_MINUTE, at_once=LOOKS_AT_ONCE)
        self.feedback = Pace("look at an answer", LOOKS_A_MINUTE, at_once=LOOKS_AT_ONCE)
