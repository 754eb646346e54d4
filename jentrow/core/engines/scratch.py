"""A database of a sample's schema in which made-up rows come and go, inside a worker process."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Protocol

from jentrow.core.engines.answers import Answer
from jentrow.core.engines.limits import Limits
from jentrow.core.results import Row
from jentrow.core.samples.schema import TableSchema


class Scratch(Protocol):
    """What an engine offers for trying queries on made-up rows."""

    @property
    def schema(self) -> tuple[TableSchema, ...]:
        """The tables and views of the sample."""

    @property
    def slowness(self) -> float:
        """How many times as long as on SQLite a small query takes, about."""

    def fill(self, rows: Mapping[str, Sequence[Row]], *, backwards: bool = False) -> bool:
        """Holds these rows and no others from now on; false where a constraint refuses one.

        A row has a value for each writable column of its table. With ``backwards`` rows that no
        query sorts come in another sequence.
        """

    def run(self, sql: str, limits: Limits) -> Answer:
        """Runs one query on them, within its limits."""

    def allows(self, table: TableSchema, row: Row) -> bool:
        """Whether a row meets the CHECK constraints of its table."""
