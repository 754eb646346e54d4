"""Fills a new dataset from a script."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import apsw

from jentrow.core.samples.making.database_build import StatementFails, run_statements
from jentrow.core.samples.making.filling import insert_into
from jentrow.core.samples.making.unfinished import Unfinished
from jentrow.core.samples.recipes import Problem, RanTable, Recipe
from jentrow.core.samples.schema.ddl import create_table
from jentrow.core.samples.schema.schema_text import without_row_options
from jentrow.core.samples.schema.tables import TableSchema, read_schema
from jentrow.core.samples.scripts.ran_tables import (
    COMPUTED_OTHERWISE,
    computed_otherwise,
    put_right,
    rows_of,
)
from jentrow.core.samples.scripts.reading import PARSED_BYTES, read_script
from jentrow.core.samples.scripts.reasons import TRIGGER
from jentrow.core.samples.scripts.script import ReadScript
from jentrow.core.samples.scripts.sqlite import without_lines
from jentrow.core.samples.scripts.statements import beginning
from jentrow.core.samples.scripts.tables import with_parent_keys
from jentrow.core.samples.scripts.views import ONLY_ELSEWHERE, make_views
from jentrow.core.samples.tablenotes import notes_mapping, notes_on
from jentrow.core.sql.text import quoted_name
from jentrow.core.textfiles import read_text


def run_script(making: Unfinished, recipe: Recipe) -> None:
    """Runs the script of a recipe, as a whole or statement by statement, as far as SQLite takes it."""
    script = read_text(Path(recipe.path))
    if recipe.schema:
        later = making.create(recipe.schema)
        _run_whole(making, script, Path(recipe.path).name)
        making.make_later(later)
    elif recipe.dialect == "sqlite":
        script = without_lines(
            script,
            lambda line, text, why: making.left_out.append((line, beginning(text, 70), why)),
        )
        _run_whole(making, script, Path(recipe.path).name)
        _rebuild_if_needed(making)
    else:
        _run_other(making, script, recipe)


def _run_whole(making: Unfinished, script: str, file: str) -> None:
    total = len(script)
    try:
        run_statements(making.db, script, lambda done: making.report(done, total))
    except StatementFails as problem:
        making.note(Problem(file, problem.line, "", f"{problem}."))


def _rebuild_if_needed(making: Unfinished) -> None:
    """Tables that are kept in another way are made anew; triggers are left out."""
    if making.db.in_transaction:
        making.db.execute("COMMIT")
    making.db.execute("PRAGMA foreign_keys = off")  # whatever the script has said
    for (name,) in list(making.db.execute("SELECT name FROM sqlite_schema WHERE type='trigger'")):
        making.left_out.append((0, f"TRIGGER {name}", TRIGGER))
        making.db.execute(f"DROP TRIGGER {quoted_name(name)}")
    for name, sql in list(
        making.db.execute("SELECT name, sql FROM sqlite_schema WHERE type = 'table'")
    ):
        plain = without_row_options(sql or "")
        if plain == (sql or ""):
            continue
        indexes = making.db.execute(
            "SELECT sql FROM sqlite_schema WHERE tbl_name = ? AND type = 'index' "
            "AND sql IS NOT NULL",
            (name,),
        )
        later = [text for (text,) in list(indexes)]
        rows = list(making.db.execute(f"SELECT * FROM {quoted_name(name)}"))
        making.db.execute(f"DROP TABLE {quoted_name(name)}")
        making.db.execute(plain)
        made = next(table for table in read_schema(making.db) if table.name == name)
        making.insert_all(made, rows)
        for text in later:
            making.db.execute(text)
        making.notes.append(
            f"{name} is kept by row numbers: WITHOUT ROWID and STRICT were left out."
        )


def _run_other(making: Unfinished, script: str, recipe: Recipe) -> None:
    file = Path(recipe.path).name
    if len(script) > PARSED_BYTES:
        making.note(
            Problem(
                file,
                0,
                "",
                f"a script in another dialect than SQLite's may have {PARSED_BYTES >> 20} MB; "
                "import its rows as CSV files.",
            )
        )
        return
    read = read_script(script, recipe.dialect)
    if recipe.ran:
        put_right(read, recipe.ran)
    making.left_out += [(one.line, one.text, one.why) for one in read.left_out]
    making.table_notes = notes_mapping(notes_on(read.tables))
    making.db.execute("BEGIN")
    read.tables = with_parent_keys(read.tables)
    for table in read.tables:
        _create_as_far_as_it_goes(making, table, file)
    if recipe.ran:
        _fill_from_ran(making, read, recipe.ran)
    else:
        for at, (line, sql) in enumerate(read.statements, start=1):
            making.attempt(sql, file, line)
            making.report(at, len(read.statements))
    for line, sql in read.indexes:
        making.attempt_or_leave(sql, line)
    for left in make_views(making.db, read.views, recipe.ran):
        if left.stands_in:
            making.table_notes.setdefault(left.view.name, {"note": ONLY_ELSEWHERE})
            making.notes.append(f"The view {left.view.name}: {ONLY_ELSEWHERE}")
        else:
            making.left_out.append((left.view.line, f"VIEW {left.view.name}", left.why))
    if not read.tables:
        making.note(Problem(file, 0, "", "no CREATE TABLE that could be read."))


def _create_as_far_as_it_goes(making: Unfinished, table: TableSchema, file: str) -> None:
    """Makes a table; conditions and defaults that SQLite does not know are left out."""
    try:
        making.db.execute(create_table(table))
        return
    except apsw.Error as problem:
        why = (
            f"its conditions, defaults and computed columns, which SQLite does not take: {problem}"
        )
    columns = tuple(replace(one, default=None, generated=None) for one in table.columns)
    making.attempt(create_table(replace(table, columns=columns, checks=())), file, 0)
    making.left_out.append((0, f"of the table {table.name}", why))


def _fill_from_ran(making: Unfinished, read: ReadScript, ran: Sequence[RanTable]) -> None:
    """Rows as the script's own engine gave them."""
    for at, one in enumerate(ran):
        table = read.table(one.name)
        if one.path and table is not None:
            _insert_ran(making, one, table, read.dialect)
            if any(column.generated is not None for column in table.columns):
                _check_computed(making, one, table, read)
        making.report(at + 1, len(ran))


def _insert_ran(making: Unfinished, ran: RanTable, table: TableSchema, dialect: str) -> None:
    names, rows = rows_of(ran, table, dialect)
    making.db.executemany(insert_into(table.name, names), rows)


def _check_computed(
    making: Unfinished, ran: RanTable, table: TableSchema, read: ReadScript
) -> None:
    """Makes plain what SQLite computes otherwise than the script's own engine did."""
    otherwise = computed_otherwise(making.db, ran, table, read.dialect)
    if not otherwise:
        return
    columns = tuple(
        replace(one, generated=None) if one.name in otherwise else one for one in table.columns
    )
    plain = replace(table, columns=columns)
    making.db.execute(f"DROP TABLE {quoted_name(table.name)}")
    making.db.execute(create_table(plain))
    _insert_ran(making, ran, plain, read.dialect)
    for name in otherwise:
        making.left_out.append((0, f"how {table.name}.{name} is computed", COMPUTED_OTHERWISE))
