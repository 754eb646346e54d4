"""A scratch database on a server: temporary tables of one connection, in place of a dataset's own.

Nobody else sees them, and they go with the connection. Few connections are open at a time: the
others are opened anew when they are needed, with the rows that were held.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from time import perf_counter
from typing import ClassVar, Final, TypeVar

import sqlglot
from cachetools import LRUCache

from jentrow.core.engines.answers import Answer
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.scratch import listed_values
from jentrow.core.engines.sqlite.checks import Checks
from jentrow.core.errors import EngineUnavailable
from jentrow.core.results import Row
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.sql.parser_failures import PARSER_FAILURES

OPEN_SCRATCHES: Final = 3
"""Connections for made-up rows that a process has open at a time."""

KNOWN_SCRATCHES: Final = 32

PATIENCE: Final = 5.0
"""How many times as long as in this process a query on made-up rows may take on a server."""

_Found = TypeVar("_Found")


class Gone(Exception):
    """Raised when the connection broke."""


class OpenScratches:
    """The scratch databases of a process that have a connection, those last that were used last."""

    def __init__(self) -> None:
        self._open: list[ServerScratch] = []
        self._known: LRUCache[str, ServerScratch] = LRUCache(KNOWN_SCRATCHES)

    def at(self, location: str, make: Callable[[], ServerScratch]) -> ServerScratch:
        """The one for a dataset; made where none is known, which raises what making it does."""
        known = self._known.get(location)
        if known is None:
            known = self._known[location] = make()
        return known

    def used(self, one: ServerScratch) -> None:
        """Notes that one has a connection; closes that of another where there are too many."""
        self._open = [other for other in self._open if other is not one]
        self._open.append(one)
        while len(self._open) > OPEN_SCRATCHES:
            self._open.pop(0).close()


class ServerScratch(ABC):
    """See :class:`~jentrow.core.engines.scratch.Scratch`."""

    slowness: Final = 5.0
    clock = staticmethod(perf_counter)
    dialect: ClassVar[str]

    def __init__(self, opened: OpenScratches, schema: Sequence[TableSchema]) -> None:
        """``schema`` is that of the dataset, in the words of the server."""
        self.schema = tuple(listed_values(_in_sqlite(one, self.dialect)) for one in schema)
        self._tables = {one.name: one for one in self.schema if one.kind == "table"}
        self._checks = Checks(self.schema)
        self._opened = opened
        self._held: tuple[Mapping[str, Sequence[Row]], bool] = ({}, False)

    def fill(self, rows: Mapping[str, Sequence[Row]], *, backwards: bool = False) -> bool:
        """Holds these rows and no others; false where a constraint refuses one."""
        self._held = rows, backwards
        return self._again(lambda: self._filled(rows, backwards))

    def run(self, sql: str, limits: Limits) -> Answer:
        """Runs one query on them, within its limits."""
        return self._again(lambda: self._ran(sql, limits))

    def allows(self, table: TableSchema, row: Row) -> bool:
        """Whether a row meets the CHECK constraints of its table."""
        return self._checks.allow(table, row)

    def _again(self, work: Callable[[], _Found]) -> _Found:
        """Does it, on a new connection where there is none, or the old one broke."""
        for attempt in range(2):
            try:
                if not self.is_open:
                    self._open()
                    self._filled(*self._held)
                self._opened.used(self)
                return work()
            except Gone as gone:
                self.close()
                if attempt:
                    raise EngineUnavailable(f"The server went away: {gone}.") from gone
        raise AssertionError("unreachable")

    @property
    @abstractmethod
    def is_open(self) -> bool:
        """Whether there is a connection."""

    @abstractmethod
    def _open(self) -> None:
        """Connects, and makes the tables. Raises :class:`EngineUnavailable` and :class:`Gone`."""

    @abstractmethod
    def close(self) -> None:
        """Ends the connection."""

    @abstractmethod
    def _filled(self, rows: Mapping[str, Sequence[Row]], backwards: bool) -> bool:
        """See :meth:`fill`. Raises :class:`Gone`."""

    @abstractmethod
    def _ran(self, sql: str, limits: Limits) -> Answer:
        """See :meth:`run`. Raises :class:`Gone`."""


def _in_sqlite(table: TableSchema, dialect: str) -> TableSchema:
    """A table with its conditions as SQLite asks them; one that it cannot ask is left out."""
    return replace(table, checks=tuple(_translated(one, dialect) for one in table.checks))


def _translated(check: str, dialect: str) -> str:
    try:
        return sqlglot.transpile(check, read=dialect, write="sqlite")[0]
    except PARSER_FAILURES:
        return "TRUE"
