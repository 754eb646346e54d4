"""What the routes about samples and their datasets take and answer with."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from jentrow.api.schemas import Given, View
from jentrow.core.samples.rows.reading_room import TableCount
from jentrow.core.samples.schema.coltypes import TypeName
from jentrow.services.samples.catalogue import DatasetLine

Name = Annotated[str, Field(min_length=1, max_length=128)]


class ColumnSchema(View):
    """A column of a table; ``type_name`` is what its declaration means."""

    name: str
    type: str
    type_name: TypeName | None
    not_null: bool
    default: str | None
    generated: str | None
    collation: str
    note: str


class ForeignKey(View):
    """Columns that hold the key of a row of another table."""

    columns: list[str]
    table: str
    to: list[str]
    on_delete: str
    on_update: str


class TableSchema(View):
    """A table or view with its keys and constraints."""

    name: str
    kind: Literal["table", "view"]
    columns: list[ColumnSchema]
    primary_key: list[str]
    uniques: list[list[str]]
    foreign_keys: list[ForeignKey]
    checks: list[str]
    note: str
    stands_in: bool


class TableNote(Given):
    """What is noted on a table, or on one of its columns; an empty text takes it away."""

    table: Name
    column: Annotated[str, Field(max_length=128)] = ""
    note: Annotated[str, Field(max_length=2_000)]


class Note(View):
    """Something that was left out, or is to be known, of how a sample was made.

    What is not lost is of no effect here: a setting of the script's own server.
    """

    line: int
    text: str
    why: str
    is_lost: bool = True


class Sample(View):
    """A sample with its tables and datasets."""

    name: str
    tables: list[TableSchema]
    datasets: list[DatasetLine]
    exercises: list[str]
    notes: list[Note]


class Dataset(View):
    """The state of a dataset."""

    name: str
    version: int
    changed_at: datetime
    tables: list[TableCount]
    undo: str
    redo: str


class NewName(Given):
    """A name for something."""

    name: Name


class NewDataset(Given):
    """A held-back dataset to add: a copy of another, or with its tables empty."""

    name: Name
    copy_of: str
    empty: bool = False
