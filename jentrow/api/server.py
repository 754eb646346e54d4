"""Running the application under uvicorn."""

from __future__ import annotations

import gc
import socket
import sys
from pathlib import Path
from typing import Final

import uvicorn

from jentrow.api.app import WEB, create_app
from jentrow.api.intake import PatientProtocol
from jentrow.core.errors import JentrowError
from jentrow.services.accounts.links import first_link
from jentrow.services.runtime.data_folder import held_folder
from jentrow.services.runtime.runtime import Runtime
from jentrow.services.runtime.settings import read_settings


class CannotServe(JentrowError):
    """Raised when the address is taken, or the front end has not been built."""


class _Server(uvicorn.Server):
    """A server that says where it is once it listens."""

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        await super().startup(sockets)
        if self.started:
            config = self.config
            address = _address(config.host, config.port)
            print(f"Jentrow is at {address}/ (stop with Ctrl C)", flush=True)


def _address(host: str, port: int) -> str:
    return f"http://[{host}]:{port}" if ":" in host else f"http://{host}:{port}"


def run_server(folder: Path, host: str, port: int) -> None:
    """Serves until interrupted. Raises :class:`CannotServe` or :class:`UnusableFolder`."""
    check_ready(host, port)
    with held_folder(folder):
        _serve(folder, host, port)


YOUNG_OBJECTS: Final = 50_000
"""So many objects are made before Python looks for cycles among them: a page of marks makes some
hundred thousand that hold none, and looking through them again and again takes as long as making them."""


SWITCH_SECONDS: Final = 0.0005
"""How long a thread of Python may keep others waiting. A page asks the records a dozen times and each
time gives Python up: with the 5 ms that Python comes with, others who are at work make it wait a dozen times."""


def set_pace() -> None:
    """Has Python look for cycles and change threads as suits a server."""
    gc.set_threshold(YOUNG_OBJECTS, 20, 20)
    sys.setswitchinterval(SWITCH_SECONDS)


def _serve(folder: Path, host: str, port: int) -> None:
    set_pace()
    settings = read_settings()
    runtime = Runtime(folder, settings=settings)
    if token := first_link(runtime.records):
        print(
            f"Nobody teaches here yet. The first instructor signs up at {_address(host, port)}/links/{token}",
            flush=True,
        )
    app = create_app(lambda: runtime, settings)
    runtime.start_warming()
    # Pages hold a connection for events open: the end does not wait for them.
    config = uvicorn.Config(
        app,
        host=host,
        port=port,
        http=PatientProtocol,
        log_level="warning",
        timeout_graceful_shutdown=3,
        h11_max_incomplete_event_size=64 << 10,
    )
    server = _Server(config)
    server.run()
    if not server.started:
        raise CannotServe(f"{host}:{port}: the server did not start.")


def check_ready(host: str, port: int) -> None:
    """Raises :class:`CannotServe` where serving would fail: better known before anything else."""
    if not (WEB / "index.html").exists():
        raise CannotServe(f"the front end is not built ({WEB} is missing); run: make build")
    _check_free(host, port)


def _check_free(host: str, port: int) -> None:
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    with socket.socket(family) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as problem:
            raise CannotServe(
                f"{host}:{port} cannot be listened on ({problem.strerror}); choose another --port."
            ) from problem
