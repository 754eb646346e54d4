"""The views of a script in another dialect, made in SQLite as far as SQLite can read them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

import apsw

from jentrow.core.samples.recipes import RanTable
from jentrow.core.samples.schema.view_texts import author_of, stand_in
from jentrow.core.sql.text import quoted_name

ONLY_ELSEWHERE: Final = (
    "SQLite cannot read this view, so it has no row here; a query on the engine that it is written "
    "for reads its rows."
)
"""What is noted on a view of which a sample has the columns and its author's words."""


@dataclass(frozen=True, slots=True)
class ScriptView:
    """A view of a script: its line, its name, and its DDL for SQLite, with its author's words."""

    line: int
    name: str
    ddl: str


@dataclass(frozen=True, slots=True)
class ViewLeft:
    """A view that SQLite cannot read: why, and whether its columns are there without its rows."""

    view: ScriptView
    why: str
    stands_in: bool


def make_views(
    db: apsw.Connection, views: Sequence[ScriptView], ran: Sequence[RanTable]
) -> list[ViewLeft]:
    """Makes the views of a script; gives those that SQLite cannot read.

    ``ran`` says what came of the script where its own engine ran it: a view of which SQLite would
    give other columns counts as one that it cannot read. Of such a view there are the columns, and
    none of it where no engine told those.
    """
    columns = {one.name.lower(): [name for name, _ in one.columns] for one in ran if not one.path}
    unread = {}
    for view in views:
        try:
            db.execute(view.ddl)
        except apsw.Error as problem:
            unread[view.name] = f"SQLite does not take it: {problem}"
    unread |= drop_unread_views(db, columns)
    return [
        ViewLeft(view, unread[view.name], _stands_in(db, view, columns))
        for view in views
        if view.name in unread
    ]


def drop_unread_views(
    db: apsw.Connection, columns: Mapping[str, Sequence[str]] | None = None
) -> dict[str, str]:
    """Drops the views that SQLite cannot read, and those over them; gives why, by their names.

    ``columns`` are those that views should have, by their names in small letters.
    """
    dropped: dict[str, str] = {}
    while found := list(_unread(db, columns or {})):
        for name, why in found:
            db.execute(f"DROP VIEW {quoted_name(name)}")
            dropped[name] = why
    return dropped


def _unread(db: apsw.Connection, columns: Mapping[str, Sequence[str]]) -> Iterator[tuple[str, str]]:
    for (name,) in list(db.execute("SELECT name FROM sqlite_schema WHERE type = 'view'")):
        try:
            db.execute(f"SELECT * FROM {quoted_name(name)} LIMIT 0")
            found = [column for (column,) in db.execute(_COLUMNS, (name,))]
        except apsw.Error as problem:
            yield name, f"SQLite does not take it: {problem}"
            continue
        there = columns.get(name.lower(), found)
        if [one.lower() for one in found] != [one.lower() for one in there]:
            yield name, "SQLite would give other columns of it"


_COLUMNS: Final = "SELECT name FROM pragma_table_info(?)"


def _stands_in(db: apsw.Connection, view: ScriptView, columns: Mapping[str, Sequence[str]]) -> bool:
    known, author = columns.get(view.name.lower()), author_of(view.ddl)
    if not known or not author:
        return False
    db.execute(stand_in(view.name, known, *author))
    return True
