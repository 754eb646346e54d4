"""What a new dataset is to be made of, as it is handed to the process that makes it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal, TypeAlias

from jentrow.core.samples.csvfiles import CSVFormat
from jentrow.core.samples.schema.coltypes import ColumnType

SourceKind: TypeAlias = Literal["tables", "script", "database"]


@dataclass(frozen=True, slots=True)
class ColumnSource:
    """A column of a file or table, the column that it fills, and the type that it is read as.

    ``type`` None: the text goes to the engine as it is, which reads it by the declaration.
    """

    source: str
    name: str
    type: ColumnType | None = None


@dataclass(frozen=True, slots=True)
class CSVSource:
    """A CSV file that fills a table; columns of the file that are not named are left out."""

    table: str
    path: str
    columns: tuple[ColumnSource, ...]
    format: CSVFormat = field(default_factory=CSVFormat)


@dataclass(frozen=True, slots=True)
class Carried:
    """A table of another database whose rows fill a table that was changed."""

    table: str
    source: str
    columns: tuple[ColumnSource, ...]


@dataclass(frozen=True, slots=True)
class RanTable:
    """A table of a script that its own engine ran: columns with their declared types, and its rows.

    The file at ``path`` holds them as CSV, each value as the engine writes it. A view has none, and
    no types.
    """

    name: str
    columns: tuple[tuple[str, str], ...]
    path: str


@dataclass(frozen=True, slots=True)
class Recipe:
    """How a dataset is made.

    ``tables``: the DDL in ``schema``, filled from ``csv``. ``script``: the script at ``path``, in
    ``dialect``. ``database``: the SQLite file at ``path``. With ``schema`` given, the tables are
    made as it says, and the script or file gives the rows only; with ``carried``, those rows. With
    ``ran``, the script's own engine gave the rows, and no statement of it is run.
    """

    kind: SourceKind
    schema: str = ""
    csv: tuple[CSVSource, ...] = ()
    path: str = ""
    dialect: str = "sqlite"
    carried: tuple[Carried, ...] = ()
    ran: tuple[RanTable, ...] = ()


@dataclass(frozen=True, slots=True)
class Problem:
    """What keeps a dataset from being made: its file, row or line, column, and words for it.

    ``row`` counts the lines of a file from 1; 0 where no line is meant.
    """

    file: str
    row: int
    column: str
    message: str


@dataclass(frozen=True, slots=True)
class Made:
    """A dataset that was made: its schema, how many rows each table has, what is to be told.

    ``table_notes`` are what the script notes on tables and columns, as plain values.
    """

    schema: str
    table_rows: tuple[tuple[str, int], ...]
    notes: tuple[str, ...] = ()
    left_out: tuple[tuple[int, str, str], ...] = ()
    table_notes: Mapping[str, Any] = field(default_factory=dict)
