"""A learner's own copy of a sample on DuckDB, in a worker process: here statements may change things.

Each script is one transaction on a file of its own, which takes the copy's place when all of it is
done and has room: where a statement fails, or the process ends, the copy is as it was.
"""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Final

import duckdb

from jentrow.core.engines.copies.script import CopyScript, RefusedChange
from jentrow.core.engines.copy_answers import (
    SHOWN_ROWS,
    CopyAnswer,
    CopyPage,
    StatementAnswer,
    failed_copy,
    statement_done,
)
from jentrow.core.engines.duckdb.connection import Watch, opened
from jentrow.core.engines.duckdb.policy import refused_function
from jentrow.core.engines.duckdb.problems import rejected, words_of
from jentrow.core.engines.duckdb.tables import count_rows, counted_tables, schema_of
from jentrow.core.engines.duckdb.values import Executed, Fetching
from jentrow.core.engines.limits import Limits
from jentrow.core.errors import UnusableInput
from jentrow.core.results import Column
from jentrow.core.samples.schema.tables import CountedTable, TableSchema
from jentrow.core.shownrows import json_rows, shown_rows
from jentrow.core.sql.text import quoted_name
from jentrow.core.sql.tokens import tokens_of

LOOKING: Final = Limits(seconds=2.0)
"""What looking at a copy may use."""

_CHANGES: Final = frozenset(
    {"SELECT", "INSERT", "UPDATE", "DELETE", "MERGE_INTO", "CREATE", "DROP", "ALTER"}
)
_COUNTING: Final = frozenset({"INSERT", "UPDATE", "DELETE", "MERGE_INTO", "CREATE"})
"""Statements that answer with how many rows they changed, unless they return rows."""

_REFUSED: Final = {
    "TRANSACTION": "transaction",
    "PRAGMA": "setting",
    "SET": "setting",
    "VARIABLE_SET": "setting",
    "ATTACH": "other file",
    "DETACH": "other file",
    "COPY": "other file",
    "COPY_DATABASE": "other file",
    "EXPORT": "other file",
    "LOAD": "other file",
}


class CopyRun(CopyScript):
    """One script on a copy: one transaction."""

    dialect = "duckdb"
    # Some are raised for a value that Python has no type for.
    problems = (duckdb.Error, MemoryError, OverflowError, ValueError)

    def __init__(self, file: Path, limits: Limits, watch: Watch) -> None:
        super().__init__()
        self._db = opened(str(file), limits.memory_mb << 20, writing=True)
        self._limits, self._watch = limits, watch
        self._fetching = Fetching(limits)

    def _begin(self, statements: list[str]) -> None:
        self._watch.begin(self._db, self._limits.seconds)
        self._db.execute("BEGIN")

    def _keep(self) -> None:
        self._db.execute("COMMIT")
        self._watch.end()

    def _told(self, problem: Exception, statement: str) -> tuple[str, str, str, str, int]:
        if isinstance(problem, duckdb.InterruptException):
            return "stopped", "limit.time", "", "", -1
        if isinstance(problem, duckdb.OutOfMemoryException | MemoryError):
            return "stopped", "limit.memory", str(problem), "", -1
        if not isinstance(problem, duckdb.Error):
            return "error", "sql.runtime", str(problem), "", -1
        verdict, _, words, index, detail = rejected(problem, statement)[1:]
        if verdict == "refused":
            return "refused", "", words, "other file", -1
        offset = len(statement[:index].encode()) if index >= 0 else -1
        return "error", "", words, detail, offset

    def _done(self, sql: str) -> StatementAnswer:
        kind = self._kind(sql)
        executed = Executed(self._db, sql, reads=kind == "SELECT")
        names = executed.names
        rows = self._fetching.rows(executed)
        counts = kind in _COUNTING and (names, executed.types) == (("Count",), ("BIGINT",))
        if kind in ("DROP", "ALTER"):
            return statement_done(sql, None, 0)
        if counts and "RETURNING" not in {token.word for token in tokens_of(sql, "duckdb")}:
            made = kind == "CREATE"  # of rows that a new table begins with, nobody asks
            return statement_done(sql, None, 0 if made or not rows else int(rows[0][0]))
        view = shown_rows(tuple(map(Column, names)), rows, SHOWN_ROWS)
        return statement_done(sql, view, len(rows) if kind in _COUNTING else 0)

    def _kind(self, sql: str) -> str:
        """What a statement is. Raises :class:`RefusedChange` where nobody may run it."""
        kinds = [one.type.name for one in duckdb.extract_statements(sql)]
        for kind in kinds:
            if kind not in _CHANGES:
                raise RefusedChange(_REFUSED.get(kind, "this"))
        if refused_function(sql) is not None:
            raise RefusedChange("function")
        words = [token.word for token in tokens_of(sql, "duckdb")[:5]]
        if words[0] == "CREATE" and "SECRET" in words:
            raise RefusedChange("other file")
        return kinds[0]

    def _undo(self) -> list[TableSchema]:
        # Whatever comes now is not the script's: it is interrupted no more.
        self._watch.end()
        with suppress(duckdb.Error):  # they are for words about names only
            self._db.execute("ROLLBACK")
            return schema_of(self._db)
        return []

    def close(self) -> None:
        """Closes the file: what was done is written into it."""
        self._watch.end()
        self._db.close()


def run_on_copy(
    copy: str, script: str, limits: Limits, most_bytes: int, watch: Watch
) -> CopyAnswer:
    """Runs a script on a copy; see :class:`CopyRun`."""
    path = Path(copy)
    if not path.is_file():
        return failed_copy("error", "sql.runtime", "", (1, 0, 0), "gone")
    work = path.with_name(f"{path.name}.work")
    shutil.copyfile(path, work)
    try:
        try:
            run = CopyRun(work, limits, watch)
        except duckdb.Error:  # no file that it can read any more
            return failed_copy("error", "sql.runtime", "", (1, 0, 0), "gone")
        try:
            answer = run.run(script)
        finally:
            run.close()
        if answer[0] == "done":
            if work.stat().st_size > most_bytes:
                return failed_copy("stopped", "limit.memory", "", (0, 0, 0), "full")
            work.replace(path)
        return answer
    finally:
        for left in path.parent.glob(f"{work.name}*"):
            left.unlink(missing_ok=True)


# looking


def copy_tables(copy: str, watch: Watch) -> list[CountedTable]:
    """The tables of a copy, with their rows counted."""
    with _reading(copy, watch) as db:
        return counted_tables(db)


def copy_rows(copy: str, name: str, offset: int, limit: int, watch: Watch) -> CopyPage | None:
    """Rows of a table, as they are shown, and how many there are; None without such a table."""
    with _reading(copy, watch) as db:
        if all(one.name != name or one.kind == "view" for one in schema_of(db)):
            return None
        page = f"SELECT * FROM {quoted_name(name)} LIMIT {int(limit)} OFFSET {int(offset)}"
        return list(json_rows(Executed(db, page).rows())), count_rows(db, name)


@contextmanager
def _reading(copy: str, watch: Watch) -> Iterator[duckdb.DuckDBPyConnection]:
    try:
        db = opened(copy, LOOKING.memory_mb << 20)
    except duckdb.Error as problem:
        raise UnusableInput(words_of(problem)) from problem
    watch.begin(db, LOOKING.seconds)
    try:
        yield db
    except duckdb.Error as problem:
        raise UnusableInput(words_of(problem)) from problem
    except (OverflowError, ValueError) as beyond:  # a value that Python has no type for
        raise UnusableInput(str(beyond)) from beyond
    finally:
        watch.end()
        db.close()
