"""The database servers that tests run against: those that answer, or private ones for the time of a run.

``python -m tests.servers COMMAND…`` runs a command with ``JENTROW_POSTGRESQL_URL`` and
``JENTROW_MARIADB_URL`` set. What the environment names is used; then what answers at the standard
local addresses; else the servers of Debian's packages are installed, and started in a folder and on
ports of their own until the command ends.
"""

from __future__ import annotations

import os
import pwd
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, ExitStack, contextmanager
from pathlib import Path

POSTGRESQL = "JENTROW_POSTGRESQL_URL"
MARIADB = "JENTROW_MARIADB_URL"
LOCAL = {
    POSTGRESQL: ("postgresql://postgres@127.0.0.1:5432/postgres",),
    MARIADB: ("mariadb://root@127.0.0.1:3306/",),
}
"""Where servers answer on a machine of one's own that has them, and whoever signs in rules them."""

STARTING_SECONDS = 60


def answers(url: str) -> bool:
    """Whether a server answers at an address, and lets in."""
    from jentrow.core.engines.mariadb import connection as mariadb
    from jentrow.core.engines.mariadb.engine import mariadb_address
    from jentrow.core.engines.postgresql import connection as postgresql
    from jentrow.core.engines.postgresql.engine import postgresql_address
    from jentrow.core.errors import EngineUnavailable

    try:
        if url.startswith("postgres"):
            address = postgresql_address(url)
            postgresql.connected(address, user=address.user, password=address.password).close()
        else:
            address = mariadb_address(url)
            mariadb.connected(address, user=address.user, password=address.password).close()
    except EngineUnavailable:
        return False
    return True


def name_local_servers() -> None:
    """Names in the environment what answers at the standard local addresses, if nothing else is."""
    for name, urls in LOCAL.items():
        if not os.environ.get(name):
            found = next((url for url in urls if answers(url)), None)
            if found:
                os.environ[name] = found


def main(command: list[str]) -> int:
    """Runs a command with both servers named; gives its status."""
    name_local_servers()
    with ExitStack() as stack:
        if POSTGRESQL not in os.environ:
            os.environ[POSTGRESQL] = stack.enter_context(private_postgresql())
        if MARIADB not in os.environ:
            os.environ[MARIADB] = stack.enter_context(private_mariadb())
        return subprocess.run(command, check=False).returncode


@contextmanager
def private_postgresql() -> Iterator[str]:
    """A PostgreSQL server of one's own; its address."""
    with stoppable_postgresql() as (url, start), start():
        yield url


Start = Callable[[], AbstractContextManager[None]]


@contextmanager
def stoppable_postgresql() -> Iterator[tuple[str, Start]]:
    """The address of a server of one's own, and what starts it for the time of a context."""
    programs = _installed("postgresql", "/usr/lib/postgresql/*/bin/initdb")
    with _folder("postgres") as (folder, as_user):
        data, port = folder / "data", free_port()
        _run(as_user, programs / "initdb", "-D", data, "-U", "postgres", "-A", "trust", "--no-sync")
        url = f"postgresql://postgres@127.0.0.1:{port}/postgres"

        def start() -> AbstractContextManager[None]:
            server = _start(
                as_user, programs / "postgres", "-D", data, "-p", str(port), "-k", folder,
                "-c", "listen_addresses=127.0.0.1", "-c", "fsync=off", folder=folder,
            )  # fmt: skip
            return _running(server, lambda: answers(url))

        yield url, start


@contextmanager
def private_mariadb() -> Iterator[str]:
    """A MariaDB server of one's own; its address."""
    programs = _installed("mariadb-server", "/usr/sbin/mariadbd")
    with _folder("mysql") as (folder, as_user):
        data, port, pipe = folder / "data", free_port(), folder / "socket"
        _run(
            as_user, "mariadb-install-db", "--no-defaults", f"--datadir={data}",
            "--auth-root-authentication-method=normal", "--skip-test-db",
        )  # fmt: skip
        server = _start(
            as_user, programs / "mariadbd", "--no-defaults", f"--datadir={data}", f"--port={port}",
            f"--socket={pipe}", f"--pid-file={folder / 'pid'}", "--bind-address=127.0.0.1",
            "--innodb-flush-log-at-trx-commit=0", folder=folder,
        )  # fmt: skip
        url = f"mariadb://root@127.0.0.1:{port}/"
        with _running(server, lambda: answers(url)):
            yield url


def _installed(package: str, program: str) -> Path:
    """The folder of a program, its package installed if it is not there."""
    found = sorted(Path("/").glob(program.lstrip("/")))
    if not found:
        environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
        subprocess.run(["apt-get", "update", "-q"], check=True, env=environment)
        subprocess.run(
            ["apt-get", "install", "-y", "-q", "--no-install-recommends", package],
            check=True,
            env=environment,
        )
        found = sorted(Path("/").glob(program.lstrip("/")))
    return found[-1].parent


@contextmanager
def _folder(user: str) -> Iterator[tuple[Path, list[str]]]:
    """A folder of a server's, and how it is started: neither server runs as root."""
    folder = Path(tempfile.mkdtemp(prefix="jentrow-server-"))
    as_user: list[str] = []
    if os.geteuid() == 0:
        account = pwd.getpwnam(user)
        os.chown(folder, account.pw_uid, account.pw_gid)
        as_user = ["setpriv", f"--reuid={user}", f"--regid={account.pw_gid}", "--clear-groups"]
    try:
        yield folder, as_user
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _run(as_user: list[str], *command: object) -> None:
    subprocess.run([*as_user, *map(str, command)], check=True, cwd="/", stdout=subprocess.DEVNULL)


def _start(as_user: list[str], *command: object, folder: Path) -> subprocess.Popen[bytes]:
    with (folder / "log").open("wb") as log:
        return subprocess.Popen(
            [*as_user, *map(str, command)], cwd="/", stdout=log, stderr=subprocess.STDOUT
        )


@contextmanager
def _running(server: subprocess.Popen[bytes], ready: Callable[[], bool]) -> Iterator[None]:
    """While this lasts the server runs; it is waited for."""
    until = time.monotonic() + STARTING_SECONDS
    try:
        while not ready():
            if server.poll() is not None or time.monotonic() > until:
                raise RuntimeError("a database server for the tests does not start")
            server_pause()
        yield
    finally:
        # PostgreSQL takes this for: end now, whoever is there. MariaDB does not mind it.
        server.send_signal(signal.SIGINT)
        server.terminate()
        server.wait(STARTING_SECONDS)


def server_pause() -> None:
    """The time between two looks whether a server answers."""
    time.sleep(0.2)


def free_port() -> int:
    with socket.socket() as one:
        one.bind(("127.0.0.1", 0))
        return int(one.getsockname()[1])


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
