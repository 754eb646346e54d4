"""Warm worker processes: started ahead, watched by the clock, killed and replaced when they hang."""

from __future__ import annotations

import marshal
import os
import select
import signal
import socket
import threading
import time
from collections import deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from multiprocessing.connection import Connection, wait
from typing import Any, Final

from jentrow.core.errors import EngineInterrupted
from jentrow.core.processes.nursery import NURSERY

WALL_FACTOR: Final = 20
"""How many times its seconds a process may take by the clock on the wall."""

SHORTEST_WAIT: Final = 0.05

AHEAD_BYTES: Final = 32_768
"""How large a request may be that is sent to a worker still at work: its socket holds more."""


class WorkerLost(Exception):
    """Raised when a worker process died or had to be killed before it answered.

    ``overran`` tells a process that was killed for overrunning from one that died by itself.
    """

    def __init__(self, *, overran: bool) -> None:
        super().__init__("the worker process overran" if overran else "the worker process died")
        self.overran = overran


class PoolClosed(EngineInterrupted):
    """Raised to whoever asks, or waits, when the workers are closed."""

    def __init__(self) -> None:
        super().__init__("the engine has been closed: nothing more is run.")


def _processor_clock(pid: int) -> int:
    """The number of the clock that counts a process's time on processors, all its threads together.

    As clock_getcpuclockid(3) makes it on Linux, which Python has for threads only.
    """
    return ~pid << 3 | 2


class Worker:
    """One process and the socket to it."""

    def __init__(self, module: str, niceness: int = 0) -> None:
        ours, theirs = socket.socketpair()
        self.pid = NURSERY.fork(module, theirs)
        theirs.close()
        # A handle that names this process for as long as it is held, whatever its number is used for.
        self._handle: int | None = None
        with suppress(ProcessLookupError):
            self._handle = os.pidfd_open(self.pid)
            if niceness:
                os.setpriority(os.PRIO_PROCESS, self.pid, niceness)
        self._clock = _processor_clock(self.pid)
        self.pipe = Connection(ours.detach())
        self._used_before = 0.0
        self._since = time.monotonic()

    def send(self, *frame: Any) -> None:
        """Sends one request. Raises :class:`WorkerLost`."""
        self.send_bytes(marshal.dumps(frame))

    def send_bytes(self, request: bytes, *, ahead: bool = False) -> None:
        """Sends one request that is marshalled already. Raises :class:`WorkerLost`.

        ``ahead``: the process is still at work on another, and its clock runs on.
        """
        if not ahead:
            self._start_clock()
        try:
            self.pipe.send_bytes(request)
        except OSError as problem:
            self.kill()
            raise WorkerLost(overran=False) from problem

    def receive(self, seconds: float) -> list[Any]:
        """The next list of answers. Raises :class:`WorkerLost`, also where ``seconds`` are spent.

        Seconds are the process's own time on a processor: a busy machine spends none of them.
        """
        try:
            while not self.pipe.poll(max(SHORTEST_WAIT, self.seconds_left(seconds))):
                if self.seconds_left(seconds) <= 0:
                    self.kill()
                    raise WorkerLost(overran=True)
            answers: list[Any] = marshal.loads(self.pipe.recv_bytes())
        except (EOFError, OSError, ValueError, TypeError) as problem:
            self.kill()
            raise WorkerLost(overran=False) from problem
        self._start_clock()
        return answers

    def seconds_left(self, seconds: float) -> float:
        """How much of its time on a processor the process has left for what it is at.

        0 too where the clock on the wall says that it sleeps: ``WALL_FACTOR`` times as long.
        """
        waited = time.monotonic() - self._since
        if waited > WALL_FACTOR * seconds:
            return 0.0
        return max(0.0, seconds - (self._used() - self._used_before))

    def _start_clock(self) -> None:
        self._since, self._used_before = time.monotonic(), self._used()

    def _used(self) -> float:
        """Seconds of processor time that the process has used so far."""
        try:
            return time.clock_gettime(self._clock)
        except OSError:  # it has ended: reading from its pipe will tell
            return 0.0

    @property
    def lives(self) -> bool:
        """Whether the process is there."""
        return self._handle is not None and not self._has_ended(0)

    def _has_ended(self, milliseconds: int | None) -> bool:
        """Whether the process ends within this time; None waits for as long as that takes."""
        if self._handle is None:
            return True
        ending = select.poll()
        ending.register(self._handle, select.POLLIN)
        return bool(ending.poll(milliseconds))

    def end(self) -> None:
        """Ends the process from another thread: whoever waits for its answer gets none."""
        handle = self._handle
        if handle is not None:
            with suppress(OSError):
                signal.pidfd_send_signal(handle, signal.SIGKILL)

    def kill(self) -> None:
        """Ends the process at once."""
        self.end()
        self._has_ended(None)
        handle, self._handle = self._handle, None
        if handle is not None:
            os.close(handle)
        self.pipe.close()


@dataclass(slots=True)
class _Batch:
    """Queries that go to a worker together, and which of them are answered.

    ``tried`` says that a worker has died under this batch before.
    """

    indexes: list[int]
    answered: int = 0
    tried: bool = False

    @property
    def open(self) -> list[int]:
        return self.indexes[self.answered :]


@dataclass(slots=True)
class _Post:
    """A worker with the batches that it was sent, the one it is at first."""

    worker: Worker
    batches: deque[_Batch]


class _Crew:
    """The workers that share the queries of one call.

    One thread drives them all: threads of the same process would mostly wait for each other.
    """

    def __init__(
        self,
        pool: WorkerPool,
        waiting: deque[_Batch],
        frame: Callable[[list[int]], tuple[Any, ...]],
        seconds: float,
    ) -> None:
        self._pool = pool
        self._waiting = waiting
        self._frame = frame
        self._seconds = seconds
        self._posts: list[_Post] = []

    def answers(self) -> list[tuple[int, Any]]:
        """The next answers, as (index, answer); waits until there are some."""
        self._hire()
        # Everybody gets one batch before anybody gets a second one ahead.
        for ahead in (0, 1):
            for post in list(self._posts):
                if self._waiting and len(post.batches) == ahead and (lost := self._supply(post)):
                    return lost
        for post in [post for post in self._posts if not post.batches]:
            self._posts.remove(post)
            self._pool.give_back(post.worker)
        if not self._posts:  # all were lost while they were sent their work
            return []
        left = {id(post): post.worker.seconds_left(self._seconds) for post in self._posts}
        pipes = {post.worker.pipe: post for post in self._posts}
        timeout = max(SHORTEST_WAIT, min(left.values()))
        ready = [pipes[pipe] for pipe in wait(list(pipes), timeout)]  # type: ignore[index]
        ready += [post for post in self._posts if not left[id(post)] and post not in ready]
        return [answer for post in ready for answer in self._receive(post)]

    def _hire(self) -> None:
        """At least one worker, and as many more as are free and of use."""
        while len(self._posts) < len(self._waiting) or not self._posts:
            worker = self._pool.take(wait=not self._posts)
            if worker is None:
                return
            self._posts.append(_Post(worker, deque()))
            if len(self._posts) == self._pool.size:
                return

    def _supply(self, post: _Post) -> list[tuple[int, Any]]:
        """Sends a worker its next batch; what is lost where that fails."""
        request = marshal.dumps(self._frame(self._waiting[0].open))
        # A worker that is at work does not read: only what its socket holds can be sent ahead.
        if post.batches and len(request) > AHEAD_BYTES:
            return []
        ahead = bool(post.batches)
        post.batches.append(self._waiting.popleft())
        try:
            post.worker.send_bytes(request, ahead=ahead)
        except WorkerLost as lost:
            return self._lose(post, lost)
        return []

    def _receive(self, post: _Post) -> list[tuple[int, Any]]:
        try:
            answers = post.worker.receive(self._seconds)
        except WorkerLost as lost:
            return self._lose(post, lost)
        batch = post.batches[0]
        found = list(zip(batch.open, answers, strict=False))
        batch.answered += len(answers)
        if not batch.open:
            post.batches.popleft()
        return found

    def _lose(self, post: _Post, lost: WorkerLost) -> list[tuple[int, Any]]:
        """Puts back what a lost worker had not answered; the batch it was at, query by query."""
        self._posts.remove(post)
        self._pool.give_back(post.worker, lost=True)
        at, *ahead = post.batches
        self._waiting.extendleft(reversed(ahead))
        if len(at.open) == 1 and (lost.overran or at.tried):
            return [(at.open[0], lost)]
        # Nobody pays for another's query, nor for a process that had died before it was asked.
        alone = len(at.open) == 1
        self._waiting.extendleft(_Batch([index], tried=alone) for index in reversed(at.open))
        return []

    def dismiss(self) -> None:
        """Gives the workers back; one that still owes answers is ended."""
        for post in self._posts:
            if post.batches:
                post.worker.kill()
                self._pool.give_back(post.worker, lost=True)
            else:
                self._pool.give_back(post.worker)
        self._posts.clear()


class WorkerPool:
    """A fixed number of workers, handed out one at a time; safe to use from several threads."""

    def __init__(self, module: str, size: int, niceness: int = 0) -> None:
        self._module = module
        self._niceness = niceness
        self.size = size
        self._started = 0
        self._idle: deque[Worker] = deque()
        self._busy: set[Worker] = set()
        self._free = threading.Condition()
        self._closed = False

    def warm(self) -> None:
        """Starts all processes now, so that the first queries need not wait for them."""
        with self._free:
            while self._started < self.size:
                self._idle.append(self._start())
                self._free.notify()

    @contextmanager
    def worker(self) -> Iterator[Worker]:
        """A worker for one's own use; a lost one is replaced."""
        worker = self.take()
        assert worker is not None
        try:
            yield worker
        except BaseException:
            worker.kill()
            self.give_back(worker, lost=True)
            raise
        self.give_back(worker)

    def ask(self, seconds: float, *frame: Any) -> Any:
        """Sends one request that has one answer. Raises :class:`WorkerLost`.

        Where the process dies it is sent once more: it may have died before it was asked.
        """
        try:
            return self.ask_once(seconds, *frame)
        except WorkerLost as lost:
            if lost.overran:
                raise
            return self.ask_once(seconds, *frame)

    def ask_once(self, seconds: float, *frame: Any) -> Any:
        """The same for what must not be done twice."""
        with self.worker() as worker:
            worker.send(*frame)
            (answer,) = worker.receive(seconds)
            return answer

    def ask_many(
        self,
        count: int,
        frame: Callable[[list[int]], tuple[Any, ...]],
        seconds: float,
        batch_size: int,
    ) -> Iterator[tuple[int, Any]]:
        """Sends requests for ``count`` queries in batches over all workers that are free.

        ``frame`` makes the request for the queries with these indexes. Yields (index, answer), the
        answer being :class:`WorkerLost` where that query cost the worker its life. Whatever else
        was in the same batch is asked again, alone, so that nobody pays for another's query.
        """
        batches = [
            _Batch(list(range(start, min(start + batch_size, count))))
            for start in range(0, count, batch_size)
        ]
        crew = _Crew(self, deque(batches), frame, seconds)
        left = count
        try:
            while left:
                ready = crew.answers()
                left -= len(ready)
                yield from ready
        finally:
            crew.dismiss()

    def take(self, *, wait: bool = True) -> Worker | None:
        """A worker for one's own use; None where all are busy and one does not wait."""
        with self._free:
            while not self._idle:
                if self._closed:
                    raise PoolClosed
                if self._started < self.size:
                    return self._hired(self._start())
                if not wait:
                    return None
                self._free.wait()
            worker = self._idle.pop()
            if not worker.lives:  # ended from outside since its last answer
                worker.kill()
                self._started -= 1
                worker = self._start()
            return self._hired(worker)

    def _hired(self, worker: Worker) -> Worker:
        self._busy.add(worker)
        return worker

    def _start(self) -> Worker:
        worker = Worker(self._module, self._niceness)
        self._started += 1
        return worker

    def give_back(self, worker: Worker, *, lost: bool = False) -> None:
        """Returns a worker; ``lost`` where its process was ended."""
        with self._free:
            self._busy.discard(worker)
            if lost:
                self._started -= 1
            elif self._closed:
                worker.kill()
            else:
                self._idle.append(worker)
            self._free.notify()

    def close(self) -> None:
        """Ends all processes; whoever waits for an answer gets :class:`PoolClosed`."""
        with self._free:
            self._closed = True
            while self._idle:
                self._idle.pop().kill()
            for worker in self._busy:
                worker.end()
            self._free.notify_all()
