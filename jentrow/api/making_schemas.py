"""What a sample is to be made of: tables planned by hand, files looked at, imports under way."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from jentrow.api.sample_schemas import Name, Note
from jentrow.api.schemas import Given, View
from jentrow.core.samples.making.proposals import ProposedKey
from jentrow.core.samples.rows.reading_room import TableCount
from jentrow.core.samples.schema.coltypes import Form, TypeName
from jentrow.core.samples.scripts.dialects import ScriptDialect


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
    primary_key: list[str] = Field(default_factory=list)
    uniques: list[list[str]] = Field(default_factory=list)
    foreign_keys: list[GivenKey] = Field(default_factory=list)
    checks: list[str] = Field(default_factory=list)


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

    formats: dict[str, FileFormat] = Field(default_factory=dict)
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
