"""What edits have to know of the tables that a query reads."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal, TypeAlias

Family: TypeAlias = Literal["number", "text", "date", "other"]


@dataclass(frozen=True, slots=True)
class ColumnFacts:
    """A column: what values it takes, and whether NULL is one of them.

    ``values`` are some that it holds in the data that everybody sees, as SQL literals, the most
    frequent first.
    """

    name: str
    family: Family
    nullable: bool
    values: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class KeyFacts:
    """Columns that refer to those of another table."""

    columns: tuple[str, ...]
    table: str
    to: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class TableFacts:
    """A table or a view of the sample."""

    name: str
    columns: tuple[ColumnFacts, ...]
    primary_key: tuple[str, ...] = ()
    keys: tuple[KeyFacts, ...] = field(default=())

    def column(self, name: str) -> ColumnFacts | None:
        """The column of a name, whatever its case."""
        return next((one for one in self.columns if one.name.lower() == name.lower()), None)


Tables: TypeAlias = Mapping[str, TableFacts]
"""Tables by their names in small letters."""


def tables_by_name(tables: Sequence[TableFacts]) -> Tables:
    """For looking up."""
    return {table.name.lower(): table for table in tables}
