"""A dataset's rows, what they show, how they are changed, and their versions."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from jentrow.api.schemas import Cell, Given, Problem, View, Woven


class Row(View):
    """A row with its number; 0 in a view."""

    number: int
    cells: list[Cell]


class Rows(View):
    """A page of a table's rows."""

    version: int
    total: int
    matching: int
    offset: int
    rows: list[Row]


class RowPlace(View):
    """How many rows come before a row; None where the condition leaves it out."""

    place: int | None


class CommonValue(View):
    """A value and how often it occurs."""

    value: Cell
    count: int


class ColumnProfile(View):
    """What a column holds."""

    name: str
    different: int
    nulls: int
    empty: int
    blanks: int
    case_variants: int
    smallest: Cell
    largest: Cell
    commonest: list[CommonValue]


class TableProfile(View):
    """What a table's columns hold."""

    name: str
    rows: int
    columns: list[ColumnProfile]


class ParentRow(View):
    """The row that a foreign key value refers to; no table where it is NULL or broken."""

    table: str | None
    row: int | None


class Showing(View):
    """One kind of row, and whether the rows have it."""

    id: str
    kind: str
    table: str
    columns: list[str]
    count: int
    present: bool
    words: str
    where: str


class NewRow(View):
    """A row to add, as texts; None is NULL."""

    table: str
    values: dict[str, str | None]


class Suggestion(View):
    """Rows that would show what is missing, or why none can."""

    rows: list[NewRow]
    why: str


class Version(View):
    """A version of a dataset's rows."""

    number: int
    made_at: datetime
    kind: Literal["made", "edit", "undo", "redo", "restore"]
    summary: str
    stands_for: int
    added: int
    changed: int
    removed: int


class TableDifference(View):
    """What happened to a table's rows between two versions."""

    table: str
    added: int
    changed: int
    removed: int
    woven: Woven


class Edited(View):
    """What came of edits; no version where they changed nothing."""

    version: int | None
    added: list[int]


class Insert(Given):
    """A new row; what is left out takes its default."""

    do: Literal["insert"]
    table: str
    values: dict[str, str | None]


class Update(Given):
    """New values for some cells of a row."""

    do: Literal["update"]
    table: str
    row: int
    values: dict[str, str | None]


class Delete(Given):
    """Rows that go."""

    do: Literal["delete"]
    table: str
    rows: list[int]


class Edits(Given):
    """Changes that are made together or not at all."""

    edits: Annotated[
        list[Annotated[Insert | Update | Delete, Field(discriminator="do")]],
        Field(min_length=1, max_length=10_000),
    ]


class Refused(Problem):
    """An edit that a constraint refuses, with the cell that it is about."""

    edit: int
    table: str
    column: str
