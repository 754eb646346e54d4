"""Fills a new dataset from an SQLite file."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any, Final

import apsw

from jentrow.core.samples.making.filling import insert_checked, insert_into
from jentrow.core.samples.making.unfinished import Unfinished
from jentrow.core.samples.recipes import Carried, Problem, Recipe
from jentrow.core.samples.schema.coltypes import ColumnType, NotOfType, read_value
from jentrow.core.samples.schema.schema_text import without_row_options
from jentrow.core.samples.schema.tables import read_schema
from jentrow.core.samples.scripts.reasons import VIRTUAL
from jentrow.core.sql.text import quoted_name

_VIRTUAL: Final = re.compile(r"\s*CREATE\s+VIRTUAL\s+TABLE", re.IGNORECASE)
_PORTION: Final = 5_000


def copy_database(making: Unfinished, recipe: Recipe) -> None:
    """Copies the tables, views and indexes of a recipe's file, or what the recipe carries over of it."""
    path = Path(recipe.path)
    source = apsw.Connection(
        f"file:{path}?immutable=1&mode=ro",
        flags=apsw.SQLITE_OPEN_READONLY | apsw.SQLITE_OPEN_URI,
    )
    source.config(apsw.SQLITE_DBCONFIG_DEFENSIVE, 1)
    source.config(apsw.SQLITE_DBCONFIG_TRUSTED_SCHEMA, 0)
    try:
        objects = list(
            source.execute(
                "SELECT type, name, sql FROM sqlite_schema WHERE sql IS NOT NULL ORDER BY rowid"
            )
        )
        virtual = [name for _, name, sql in objects if _VIRTUAL.match(sql)]
        making.left_out += [(0, name, VIRTUAL) for name in virtual]
        tables = [
            (name, sql)
            for kind, name, sql in objects
            if kind == "table"
            and not name.lower().startswith("sqlite_")
            and not any(name == one or name.startswith(one + "_") for one in virtual)
        ]
        if not tables:
            making.note(Problem(path.name, 0, "", "the file holds no table."))
            return
        later = making.create(
            recipe.schema or ";\n".join(without_row_options(sql) for _, sql in tables)
        )
        if recipe.carried:
            _carry(making, source, recipe.carried)
            making.make_later(later)
            return
        names = [name for name, _ in tables]
        done, total = 0, max(1, _count_rows(source, names))
        made = {table.name: table for table in read_schema(making.db)}
        for name in names:
            for portion in _portions(source.execute(f"SELECT * FROM {quoted_name(name)}")):
                making.insert_all(made[name], portion)
                done += len(portion)
                making.report(done, total)
        rest = [sql for kind, _, sql in objects if kind != "table"]
        making.make_later([*later, *(rest if not recipe.schema else ())])
    finally:
        source.close(True)


def _carry(making: Unfinished, source: apsw.Connection, carried: Sequence[Carried]) -> None:
    """Rows of another sample's tables, into tables that were changed."""
    numbered = {table.name: table for table in read_schema(source)}
    total = _count_rows(source, [one.source for one in carried])
    done = 0
    for one in carried:
        row_name = numbered[one.source].row_name
        names = ", ".join(quoted_name(column.source) for column in one.columns)
        insert = insert_into(one.table, [column.name for column in one.columns])
        found = source.execute(f"SELECT {row_name}, {names} FROM {quoted_name(one.source)}")
        for portion in _portions(found):
            rows = [row for row in portion if _fits(making, one, row)]
            values = [row[1:] for row in rows]

            def refused(at: int, column: str, words: str, rows: Any = rows) -> None:
                making.note(Problem(one.source, rows[at][0], column, words))  # noqa: B023

            insert_checked(making.db, insert, values, refused)
            done += len(portion)
            making.report(done, total)


def _fits(making: Unfinished, carried: Carried, row: tuple[Any, ...]) -> bool:
    """Whether a row's texts are of the types that their columns are to have now."""
    for column, value in zip(carried.columns, row[1:], strict=True):
        if column.type is None or not isinstance(value, str) or column.type.name == "text":
            continue
        try:
            read_value(value, ColumnType(column.type.name))
        except NotOfType as problem:
            making.note(Problem(carried.source, row[0], column.source, f"{problem}."))
            return False
    return True


def _count_rows(db: apsw.Connection, tables: Sequence[str]) -> int:
    counts = (db.execute(f"SELECT count(*) FROM {quoted_name(name)}") for name in tables)
    return sum(next(count)[0] for count in counts)


def _portions(rows: Iterator[Any]) -> Iterator[list[Any]]:
    portion: list[Any] = []
    for row in rows:
        portion.append(row)
        if len(portion) == _PORTION:
            yield portion
            portion = []
    if portion:
        yield portion
