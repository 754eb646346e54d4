"""Servers for tests: in a thread of the tests' own process, or in a process of their own."""

from __future__ import annotations

import json
import multiprocessing
import os
import signal
import socket
import sys
import threading
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

import uvicorn
from fastapi import FastAPI

from jentrow.api.server import run_server
from tests.demo_course import COURSE, PASSWORD
from tests.servers import free_port


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


FORKED = multiprocessing.get_context("forkserver")
FORKED.set_forkserver_preload(["tests.serving"])


class Caller:
    """Somebody who asks a server in another process."""

    def __init__(self, port: int) -> None:
        self.address = f"http://127.0.0.1:{port}/api"
        self.cookie = ""

    def asked(self, path: str, body: Any = None) -> urllib.request.Request:
        return urllib.request.Request(
            self.address + path,
            None if body is None else json.dumps(body).encode(),
            {"Content-Type": "application/json", "Cookie": self.cookie},
        )

    def sign_in(self, login: str = "instructor") -> str:
        said = self.asked("/sign-in", {"login": login, "password": PASSWORD})
        with urllib.request.urlopen(said) as answer:
            self.cookie = answer.headers["Set-Cookie"].partition(";")[0]
            return str(json.loads(answer.read())["me"]["guard"])

    def events(self) -> Any:
        """The states that the server tells, one after the other."""
        self.sign_in()
        with urllib.request.urlopen(self.asked(f"/courses/{COURSE}/events")) as answer:
            for line in answer:
                if line.startswith(b"data:"):
                    yield json.loads(line[5:])


class Served(Caller):
    """A server in a process of its own, to be killed.

    It is forked from one that has everything imported, which takes longer than a server lives here.
    """

    def __init__(self, data: Path) -> None:
        port = free_port()
        super().__init__(port)
        ours, theirs = FORKED.Pipe(duplex=False)
        self.process = FORKED.Process(target=_serve, args=(data, port, theirs))
        self.process.start()
        theirs.close()
        with ours, open(ours.fileno(), closefd=False) as said:
            assert "Jentrow is at" in said.readline()
        assert self.process.pid is not None
        self.pid = self.process.pid

    def kill(self) -> None:
        os.killpg(self.pid, signal.SIGKILL)
        self.process.join()


def _serve(data: Path, port: int, told: Connection) -> None:
    os.setsid()
    os.dup2(told.fileno(), sys.stdout.fileno())
    run_server(data, "127.0.0.1", port)
