"""The one place that wires engines by name, and those that a running server holds."""

from __future__ import annotations

import threading
from collections.abc import Collection, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Final, Literal, TypeAlias, get_args

from jentrow.core.engines.duckdb.engine import DuckDBEngine
from jentrow.core.engines.labels import ENGINES, LABELS
from jentrow.core.engines.mariadb.engine import MariaDBEngine, mariadb_address
from jentrow.core.engines.pooled import PooledEngine
from jentrow.core.engines.postgresql.engine import PostgreSQLEngine, postgresql_address
from jentrow.core.engines.protocol import Engine
from jentrow.core.engines.remembering import RememberingEngine
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.errors import EngineUnavailable
from jentrow.core.processes.workers import PoolClosed
from jentrow.services.runtime.settings import Settings, read_settings

Use: TypeAlias = Literal["steady", "hurried", "runs", "long-runs"]

_PROCESSES: Final[dict[Use, tuple[int | None, int]]] = {
    "steady": (None, 10),
    "hurried": (2, 0),
    "runs": (2, 1),
    "long-runs": (2, 15),
}
"""How many worker processes each use has (None: one for each processor), and how far they stand
back for others: hand-ins and short runs go before imports and regrading, and those before runs
that take long."""


def engine_named(
    name: str,
    folder: Path | None = None,
    workers: int | None = None,
    niceness: int = 0,
    settings: Settings | None = None,
) -> Engine:
    """The engine with this name, its processes starting; a server is the one that settings name.

    Raises :class:`EngineUnavailable` where there is no such engine, or no server for it.
    """
    engine = _made(name, folder, workers, niceness, settings or read_settings())
    engine.warm()
    return engine


def _made(
    name: str, folder: Path | None, workers: int | None, niceness: int, settings: Settings
) -> PooledEngine:
    match name:
        case "sqlite":
            return SQLiteEngine(folder, workers, niceness)
        case "duckdb":
            return DuckDBEngine(folder, workers, niceness)
        case "postgresql" if settings.postgresql_url:
            address = postgresql_address(settings.postgresql_url)
            return PostgreSQLEngine(address, folder, workers, niceness)
        case "mariadb" if settings.mariadb_url:
            address = mariadb_address(settings.mariadb_url)
            return MariaDBEngine(address, folder, workers, niceness)
        case _ if name in ENGINES:
            raise EngineUnavailable(
                f"no server is named for {LABELS[name]}: an administrator sets "
                f"JENTROW_{name.upper()}_URL."
            )
        case _:
            raise EngineUnavailable(f"there is no engine {name!r}; known are {', '.join(ENGINES)}.")


@contextmanager
def opened_engine(name: str, workers: int | None = None) -> Iterator[Engine]:
    """An engine for the time of the context."""
    engine = engine_named(name, workers=workers)
    try:
        yield engine
    finally:
        engine.close()


class Engines:
    """The engines of a running server, begun when first asked for. Safe to share between threads."""

    def __init__(self, folder: Path) -> None:
        """``folder`` keeps what they load."""
        self._folder = folder
        self._begun: dict[tuple[str, Use], RememberingEngine] = {}
        self._lock = threading.Lock()
        self._closed = False

    def get(self, name: str, *, fresh: bool = False, use: Use = "steady") -> Engine:
        """The engine with this name. Raises :class:`PoolClosed` and :class:`EngineUnavailable`.

        It remembers what it ran; with ``fresh`` every query runs. Each ``use`` has processes of
        its own: what somebody waits for is not held up by what nobody waits for.
        """
        with self._lock:
            if self._closed:
                raise PoolClosed
            if (name, use) not in self._begun:
                workers, niceness = _PROCESSES[use]
                self._begun[name, use] = RememberingEngine(
                    engine_named(name, self._folder / f"{name}-{use}", workers, niceness)
                )
            engine = self._begun[name, use]
        return engine.fresh if fresh else engine

    def all(self) -> list[Engine]:
        """Every engine that there is."""
        return [self.get(name) for name in ENGINES]

    def label(self, name: str) -> str:
        """An engine and its version as people write them, such as SQLite 3.54.1."""
        engine = self.get(name)
        return f"{engine.capabilities.label} {engine.version}"

    def warm(self, names: Collection[str]) -> None:
        """Begins these engines for every use."""
        for use in get_args(Use):
            for name in names:
                self.get(name, use=use)

    def close(self) -> None:
        """Ends them; whoever waits for one gets :class:`PoolClosed`."""
        with self._lock:
            self._closed = True
            engines = list(self._begun.values())
        for engine in engines:
            engine.close()
