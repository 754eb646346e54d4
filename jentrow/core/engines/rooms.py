"""What runs an engine's queries inside a worker process, and where each engine's is found."""

from __future__ import annotations

from importlib import import_module
from typing import Final, Protocol

from jentrow.core.engines.answers import Answer, Tables
from jentrow.core.engines.copy_answers import CopyAnswer, CopyPage
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import DatasetParts
from jentrow.core.engines.scratch import Scratch
from jentrow.core.results import Column
from jentrow.core.samples.schema.tables import CountedTable


class Room(Protocol):
    """One engine in one worker process.

    Whatever it does may raise :class:`EngineUnavailable` where the engine is a server that does
    not answer.
    """

    def about(self) -> tuple[str, list[str]]:
        """The engine's version, and the functions that queries may call."""

    @property
    def addresses(self) -> int:
        """Bytes of addresses that the engine asks for beside the memory that it uses."""

    def bound(self, memory: int) -> None:
        """Bounds the engine's own memory (in bytes), where it lives in this process."""

    def run(self, location: str, sql: str, limits: Limits) -> Answer:
        """Runs one query, within its limits."""

    def told_columns(self, location: str) -> tuple[Column, ...]:
        """The columns of the last query as people tell them apart, with their types."""

    def build(self, location: str, parts: DatasetParts) -> Tables:
        """Loads a dataset. Raises :class:`InvalidSample`."""

    def look(self, location: str) -> Tables:
        """What is in a dataset that is loaded."""

    def scratch(self, location: str) -> Scratch | None:
        """A database for made-up rows with the schema of a dataset; None where there is none."""

    def make_copy(self, copy: str, parts: DatasetParts) -> None:
        """Loads a dataset as a learner's own copy. Raises :class:`InvalidSample`.

        This and the next two are asked of a server alone: elsewhere a copy is a file.
        """

    def drop_copy(self, copy: str) -> None:
        """Deletes a learner's own copy."""

    def use_copy(self, copy: str) -> None:
        """Notes that a learner's own copy is in use."""

    def copy_bytes(self, copy: str) -> int:
        """What the rows of a learner's own copy take up. Raises :class:`UnusableInput`."""

    def change(self, copy: str, script: str, limits: Limits, most_bytes: int) -> CopyAnswer:
        """Runs statements on a learner's own copy."""

    def copy_tables(self, copy: str) -> list[CountedTable]:
        """The tables of a learner's own copy. Raises :class:`UnusableInput`."""

    def copy_rows(self, copy: str, table: str, offset: int, limit: int) -> CopyPage | None:
        """Rows of a table of a learner's own copy. Raises :class:`UnusableInput`."""


class CopiesAreFiles:
    """What an engine's room has nothing to do for where a private copy is a file."""

    def make_copy(self, copy: str, parts: DatasetParts) -> None:
        """Nothing."""
        raise NotImplementedError

    def drop_copy(self, copy: str) -> None:
        """Nothing."""
        raise NotImplementedError

    def use_copy(self, copy: str) -> None:
        """Nothing."""
        raise NotImplementedError

    def copy_bytes(self, copy: str) -> int:
        """Nothing."""
        raise NotImplementedError


_ROOMS: Final = {
    "sqlite": ("jentrow.core.engines.sqlite.room", "SQLiteRoom"),
    "duckdb": ("jentrow.core.engines.duckdb.room", "DuckDBRoom"),
    "postgresql": ("jentrow.core.engines.postgresql.room", "PostgreSQLRoom"),
    "mariadb": ("jentrow.core.engines.mariadb.room", "MariaDBRoom"),
    "tsql": ("jentrow.core.engines.dialects.room", "TSQLRoom"),
    "oracle": ("jentrow.core.engines.dialects.room", "OracleRoom"),
    "db2": ("jentrow.core.engines.dialects.room", "Db2Room"),
}
"""A process loads the driver of an engine when it is first asked for a query on it."""

ROOM_MODULES: Final = tuple(dict.fromkeys(module for module, _ in _ROOMS.values()))
"""What loads them for good: where processes are made of one that has, none has to."""


class Rooms:
    """The rooms of a worker process, opened when first asked for."""

    def __init__(self) -> None:
        self._open: dict[tuple[str, str], Room] = {}

    def get(self, engine: str, server: str) -> Room:
        """The room of an engine; ``server`` is the address of its server, empty where it has none."""
        if (engine, server) not in self._open:
            module, name = _ROOMS[engine]
            make = getattr(import_module(module), name)
            self._open[engine, server] = make(server) if server else make()
        return self._open[engine, server]
