"""Tables as an instructor corrected or changed them, and what fills them."""

from __future__ import annotations

from dataclasses import dataclass

from jentrow.core.samples.csvfiles import CSVFormat
from jentrow.core.samples.schema.coltypes import ColumnType
from jentrow.core.samples.schema.tables import TableSchema


@dataclass(frozen=True, slots=True)
class FilledFrom:
    """The CSV file that fills a table: its columns' sources and forms, in the table's order.

    A column of the table that has no source stays at its default.
    """

    file: str
    format: CSVFormat
    sources: tuple[str, ...]
    types: tuple[ColumnType | None, ...]


@dataclass(frozen=True, slots=True)
class PlannedTable:
    """A table as an instructor wants it, and the file that fills it, if any."""

    table: TableSchema
    filled: FilledFrom | None = None
