"""A process that has loaded what workers need, and forks them: a new worker costs a moment only.

It runs no query and opens no database; it has one thread, so that a fork of it is whole.
"""

from __future__ import annotations

import atexit
import gc
import importlib
import os
import signal
import socket
import struct
import subprocess
import sys
import threading
from collections.abc import Sequence
from contextlib import suppress
from typing import Final

_MODULE: Final = "jentrow.core.processes.nursery"
_PID: Final = struct.Struct("i")

_BOOT: Final = (
    "import ast, sys; sys.path[:] = ast.literal_eval(sys.argv[1]); "
    f"__import__({_MODULE!r}, fromlist=['main']).main(int(sys.argv[2]), sys.argv[3:])"
)


class Nursery:
    """The server's side of it. Safe to share between threads; begun when first asked."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._ahead: tuple[str, ...] = ()
        self._process: subprocess.Popen[bytes] | None = None
        self._control: socket.socket | None = None

    def fork(self, module: str, pipe: socket.socket) -> int:
        """Starts ``main`` of a module in a new process with its end of a pipe; gives the process.

        It ends by itself when this process does.
        """
        # Files may be named from where the caller stands.
        return self._ask(f"{module}\0{os.getcwd()}", [pipe.fileno()])

    def load(self, modules: Sequence[str]) -> None:
        """Has modules loaded ahead that workers load when they first need them: it may take long."""
        with self._lock:
            self._ahead = tuple(dict.fromkeys((*self._ahead, *modules)))
            if self._control is None:
                return  # loaded when it begins
        self._ask("\0".join(("", *modules)), [])

    def begin(self, modules: Sequence[str]) -> None:
        """Starts it now, and has it load modules while the caller does something else."""
        with self._lock:
            self._ahead = tuple(dict.fromkeys((*self._ahead, *modules)))
            self._begun()

    def _ask(self, request: str, pipes: list[int]) -> int:
        with self._lock:
            for _ in range(2):
                control = self._begun()
                with suppress(OSError):
                    socket.send_fds(control, [request.encode(errors="surrogateescape")], pipes)
                    answer = control.recv(_PID.size)
                    if answer:
                        return int(_PID.unpack(answer)[0])
                self._end()  # ended from outside: once more with a new one
        raise OSError("worker processes cannot be started")

    def _begun(self) -> socket.socket:
        if self._control is not None and self._process and self._process.poll() is None:
            return self._control
        self._end()
        ours, theirs = socket.socketpair()
        # -I: the process sees neither the caller's folder nor its environment's Python settings.
        self._process = subprocess.Popen(
            [
                sys.executable,
                "-I",
                "-c",
                _BOOT,
                repr(sys.path),
                str(theirs.fileno()),
                *self._ahead,
            ],
            stdin=subprocess.PIPE,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            pass_fds=[theirs.fileno()],
            env={"LANG": "C.UTF-8", "TZ": "UTC", "OPENBLAS_NUM_THREADS": "1"},
        )
        theirs.close()
        self._control = ours
        return ours

    def close(self) -> None:
        """Ends it; its workers live on for as long as this process does."""
        with self._lock:
            self._end()

    def _end(self) -> None:
        if self._control is not None:
            self._control.close()
        if self._process is not None:
            self._process.kill()
            self._process.wait()
            if self._process.stdin:
                self._process.stdin.close()
        self._process = self._control = None


NURSERY: Final = Nursery()
atexit.register(NURSERY.close)


def main(descriptor: int, ahead: Sequence[str]) -> None:
    """The process: forks a worker for each request, until the parent goes away."""
    _load(ahead)
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # whoever asked for a worker waits for it
    control = socket.socket(fileno=descriptor)
    while True:
        request, pipes, _, _ = socket.recv_fds(control, 16_384, 1)
        if not request:
            return
        module, _, place = request.decode(errors="surrogateescape").partition("\0")
        if not module:
            _load(place.split("\0"))
            control.send(_PID.pack(0))
            continue
        importlib.import_module(module)
        gc.freeze()
        process = os.fork()
        if process == 0:
            _become(module, place, control, pipes[0])
        os.close(pipes[0])
        control.send(_PID.pack(process))


def _load(modules: Sequence[str]) -> None:
    for name in modules:
        importlib.import_module(name)


def _become(module: str, place: str, control: socket.socket, pipe: int) -> None:
    control.close()
    signal.signal(signal.SIGCHLD, signal.SIG_DFL)
    try:
        os.chdir(place)
        importlib.import_module(module).main(pipe)
    finally:
        os._exit(0)
