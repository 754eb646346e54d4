"""Makes the file of a new dataset from CSV files, a script, or an SQLite file.

Runs in a process of its own (:mod:`jentrow.core.samples.making.worker`), which can be stopped at
any moment: what it makes counts only once it is whole.
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

import apsw

from jentrow.core.errors import JentrowError, UnusableInput
from jentrow.core.samples.making.database_build import BuildProblem
from jentrow.core.samples.making.database_copy import copy_database
from jentrow.core.samples.making.filling import CSVTable
from jentrow.core.samples.making.script_run import run_script
from jentrow.core.samples.making.unfinished import CannotMake, Report, Unfinished
from jentrow.core.samples.recipes import CSVSource, Made, Problem, Recipe
from jentrow.core.samples.schema.problems import name_problem
from jentrow.core.samples.schema.schema_text import schema_text
from jentrow.core.samples.schema.tables import TableSchema, read_schema
from jentrow.core.samples.scripts.views import drop_unread_views
from jentrow.core.sql.text import quoted_name


def make_dataset(recipe: Recipe, target: Path, report: Report) -> Made:
    """Writes the dataset's database file. Raises :class:`CannotMake`; the file is then of no use.

    Foreign keys that rows break are told in the notes: whoever makes a sample may want such rows.
    """
    making = Unfinished(target, report)
    try:
        _fill(making, recipe)
        making.raise_problems()
        if making.db.in_transaction:
            making.db.execute("COMMIT")
        return _finish(making)
    finally:
        making.close()


def _fill(making: Unfinished, recipe: Recipe) -> None:
    try:
        match recipe.kind:
            case "tables":
                later = making.create(recipe.schema)
                _fill_from_csv(making, recipe.csv)
                making.make_later(later)
            case "script":
                run_script(making, recipe)
            case "database":
                copy_database(making, recipe)
    except (BuildProblem, UnusableInput) as problem:
        making.note(Problem("", 0, "", str(problem)))
    except apsw.Error as problem:
        making.note(Problem("", 0, "", f"SQLite: {problem}."))


def _fill_from_csv(making: Unfinished, sources: Sequence[CSVSource]) -> None:
    total = sum(os.path.getsize(source.path) for source in sources)
    before = 0
    for source in sources:
        size = os.path.getsize(source.path)
        try:
            CSVTable(making.db, source, making.note).fill(
                lambda done, before=before: making.report(before + done, total)  # type: ignore[misc]
            )
        except JentrowError as problem:
            said = str(problem).replace(source.path, Path(source.path).name)
            making.note(Problem(Path(source.path).name, 0, "", said))
        before += size


def _finish(making: Unfinished) -> Made:
    for name, why in drop_unread_views(making.db).items():
        making.left_out.append((0, f"VIEW {name}", why))
    tables = read_schema(making.db)
    if not any(table.kind == "table" for table in tables):
        raise CannotMake([Problem("", 0, "", "there is no table in it.")])
    for table in tables:
        if said := name_problem(table.name):
            making.note(Problem("", 0, "", f"the table {table.name!r}: {said}."))
        _refuse_empty_keys(making, table)
    making.raise_problems()
    _tell_broken_keys(making)
    rows = tuple(
        (
            table.name,
            next(making.db.execute(f"SELECT count(*) FROM {quoted_name(table.name)}"))[0],
        )
        for table in tables
        if table.kind == "table"
    )
    return Made(
        schema_text(making.db),
        rows,
        tuple(making.notes),
        tuple(making.left_out),
        making.table_notes,
    )


def _refuse_empty_keys(making: Unfinished, table: TableSchema) -> None:
    """A key column that is NULL names no row, though SQLite lets it pass."""
    for name in table.primary_key:
        found = list(
            making.db.execute(
                f"SELECT {table.row_name} FROM {quoted_name(table.name)} "
                f"WHERE {quoted_name(name)} IS NULL LIMIT 1"
            )
        )
        if found:
            making.note(
                Problem("", 0, name, f"{table.name}: the key is NULL in row {found[0][0]}.")
            )


def _tell_broken_keys(making: Unfinished) -> None:
    broken: dict[tuple[str, str], list[int]] = {}
    try:
        for table, row, parent, _ in making.db.execute("PRAGMA foreign_key_check"):
            broken.setdefault((table, parent), []).append(row)
    except apsw.Error as problem:
        making.note(Problem("the schema", 0, "", f"a foreign key cannot be checked: {problem}."))
    for (table, parent), rows in broken.items():
        count = len(rows)
        what = "1 row" if count == 1 else f"{count} rows"
        making.notes.append(
            f"{what} of {table} refer to a row of {parent} that is not there "
            f"(first: row {rows[0]})."
        )
    making.raise_problems()
