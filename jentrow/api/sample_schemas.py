"""What the routes about samples take and answer with."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from jentrow.api.schemas import Cell, Problem, Result, View, Woven
from jentrow.core.samples.coltypes import Form, TypeName
from jentrow.core.samples.proposals import ProposedKey
from jentrow.core.samples.reading import TableCount
from jentrow.core.samples.scripts.dialects import ScriptDialect
from jentrow.core.sql.text import Place
from jentrow.services.samples.catalogue import DatasetLine

Name = Annotated[str, Field(min_length=1, max_length=128)]


class Given(BaseModel):
    """The base of all that is sent to the routes; a name that is not known is an error."""

    model_config = {"extra": "forbid"}


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


class RunName(Given):
    """The name of a run; empty for none."""

    name: Annotated[str, Field(max_length=80)]


class Query(Given):
    """A query to try."""

    sql: Annotated[str, Field(max_length=200_000)]


class QueryOn(Query):
    """A query, and the engine that is to run it."""

    engine: Annotated[str, Field(max_length=40)] = "sqlite"


class TwoQueries(Given):
    """Two queries to compare; the first is what is due."""

    first: Annotated[str, Field(max_length=200_000)]
    second: Annotated[str, Field(max_length=200_000)]


class Tried(View):
    """What came of a query."""

    result: Result | None
    verdict: Literal["ran", "error", "refused", "stopped"]
    message: str
    place: Place | None
    near: str
    runs_as: str
    doubts: list[str]


class EngineRun(View):
    """What a query gives on one engine, and whether that is what the first engine gave."""

    engine: str
    label: str
    version: str
    result: Result | None
    message: str
    same: bool | None
    woven: Woven | None
    why: list[str]


class Compared(View):
    """Two queries' results, woven."""

    same: bool
    woven: Woven | None
    message: str


class NewName(Given):
    """A name for something."""

    name: Name


class NewDataset(Given):
    """A held-back dataset to add: a copy of another, or with its tables empty."""

    name: Name
    copy_of: str
    empty: bool = False


class GivenColumn(Given):
    """A column as somebody wants it."""

    name: str
    type: str
    not_null: bool = False
    default: str | None = None


class GivenKey(Given):
    """A foreign key as somebody wants it."""

    columns: list[str]
    table: str
    to: list[str]
    on_delete: str = "NO ACTION"
    on_update: str = "NO ACTION"


class GivenTable(Given):
    """A table as somebody wants it."""

    name: str
    columns: Annotated[list[GivenColumn], Field(max_length=1_000)]
    primary_key: list[str] = []
    uniques: list[list[str]] = []
    foreign_keys: list[GivenKey] = []
    checks: list[str] = []


class NewSample(Given):
    """A sample of empty tables."""

    name: Name
    tables: Annotated[list[GivenTable], Field(max_length=500)]


class FileFormat(View):
    """How a CSV file is written."""

    delimiter: Annotated[str, Field(min_length=1, max_length=4)] = ","
    encoding: str = "utf-8"
    null_marker: str = ""


class ColumnType(View):
    """A type and the form in which a file writes it."""

    name: TypeName
    form: Form = ""


class FilledFrom(Given):
    """The file that fills a table: a source for each of its columns, empty for none."""

    file: str
    format: FileFormat
    sources: list[str]
    types: list[ColumnType | None]


class PlannedTable(Given):
    """A table of a CSV file, as it was corrected."""

    table: GivenTable
    filled: FilledFrom | None = None


class Plan(Given):
    """The sample that an import shall make; without tables: what it has made is kept as it is.

    ``of_sample``: the tables are filled from those of this sample, in all its datasets. ``in_place``:
    they take the place of its own, and the name is not looked at. ``real_decimals``: columns that were
    read as DECIMAL are kept as real numbers.
    """

    name: Name
    tables: list[PlannedTable] | None = None
    of_sample: str = ""
    in_place: bool = False
    real_decimals: bool = False


class ChangedTables(Given):
    """The tables of a sample as they are to be changed; ``file`` names the table that fills one."""

    tables: list[PlannedTable]


class Look(Given):
    """How to look at the files of an import: formats by file, the dialect of a script."""

    formats: dict[str, FileFormat] = {}
    dialect: Literal[""] | ScriptDialect = ""


class ProposedColumn(View):
    """A column as guessed."""

    source: str
    name: str
    type: ColumnType
    not_null: bool
    unique: bool
    nulls: int
    examples: list[str]


class ProposedTable(View):
    """A table as a file would fill it."""

    name: str
    file: str
    format: FileFormat
    columns: list[ProposedColumn]
    primary_key: list[str]
    rows: int
    whole: bool
    foreign_keys: list[ProposedKey]


class MakingProblem(View):
    """What keeps a sample from being made."""

    file: str
    row: int
    column: str
    message: str


class MadeDataset(View):
    """A dataset that an import has made."""

    name: str
    tables: list[TableCount]
    notes: list[Note]


class Import(View):
    """An import: where it stands, what it proposes or has made, and its problems."""

    id: str
    phase: Literal["files", "working", "proposed", "made", "kept", "failed", "stopped"]
    kind: Literal["csv", "script", "database", "folder"] | None
    files: list[str]
    dialect: str
    done: int
    total: int
    tables: list[ProposedTable]
    made: list[MadeDataset]
    problems: list[MakingProblem]
    problem_count: int
    sample: str
    decimals: list[str]
