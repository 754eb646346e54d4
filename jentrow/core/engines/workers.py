"""Warm worker processes: started ahead, watched by the clock, killed and replaced when they hang."""

from __future__ import annotations

import marshal
import socket
import subprocess
import sys
import threading
from collections import deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from multiprocessing.connection import Connection
from typing import Any, Final

GRACE_SECONDS: Final = 2.0
"""How much longer than the limit an answer may be on its way."""


class WorkerLost(Exception):
    """Raised when a worker process died or had to be killed before it answered.

    ``overran`` tells a process that was killed for overrunning from one that died by itself.
    """

    def __init__(self, *, overran: bool) -> None:
        super().__init__("the worker process overran" if overran else "the worker process died")
        self.overran = overran


class Worker:
    """One process and the socket to it."""

    def __init__(self, module: str) -> None:
        ours, theirs = socket.socketpair()
        # -I: the process sees neither the caller's folder nor its environment's Python settings.
        command = [sys.executable, "-I", "-c", _BOOT, repr(sys.path), module, str(theirs.fileno())]
        self._process = subprocess.Popen(
            command,
            stdin=subprocess.PIPE,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            pass_fds=[theirs.fileno()],
            env={"LANG": "C.UTF-8", "TZ": "UTC"},
        )
        theirs.close()
        self._pipe = Connection(ours.detach())

    def send(self, *frame: Any) -> None:
        """Sends one request. Raises :class:`WorkerLost`."""
        try:
            self._pipe.send_bytes(marshal.dumps(frame))
        except OSError as problem:
            self.kill()
            raise WorkerLost(overran=False) from problem

    def receive(self, seconds: float) -> list[Any]:
        """The next list of answers, waiting so long at most. Raises :class:`WorkerLost`."""
        try:
            if self._pipe.poll(seconds):
                answers: list[Any] = marshal.loads(self._pipe.recv_bytes())
                return answers
        except (EOFError, OSError, ValueError, TypeError) as problem:
            self.kill()
            raise WorkerLost(overran=False) from problem
        self.kill()
        raise WorkerLost(overran=True)

    def kill(self) -> None:
        """Ends the process at once."""
        with suppress(OSError):
            self._process.kill()
        self._process.wait()
        self._pipe.close()
        if self._process.stdin:
            self._process.stdin.close()


_BOOT: Final = (
    "import ast, sys; sys.path[:] = ast.literal_eval(sys.argv[1]); "
    "sys.argv[:] = sys.argv[2:]; module = sys.argv[0]; "
    "__import__(module, fromlist=['main']).main(int(sys.argv[1]))"
)


@dataclass(slots=True)
class _Batch:
    """Queries that go to a worker together, and which of them are answered."""

    indexes: list[int]
    answered: int = 0

    @property
    def open(self) -> list[int]:
        return self.indexes[self.answered :]


class WorkerPool:
    """A fixed number of workers, handed out one at a time; safe to use from several threads."""

    def __init__(self, module: str, size: int) -> None:
        self._module = module
        self._size = size
        self._started = 0
        self._idle: deque[Worker] = deque()
        self._free = threading.Condition()
        self._closed = False

    def warm(self) -> None:
        """Starts all processes now, so that the first queries need not wait for them."""
        with self._free:
            while self._started < self._size:
                self._started += 1
                self._idle.append(Worker(self._module))
                self._free.notify()

    @contextmanager
    def worker(self) -> Iterator[Worker]:
        """A worker for one's own use; a lost one is replaced."""
        worker = self._take()
        try:
            yield worker
        except BaseException:
            worker.kill()
            self._give_back(None)
            raise
        self._give_back(worker)

    def _take(self) -> Worker:
        with self._free:
            while not self._idle:
                if self._closed:
                    raise RuntimeError("the workers have been closed")
                if self._started < self._size:
                    self._started += 1
                    return Worker(self._module)
                self._free.wait()
            return self._idle.pop()

    def _give_back(self, worker: Worker | None) -> None:
        with self._free:
            if worker is None:
                self._started -= 1
            elif self._closed:
                worker.kill()
            else:
                self._idle.append(worker)
            self._free.notify()

    def ask(self, seconds: float, *frame: Any) -> Any:
        """Sends one request that has one answer. Raises :class:`WorkerLost`."""
        with self.worker() as worker:
            worker.send(*frame)
            (answer,) = worker.receive(seconds + GRACE_SECONDS)
            return answer

    def ask_many(
        self,
        count: int,
        frame: Callable[[list[int]], tuple[Any, ...]],
        seconds: float,
        batch_size: int,
    ) -> Iterator[tuple[int, Any]]:
        """Sends requests for ``count`` queries in batches over all workers.

        ``frame`` makes the request for the queries with these indexes. Yields (index, answer), the
        answer being :class:`WorkerLost` where that query cost the worker its life. Whatever else
        was in the same batch is asked again, alone, so that nobody pays for another's query.
        """
        waiting: deque[_Batch] = deque(
            _Batch(list(range(start, min(start + batch_size, count))))
            for start in range(0, count, batch_size)
        )
        lock = threading.Condition()
        done: deque[tuple[int, Any]] = deque()
        stop = threading.Event()

        def drive() -> None:
            while not stop.is_set():
                with lock:
                    if not waiting:
                        break
                    batch = waiting.popleft()
                try:
                    with self.worker() as worker:
                        worker.send(*frame(batch.indexes))
                        while batch.open:
                            answers = worker.receive(seconds + GRACE_SECONDS)
                            with lock:
                                done.extend(zip(batch.open, answers, strict=False))
                                batch.answered += len(answers)
                                lock.notify()
                except WorkerLost as lost:
                    with lock:
                        self._after_loss(batch, lost, waiting, done)
                        lock.notify()

        for _ in range(min(self._size, len(waiting))):
            threading.Thread(target=drive, daemon=True).start()
        return self._yielded(count, lock, done, stop)

    @staticmethod
    def _after_loss(
        batch: _Batch,
        lost: WorkerLost,
        waiting: deque[_Batch],
        done: deque[tuple[int, Any]],
    ) -> None:
        if len(batch.open) == 1:
            done.append((batch.open[0], lost))
        else:
            waiting.extendleft(_Batch([index]) for index in reversed(batch.open))

    @staticmethod
    def _yielded(
        count: int,
        lock: threading.Condition,
        done: deque[tuple[int, Any]],
        stop: threading.Event,
    ) -> Iterator[tuple[int, Any]]:
        left = count
        try:
            while left:
                with lock:
                    while not done:
                        lock.wait()
                    ready = list(done)
                    done.clear()
                left -= len(ready)
                yield from ready
        finally:
            stop.set()

    def close(self) -> None:
        """Ends all processes."""
        with self._free:
            self._closed = True
            while self._idle:
                self._idle.pop().kill()
            self._free.notify_all()
