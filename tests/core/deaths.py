"""Worker processes that die at what they are asked, without a race: they never get to an answer."""

from __future__ import annotations

import os
import signal
from typing import Any

import pytest

from jentrow.core.processes.workers import Worker


def dies_of(monkeypatch: pytest.MonkeyPatch, deadly: bytes) -> None:
    """From now on a worker process dies of each request that has these bytes in it."""
    send = Worker.send_bytes

    def send_and_kill(worker: Worker, request: bytes, **how: Any) -> None:
        is_deadly = deadly in request
        if is_deadly:
            # Stopped first: a process that runs may have answered before it is killed.
            os.kill(worker.pid, signal.SIGSTOP)
        send(worker, request, **how)
        if is_deadly:
            os.kill(worker.pid, signal.SIGKILL)

    monkeypatch.setattr(Worker, "send_bytes", send_and_kill)
