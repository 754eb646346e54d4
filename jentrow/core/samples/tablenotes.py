"""What an instructor notes on tables and columns, for everybody who looks at them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, Final, TypeAlias, TypeVar

from jentrow.core.errors import InvalidSample
from jentrow.core.samples.schema.tables import ColumnSchema, TableSchema

_T = TypeVar("_T")

FILE: Final = "notes.yaml"
MOST: Final = 500
"""Characters of a note: it stands beside a heading."""


@dataclass(frozen=True)
class TableNote:
    """What is noted on a table, and on its columns by name."""

    note: str = ""
    columns: Mapping[str, str] = field(default_factory=dict)


TableNotes: TypeAlias = Mapping[str, TableNote]
"""Notes by the names of their tables."""


def read_notes(content: Any, where: str) -> TableNotes:
    """Notes from plain values: ``{table: {note: text, columns: {column: text}}}``.

    A text in place of a table's mapping is its note. Raises :class:`InvalidSample` with all that is
    wrong; ``where`` names the file.
    """
    if content is None:
        return {}
    if not isinstance(content, dict):
        raise InvalidSample(f"{where}: holds no mapping from tables to notes.")
    problems: list[str] = []
    found: dict[str, TableNote] = {}
    for table, said in content.items():
        if isinstance(said, str):
            said = {"note": said}
        if not isinstance(said, dict):
            problems.append(f"{table}: is neither a text nor a mapping")
            continue
        problems += [
            f"{table}: unknown name {name!r} (known are note, columns)"
            for name in said
            if name not in ("note", "columns")
        ]
        columns = said.get("columns") or {}
        if not isinstance(columns, dict):
            problems.append(f"{table}: columns is no mapping from columns to notes")
            columns = {}
        texts = {str(table): said.get("note", "")}
        texts |= {f"{table}.{name}": text for name, text in columns.items()}
        problems += [f"{name}: {why}" for name, text in texts.items() if (why := problem_of(text))]
        found[str(table)] = TableNote(
            str(said.get("note", "")).strip(),
            {str(name): str(text).strip() for name, text in columns.items()},
        )
    if problems:
        raise InvalidSample(f"{where}: {'; '.join(problems)}.")
    return found


def problem_of(text: Any) -> str:
    """Why something is no note; empty where it is one."""
    if not isinstance(text, str):
        return "its note is no text"
    if len(text.strip()) > MOST:
        return f"its note has {len(text.strip()):,} characters; at most {MOST} are kept"
    return ""


def notes_mapping(notes: TableNotes) -> dict[str, Any]:
    """Notes as plain values, as :func:`read_notes` takes them; without empty ones."""
    found = {}
    for table, said in notes.items():
        columns = {name: text for name, text in said.columns.items() if text}
        content = ({"note": said.note} if said.note else {}) | (
            {"columns": columns} if columns else {}
        )
        if content:
            found[table] = content
    return found


def with_note(notes: TableNotes, table: str, column: str, text: str) -> TableNotes:
    """The notes with one of a table, or of a column where one is named, written anew."""
    before = next((said for name, said in notes.items() if _same(name, table)), TableNote())
    after = (
        replace(before, columns=_without(before.columns, column) | {column: text})
        if column
        else replace(before, note=text)
    )
    return _without(notes, table) | {table: after}


def _same(name: str, other: str) -> bool:
    return name.casefold() == other.casefold()


def _without(named: Mapping[str, _T], name: str) -> dict[str, _T]:
    return {other: value for other, value in named.items() if not _same(other, name)}


def noted(tables: Iterable[TableSchema], notes: TableNotes) -> tuple[TableSchema, ...]:
    """Tables with what is noted on them, whatever the case of names."""
    by_name = {table.casefold(): said for table, said in notes.items()}

    def column_noted(column: ColumnSchema, said: Mapping[str, str]) -> ColumnSchema:
        text = said.get(column.name.casefold(), "")
        return replace(column, note=text) if text else column

    found = []
    for table in tables:
        said = by_name.get(table.name.casefold(), TableNote())
        texts = {name.casefold(): text for name, text in said.columns.items()}
        columns = tuple(column_noted(column, texts) for column in table.columns)
        found.append(replace(table, note=said.note, columns=columns))
    return tuple(found)


def notes_on(tables: Iterable[TableSchema]) -> TableNotes:
    """What stands on tables and their columns, as notes."""
    return {
        table.name: TableNote(table.note, {one.name: one.note for one in table.columns})
        for table in tables
    }


def unknown_names(tables: Iterable[TableSchema], notes: TableNotes) -> list[str]:
    """The tables and columns that are noted on and are not there."""
    columns = {
        table.name.casefold(): {one.name.casefold() for one in table.columns} for table in tables
    }
    found = []
    for table, said in notes.items():
        known = columns.get(table.casefold())
        if known is None:
            found.append(table)
        else:
            found += [f"{table}.{name}" for name in said.columns if name.casefold() not in known]
    return found
