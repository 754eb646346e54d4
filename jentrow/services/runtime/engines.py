"""The one place that wires engines by name, and those that a running server holds."""

from __future__ import annotations

import json
import threading
from collections import defaultdict
from collections.abc import Collection, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Final, Literal, TypeAlias, get_args

from cachetools import TTLCache

from jentrow.core.engines.copies.engine import CopyKeepingEngine
from jentrow.core.engines.labels import DIALECTS, ENGINES, LABELS, STAND_INS
from jentrow.core.engines.protocol import (
    NO_FACTS,
    Engine,
    LoadedDataset,
    QueryFailure,
    StandInFacts,
)
from jentrow.core.engines.remembering import RememberingEngine
from jentrow.core.errors import EngineUnavailable, UnusableInput
from jentrow.core.processes.workers import PoolClosed
from jentrow.core.sql.stand_ins.stand_in import REJECTED_HERE, may_run_elsewhere, stood_in

if TYPE_CHECKING:
    from jentrow.services.runtime.settings import Settings

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

STATE_SECONDS: Final = 10.0
"""How long what a server said of itself is believed."""


def engine_named(
    name: str,
    folder: Path | None = None,
    workers: int | None = None,
    niceness: int = 0,
    settings: Settings | None = None,
) -> Engine:
    """The engine with this name, its processes starting; a server is the one that settings name.

    Raises :class:`UnusableInput` where there is no such engine, and :class:`EngineUnavailable` where
    there is no server for it.
    """
    engine = _made(name, folder, workers, niceness, settings)
    engine.warm()
    return engine


def _made(
    name: str, folder: Path | None, workers: int | None, niceness: int, settings: Settings | None
) -> CopyKeepingEngine:
    # Imported where it is made: a command that uses one engine does not wait for all of them.
    match name:
        case "sqlite":
            from jentrow.core.engines.sqlite.engine import SQLiteEngine

            return SQLiteEngine(folder, workers, niceness)
        case "duckdb":
            from jentrow.core.engines.duckdb.engine import DuckDBEngine

            return DuckDBEngine(folder, workers, niceness)
        case "postgresql" if url := _server_of(name, settings):
            from jentrow.core.engines.postgresql.engine import PostgreSQLEngine, postgresql_address

            address = postgresql_address(url)
            return PostgreSQLEngine(address, folder, workers, niceness)
        case "mariadb" if url := _server_of(name, settings):
            from jentrow.core.engines.mariadb.engine import MariaDBEngine, mariadb_address

            address = mariadb_address(url)
            return MariaDBEngine(address, folder, workers, niceness)
        case _ if name in STAND_INS:
            from jentrow.core.engines.dialects.engine import StandInEngine

            return StandInEngine(name, folder, workers, niceness)
        case _ if name in ENGINES:
            raise EngineUnavailable(
                f"no server is named for {LABELS[name]}: an administrator sets "
                f"JENTROW_{name.upper()}_URL."
            )
        case _:
            raise UnusableInput(f"there is no engine {name!r}; known are {', '.join(ENGINES)}.")


def _server_of(name: str, settings: Settings | None) -> str:
    """Where an engine's server is, empty where none is named; settings are read for a server alone."""
    if settings is None:
        from jentrow.services.runtime.settings import read_settings

        settings = read_settings()
    return settings.postgresql_url if name == "postgresql" else settings.mariadb_url


@contextmanager
def opened_engine(name: str, workers: int | None = None) -> Iterator[Engine]:
    """An engine for the time of the context."""
    engine = engine_named(name, workers=workers)
    try:
        yield engine
    finally:
        engine.close()


def translation_of(
    engine: Engine,
    dataset: LoadedDataset,
    sql: str,
    failure: QueryFailure | None = None,
    *,
    undecided: str = "",
) -> tuple[str, list[str]]:
    """What a stand-in runs of a text, and in sentences what it may do otherwise than the engine.

    Both are empty where the engine runs the text itself. ``failure`` is what the text came to, or
    ``undecided`` why there is no verdict on it: what the stand-in alone rejects is told, too.
    """
    if engine.name not in STAND_INS:
        return "", []
    made = stood_in(engine.dialect, sql, dataset.kinds)
    is_rejected_here = undecided == "translation" or (
        failure is not None
        and failure.verdict == "error"
        and may_run_elsewhere(engine.dialect, sql, made, failure.code, failure.engine_words)
    )
    doubts = list(made.notes) or [REJECTED_HERE] * is_rejected_here
    return "" if made.sql == sql else made.sql, doubts


@dataclass(frozen=True)
class EngineState:
    """An engine as it is now; ``reason`` says why it does not answer, empty where it does.

    ``version`` is the last that is known, empty where none is.
    """

    name: str
    label: str
    dialect: str
    version: str
    functions: tuple[str, ...]
    lacks: tuple[str, ...]
    no_copies: str
    copies_lack: str
    stand_in: str
    facts: StandInFacts
    reason: str

    @property
    def answers(self) -> bool:
        """Whether queries can run on it now."""
        return not self.reason


class Engines:
    """The engines of a running server, begun when first asked for. Safe to share between threads."""

    def __init__(self, folder: Path, settings: Settings, versions: Path | None = None) -> None:
        """``folder`` keeps what they load; ``versions`` is a file that keeps what is known of servers."""
        self._folder = folder
        self._settings = settings
        self._versions = KnownVersions(versions)
        self._begun: dict[tuple[str, Use], RememberingEngine] = {}
        self._states: TTLCache[str, EngineState] = TTLCache(len(ENGINES), STATE_SECONDS)
        self._lock = threading.Lock()
        self._looking: defaultdict[str, threading.Lock] = defaultdict(threading.Lock)
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
                    engine_named(name, self._folder / name, workers, niceness, self._settings)
                )
            engine = self._begun[name, use]
        return engine.fresh if fresh else engine

    def state(self, name: str) -> EngineState:
        """An engine as it is; a server is asked again after some seconds."""
        with self._lock:
            looking = self._looking[name]
        # Each engine by itself: a server that hangs holds up nobody who asks about another.
        with looking:
            with self._lock:
                known = self._states.get(name)
            if known is None:
                known = self._looked_at(name)
                with self._lock:
                    self._states[name] = known
            return known

    def _looked_at(self, name: str) -> EngineState:
        try:
            engine = self.get(name)
            can = engine.capabilities
            version = engine.ask_version()
        except EngineUnavailable as problem:
            known = self._versions.of(name)
            return EngineState(
                name,
                LABELS[name],
                DIALECTS[name],
                known,
                (),
                (),
                "",
                "",
                "",
                NO_FACTS,
                str(problem),
            )
        self._versions.note(name, version)
        lacks = tuple(lack.says for lack in can.lacks)
        return EngineState(
            name,
            can.label,
            can.dialect,
            version,
            can.functions,
            lacks,
            can.no_copies,
            can.copies_lack,
            can.stand_in,
            can.facts,
            "",
        )

    def forget_states(self) -> None:
        """Has every engine looked at anew when it is next asked about."""
        with self._lock:
            self._states.clear()

    def all(self) -> list[EngineState]:
        """Every engine that there is, also those that do not answer."""
        return [self.state(name) for name in ENGINES]

    def version(self, name: str) -> str:
        """The version of an engine; of a server that does not answer, the last that is known."""
        return self.state(name).version

    def label(self, name: str) -> str:
        """An engine and its version as people write them, such as SQLite 3.54.1."""
        found = self.state(name)
        return f"{found.label} {found.version}".strip()

    def warm(self, names: Collection[str]) -> None:
        """Begins these engines for every use, as far as they answer."""
        for use in get_args(Use):
            for name in names:
                with suppress(EngineUnavailable):
                    self.get(name, use=use)

    def close(self) -> None:
        """Ends them; whoever waits for one gets :class:`PoolClosed`."""
        with self._lock:
            self._closed = True
            engines = list(self._begun.values())
        for engine in engines:
            engine.close()


class KnownVersions:
    """The versions of servers that answered last, also those before this server was started."""

    def __init__(self, file: Path | None) -> None:
        self._file = file
        self._known: dict[str, str] = {}
        if file is not None and file.is_file():
            with suppress(ValueError):
                self._known = json.loads(file.read_text(encoding="utf-8"))

    def of(self, name: str) -> str:
        """The version of an engine; empty where none is known."""
        return str(self._known.get(name, ""))

    def note(self, name: str, version: str) -> None:
        """Keeps the version of an engine that answered."""
        if self._known.get(name) == version:
            return
        self._known[name] = version
        if self._file is not None:
            self._file.write_text(json.dumps(self._known, indent=1), encoding="utf-8")
