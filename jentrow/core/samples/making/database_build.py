"""Makes an SQLite file of a dataset. Runs in a worker process: a pack may come from anywhere."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Final

import apsw

from jentrow.core.errors import JentrowError
from jentrow.core.samples.csvfiles import read_header
from jentrow.core.samples.making.filling import CSVTable
from jentrow.core.samples.recipes import ColumnSource, CSVSource, Problem
from jentrow.core.samples.scripts.views import drop_unread_views
from jentrow.core.sql.text import place_of_byte, skip_blank

_REFUSED: Final = frozenset(
    {
        apsw.SQLITE_ATTACH,
        apsw.SQLITE_DETACH,
        apsw.SQLITE_CREATE_VTABLE,
        apsw.SQLITE_DROP_VTABLE,
    }
)
_PRAGMAS: Final = frozenset(
    [
        "foreign_keys",
        "encoding",
        "defer_foreign_keys",
        "table_info",
        "table_xinfo",
        "index_list",
        "index_info",
        "foreign_key_list",
        "foreign_key_check",
    ]
)
STEPS: Final = 250_000_000
"""Steps of the virtual machine in which a script has to be done."""


class BuildProblem(JentrowError):
    """Raised when a schema, a script or a CSV file does not load; the text says where."""


def build_database(
    path: str,
    schema: str,
    keep_rows: bool,
    script: str,
    tables: Sequence[tuple[str, Path]],
) -> None:
    """Writes the database file. Raises :class:`BuildProblem`."""
    db = fresh_database(path)
    try:
        if keep_rows:
            run_script(db, schema, "the schema")
        else:
            later = create_tables(db, schema)
            _fill(db, script, tables)
            for sql in later:
                run_script(db, sql, "the schema")
        if db.in_transaction:
            db.execute("COMMIT")
        for name, why in drop_unread_views(db).items():
            raise BuildProblem(f"the view {name}: {why}.")
    except JentrowError as problem:
        raise BuildProblem(str(problem)) from problem
    except apsw.Error as problem:
        raise BuildProblem(f"SQLite: {problem}") from problem
    finally:
        db.authorizer = None
        db.close(True)


def fresh_database(path: str, steps_allowed: int = STEPS) -> apsw.Connection:
    """A new database file, quick to fill, in which a script cannot reach outside of it."""
    db = apsw.Connection(path)
    db.execute("PRAGMA journal_mode = memory; PRAGMA synchronous = off; PRAGMA temp_store = memory")
    db.execute("PRAGMA foreign_keys = off")
    # A view sees what it will see wherever the file is read.
    db.config(apsw.SQLITE_DBCONFIG_TRUSTED_SCHEMA, 0)
    db.authorizer = _authorize
    steps = 0

    def on_progress() -> bool:
        nonlocal steps
        steps += 100_000
        return steps > steps_allowed

    db.set_progress_handler(on_progress, 100_000)
    return db


def _authorize(action: int, one: str | None, two: str | None, _: str | None, __: str | None) -> int:
    if action in _REFUSED:
        return apsw.SQLITE_DENY
    if action == apsw.SQLITE_PRAGMA and (one or "").lower() not in _PRAGMAS:
        return apsw.SQLITE_IGNORE  # scripts set many things that make no difference here
    if action == apsw.SQLITE_FUNCTION and (two or "").lower() == "load_extension":
        return apsw.SQLITE_DENY
    return apsw.SQLITE_OK


class StatementFails(Exception):
    """Raised where a statement of a script fails; ``line`` is the script's, from 1."""

    def __init__(self, line: int, problem: apsw.Error) -> None:
        super().__init__(str(problem))
        self.line = line


def run_statements(
    db: apsw.Connection, script: str, done: Callable[[int], None] = lambda characters: None
) -> None:
    """Runs a script of any statements; ``done`` is told how much of it has run.

    Raises :class:`StatementFails`.
    """
    start = end = 0

    def on_statement(_: object, sql: str, __: object) -> bool:
        nonlocal start, end
        start = script.find(sql, end)
        end = start + len(sql)
        done(end)
        return True

    cursor = db.cursor()
    cursor.exec_trace = on_statement
    try:
        for _ in cursor.execute(script):
            pass
    except apsw.Error as problem:
        # What was refused while it ran had begun; all else is the statement after the last.
        ran = isinstance(problem, apsw.ConstraintError | apsw.InterruptError | apsw.MismatchError)
        at = start if ran else skip_blank(script, end)
        offset = getattr(problem, "error_offset", -1)
        within = place_of_byte(script[at:], offset).line - 1 if offset >= 0 and not ran else 0
        raise StatementFails(script.count("\n", 0, at) + 1 + within, problem) from problem


def run_script(db: apsw.Connection, sql: str, what: str) -> None:
    """Runs a script of any statements. Raises :class:`BuildProblem`, naming the line."""
    try:
        run_statements(db, sql)
    except StatementFails as problem:
        if isinstance(problem.__cause__, apsw.InterruptError):
            raise BuildProblem(f"{what}: takes too long to load.") from problem
        raise BuildProblem(f"{what} does not load in line {problem.line}: {problem}.") from problem


def create_tables(db: apsw.Connection, schema: str) -> list[str]:
    """Makes the schema's tables, empty; returns what has to wait until they are filled."""
    aside = fresh_database(":memory:")
    run_script(aside, schema, "the schema")
    objects = list(
        aside.execute("SELECT type, sql FROM sqlite_schema WHERE sql IS NOT NULL ORDER BY rowid")
    )
    aside.authorizer = None
    aside.close()
    later = []
    for kind, sql in objects:
        if kind == "table" and "sqlite_sequence" not in sql[:40]:
            db.execute(sql)
        elif kind != "table":
            later.append(sql)
    return later


def _fill(db: apsw.Connection, script: str, tables: Sequence[tuple[str, Path]]) -> None:
    known = {
        name.lower(): name
        for (name,) in db.execute("SELECT name FROM sqlite_schema WHERE type = 'table'")
    }
    if script:
        run_script(db, script, "the dataset")
    if not db.in_transaction:
        db.execute("BEGIN")
    for table, path in tables:
        if table.lower() not in known:
            raise BuildProblem(
                f"{path}: the schema has no table {table!r}; it has {', '.join(known.values())}."
            )
        _insert(db, known[table.lower()], path)
    if db.in_transaction:
        db.execute("COMMIT")


def _insert(db: apsw.Connection, table: str, path: Path) -> None:
    found = db.execute("SELECT name FROM pragma_table_info(?)", (table,))
    columns = {name.lower(): name for (name,) in found}
    header = read_header(path)
    strange = [name for name in header if name.lower() not in columns]
    if strange:
        raise BuildProblem(
            f"{path}, line 1: the table has no column {strange[0]!r}; "
            f"it has {', '.join(columns.values())}."
        )

    def refuse(problem: Problem) -> None:
        column = f", {problem.column}" if problem.column else ""
        raise BuildProblem(f"{path}, line {problem.row}{column}: {problem.message}")

    filled = tuple(ColumnSource(name, columns[name.lower()]) for name in header)
    CSVTable(db, CSVSource(table, str(path), filled), refuse).fill(lambda size: None)
