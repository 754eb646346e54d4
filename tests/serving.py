"""A server in a thread of the tests' own process."""

from __future__ import annotations

import socket
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

import uvicorn
from fastapi import FastAPI

from jentrow.api.app import create_app
from jentrow.services.runtime.runtime import Runtime


class Server(uvicorn.Server):
    """uvicorn in a thread, with an event that tells when it listens."""

    def __init__(self, config: uvicorn.Config) -> None:
        super().__init__(config)
        self.listening = threading.Event()

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        await super().startup(sockets)
        self.listening.set()


@contextmanager
def listening(app: FastAPI, **config: Any) -> Iterator[tuple[str, int]]:
    """An application that is served for the time of the context; where it listens."""
    listener = socket.create_server(("127.0.0.1", 0))
    server = Server(uvicorn.Config(app, timeout_graceful_shutdown=1, **config))
    thread = threading.Thread(target=server.run, args=([listener],))
    thread.start()
    assert server.listening.wait(30)
    yield listener.getsockname()
    server.should_exit = True
    thread.join(30)
    listener.close()


class _Application:
    """An application whose runtime is another one each time that it starts."""

    def __init__(self) -> None:
        self.open_runtime: Callable[[], Runtime] | None = None
        self.app = create_app(self._open)

    def _open(self) -> Runtime:
        assert self.open_runtime is not None
        return self.open_runtime()


_IDLE: list[_Application] = []


@contextmanager
def application(open_runtime: Callable[[], Runtime]) -> Iterator[FastAPI]:
    """An application that nobody else uses, for the time of the context.

    Making its routes takes longer than most tests do: it serves again when it is free.
    """
    one = _IDLE.pop() if _IDLE else _Application()
    one.open_runtime = open_runtime
    yield one.app
    _IDLE.append(one)
