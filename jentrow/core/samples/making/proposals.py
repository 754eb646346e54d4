"""What a sample could be made of files: tables, types and keys, proposed for correction."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, Final, Literal, TypeAlias

from jentrow.core.errors import JentrowError, UnusableInput
from jentrow.core.samples.csvfiles import CSVFormat, Record, read_header, read_rows, wrong_width
from jentrow.core.samples.making.csvguess import guess_format
from jentrow.core.samples.recipes import Problem
from jentrow.core.samples.schema.coltypes import ColumnType, guess_type

FileKind: TypeAlias = Literal["csv", "script", "database", "folder"]

READ_ROWS: Final = 100_000
"""How many rows of a file are looked at; every value is checked when the sample is made."""

_EXAMPLES: Final = 3
_SQLITE_MAGIC: Final = b"SQLite format 3\0"


@dataclass(frozen=True, slots=True)
class ProposedColumn:
    """A column of a file: its type as guessed, and what speaks for it."""

    source: str
    name: str
    type: ColumnType
    not_null: bool
    unique: bool
    nulls: int
    examples: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class ProposedKey:
    """A column whose values are all found in another table's key."""

    column: str
    table: str
    to: str


@dataclass(frozen=True, slots=True)
class ProposedTable:
    """A table as a file would fill it. ``rows`` were read; ``whole`` says that there are no more."""

    name: str
    file: str
    format: CSVFormat
    columns: tuple[ProposedColumn, ...]
    primary_key: tuple[str, ...]
    rows: int
    whole: bool
    foreign_keys: tuple[ProposedKey, ...] = ()


@dataclass(frozen=True, slots=True)
class Proposal:
    """Tables that could be made, and the problems of files that could not be read."""

    tables: tuple[ProposedTable, ...]
    problems: tuple[Problem, ...] = field(default=())


def kind_of_file(path: Path) -> FileKind:
    """What a file is, by its first bytes and its ending. Raises :class:`UnusableInput`."""
    with path.open("rb") as file:
        head = file.read(16)
    if head == _SQLITE_MAGIC:
        return "database"
    if head.startswith(b"PK\x03\x04"):
        return "folder"
    match path.suffix.lower():
        case ".sql" | ".ddl":
            return "script"
        case ".csv" | ".tsv" | ".txt" | ".tab":
            return "csv"
        case ".zip":
            raise UnusableInput(f"{path.name}: not a ZIP file, although its name says so.")
        case ".db" | ".sqlite" | ".sqlite3":
            raise UnusableInput(f"{path.name}: not an SQLite file, although its name says so.")
        case ending:
            raise UnusableInput(
                f"{path.name}: a sample is made of .sql, .csv, .tsv, .txt, an SQLite file or a "
                f"ZIP of a sample; {ending or 'a file without an ending'} is none of them."
            )


def propose(files: Sequence[Path], options: Mapping[str, Any]) -> Proposal:
    """Proposes a table for each CSV file.

    ``options["formats"]`` maps names of files to formats that somebody chose; the others are
    guessed. A file that cannot be read becomes a problem; the others are proposed all the same.
    """
    formats = options.get("formats") or {}
    tables: list[ProposedTable] = []
    values: dict[str, list[set[str]]] = {}
    problems: list[Problem] = []
    for path in files:
        chosen = formats.get(path.name)
        try:
            format = CSVFormat(**chosen) if chosen else guess_format(path)
            table, distinct, found = _propose_table(path, format)
        except (JentrowError, LookupError) as problem:
            said = str(problem).replace(str(path), path.name)
            if isinstance(problem, LookupError):
                said = f"there is no such encoding ({problem})"
            problems.append(Problem(path.name, 0, "", said))
            continue
        problems += found
        tables.append(_with_free_name(table, tables))
        values[tables[-1].name] = distinct
    return Proposal(tuple(_with_keys(tables, values)), tuple(problems))


def _with_free_name(table: ProposedTable, others: Sequence[ProposedTable]) -> ProposedTable:
    taken = {other.name.lower() for other in others}
    name, at = table.name, 2
    while name.lower() in taken:
        name, at = f"{table.name}_{at}", at + 1
    return replace(table, name=name)


_NOT_IN_NAMES: Final = re.compile(r"[^\w]+")


def plain_name(text: str, otherwise: str) -> str:
    """A name that SQL takes without quotes, from any text."""
    name = _NOT_IN_NAMES.sub("_", text.strip()).strip("_").lower()
    if not name:
        return otherwise
    return f"n_{name}" if name[0].isdigit() else name


def _propose_table(
    path: Path, format: CSVFormat
) -> tuple[ProposedTable, list[set[str]], list[Problem]]:
    header = read_header(path, format)
    rows: list[Record] = []
    problems: list[Problem] = []
    whole = True
    for block in read_rows(path, format):
        for line, record in zip(block.lines, block.records, strict=True):
            if len(record) == len(header):
                rows.append(record)
            elif len(problems) < 20:
                problems.append(Problem(path.name, line, "", wrong_width(record, header) + "."))
        if len(rows) >= READ_ROWS:
            whole = False
            break
    columns, distinct = [], []
    taken: set[str] = set()
    for at, source in enumerate(header):
        texts = [row[at] for row in rows]
        column, known = _propose_column(source, texts, f"column_{at + 1}", taken)
        columns.append(column)
        distinct.append(known)
        taken.add(column.name)
    key = next((one for one in columns if _may_be_key(one, rows)), None)
    name = plain_name(path.stem, "rows")
    table = ProposedTable(
        name, path.name, format, tuple(columns), (key.name,) if key else (), len(rows), whole
    )
    return table, distinct, problems


def _may_be_key(column: ProposedColumn, rows: Sequence[Record]) -> bool:
    return (
        bool(rows)
        and column.unique
        and column.not_null
        and (column.type.name == "integer" or column.name.endswith(("id", "code", "no", "key")))
    )


def _propose_column(
    source: str, texts: Sequence[str | None], otherwise: str, taken: set[str]
) -> tuple[ProposedColumn, set[str]]:
    known = {text for text in texts if text is not None}
    type = guess_type(tuple(known))
    empty_is_null = type.name != "text"
    nulls = sum(text is None or (empty_is_null and not text.strip()) for text in texts)
    name = base = plain_name(source, otherwise)
    at = 2
    while name in taken:
        name, at = f"{base}_{at}", at + 1
    examples: dict[str, None] = {}
    for text in texts:
        if text:
            examples[text] = None
        if len(examples) == _EXAMPLES:
            break
    unique = bool(texts) and len(known) == len(texts) - nulls and not nulls
    return (
        ProposedColumn(
            source, name, type, bool(texts) and not nulls, unique, nulls, tuple(examples)
        ),
        known,
    )


def _with_keys(
    tables: Sequence[ProposedTable], values: Mapping[str, list[set[str]]]
) -> Iterator[ProposedTable]:
    """Adds foreign keys: a column named as another table's key, whose values are all found there."""
    for table in tables:
        keys = []
        for at, column in enumerate(table.columns):
            if (column.name,) == table.primary_key:
                continue
            for parent in tables:
                if parent is table or len(parent.primary_key) != 1 or not parent.whole:
                    continue
                to = parent.primary_key[0]
                place = next(i for i, one in enumerate(parent.columns) if one.name == to)
                one = parent.name.rstrip("s")
                same_name = column.name == to or column.name.endswith((f"_{to}", one, f"{one}_id"))
                known = {text for text in values[table.name][at] if text}
                if same_name and known and known <= values[parent.name][place]:
                    keys.append(ProposedKey(column.name, parent.name, to))
                    break
        yield replace(table, foreign_keys=tuple(keys))
