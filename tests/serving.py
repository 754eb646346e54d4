"""A server in a thread of the tests' own process."""

from __future__ import annotations

import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import uvicorn
from fastapi import FastAPI


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
