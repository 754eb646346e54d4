"""A database of a sample's schema in which made-up rows come and go, inside a worker process."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Final, Protocol

from jentrow.core.engines.answers import Answer
from jentrow.core.engines.limits import Limits
from jentrow.core.results import Row
from jentrow.core.samples.schema.enumerations import ENUMERATION, condition_of
from jentrow.core.samples.schema.tables import TableSchema


class Scratch(Protocol):
    """What an engine offers for trying queries on made-up rows."""

    @property
    def schema(self) -> tuple[TableSchema, ...]:
        """The tables and views of the sample."""

    @property
    def slowness(self) -> float:
        """How many times as long as on SQLite a small query takes, about."""

    def clock(self) -> float:
        """The seconds by which a search's time is told: the processor's, or a server's clock's."""

    def fill(self, rows: Mapping[str, Sequence[Row]], *, backwards: bool = False) -> bool:
        """Holds these rows and no others from now on; false where a constraint refuses one.

        A row has a value for each writable column of its table. With ``backwards`` rows that no
        query sorts come in another sequence.
        """

    def run(self, sql: str, limits: Limits) -> Answer:
        """Runs one query on them, within its limits."""

    def allows(self, table: TableSchema, row: Row) -> bool:
        """Whether a row meets the CHECK constraints of its table."""


_LISTED: Final = re.compile(r"ENUM\s*\((?P<values>.*)\)\Z", re.IGNORECASE | re.DOTALL)


def listed_values(table: TableSchema) -> TableSchema:
    """A table whose enumerations, as engines declare them, are those of a sample.

    See :mod:`jentrow.core.samples.schema.enumerations`: made-up rows are to hold listed values alone.
    """
    columns, checks = list(table.columns), list(table.checks)
    for at, column in enumerate(columns):
        if found := _LISTED.match(column.type):
            columns[at] = replace(column, type=ENUMERATION)
            checks.append(condition_of(column.name, [found["values"]]))
    return replace(table, columns=tuple(columns), checks=tuple(checks))
