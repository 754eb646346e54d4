"""A learner's own copy of a sample on DuckDB, in a worker process: here statements may change things.

Each script is one transaction on a file of its own, which takes the copy's place when all of it is
done and has room: where a statement fails, or the process ends, the copy is as it was.
"""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any, Final

import duckdb

from jentrow.core.engines.answers import Stop, bounded_size
from jentrow.core.engines.copies import (
    SHOWN_ROWS,
    CopyAnswer,
    CopyPage,
    StatementAnswer,
    done,
    failed_copy,
    statement_done,
)
from jentrow.core.engines.duckdb.connection import Watch, opened
from jentrow.core.engines.duckdb.policy import refused_function
from jentrow.core.engines.duckdb.problems import rejected
from jentrow.core.engines.duckdb.values import readers_of
from jentrow.core.engines.limits import Limits
from jentrow.core.errors import UnusableInput
from jentrow.core.results import Column
from jentrow.core.samples.schema import ColumnSchema, CountedTable, ForeignKey, TableSchema
from jentrow.core.shownrows import json_rows, shown_rows
from jentrow.core.sql.text import quoted_name
from jentrow.core.sql.tokens import statements_in, tokens_of

LOOKING_BYTES: Final = 256 << 20
LOOKING_SECONDS: Final = 2.0
PORTION: Final = 1_000

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


class _Refused(Exception):
    """Raised where a statement is of a kind that nobody may run; ``args`` say which."""


class CopyRun:
    """One script on a copy, within its bounds."""

    def __init__(self, file: Path, limits: Limits, watch: Watch) -> None:
        self._db = opened(str(file), limits.memory_mb << 20, writing=True)
        self._limits, self._watch = limits, watch
        self._at = (1, 0, 0)
        self._size = 0
        self._rows = 0

    def run(self, script: str) -> CopyAnswer:
        """Runs a script as one transaction; nothing of it is done where it fails."""
        said: list[StatementAnswer] = []
        statement = ""
        self._watch.begin(self._db, self._limits.seconds)
        try:
            self._db.execute("BEGIN")
            for number, tokens in enumerate(statements_in(script, "duckdb"), 1):
                self._at = (number, tokens[0].start, tokens[-1].end)
                statement = script[tokens[0].start : tokens[-1].end]
                said.append(self._done(statement))
            if not said:
                return failed_copy("error", "sql.syntax", "", self._at, "empty")
            self._db.execute("COMMIT")
        except _Refused as refused:
            return self._undone("refused", "", "", refused.args[0])
        except Stop as stop:
            return self._undone("stopped", stop.code, "")
        except duckdb.InterruptException:
            return self._undone("stopped", "limit.time", "")
        except (duckdb.OutOfMemoryException, MemoryError) as problem:
            return self._undone("stopped", "limit.memory", str(problem))
        except duckdb.Error as problem:
            verdict, _, words, index, detail = rejected(problem, statement)[1:]
            if verdict == "refused":
                return self._undone("refused", "", words, "other file")
            offset = len(statement[:index].encode()) if index >= 0 else -1
            return self._undone("error", "", words, detail, offset)
        except (OverflowError, ValueError) as beyond:  # a value that Python has no type for
            return self._undone("error", "sql.runtime", str(beyond))
        finally:
            self._watch.end()
        return done(said)

    def _done(self, sql: str) -> StatementAnswer:
        kind = self._kind(sql)
        result = self._db.execute(sql)
        names = [column[0] for column in result.description or ()]
        types = [str(column[1]) for column in result.description or ()]
        rows = self._fetched(result, types)
        counts = kind in _COUNTING and (names, types) == (["Count"], ["BIGINT"])
        if kind in ("DROP", "ALTER"):
            return statement_done(sql, None, 0)
        if counts and "RETURNING" not in {token.word for token in tokens_of(sql, "duckdb")}:
            made = kind == "CREATE"  # of rows that a new table begins with, nobody asks
            return statement_done(sql, None, 0 if made or not rows else int(rows[0][0]))
        view = shown_rows(tuple(map(Column, names)), rows, SHOWN_ROWS)
        return statement_done(sql, view, len(rows) if kind in _COUNTING else 0)

    def _kind(self, sql: str) -> str:
        """What a statement is. Raises :class:`_Refused` where nobody may run it."""
        kinds = [one.type.name for one in duckdb.extract_statements(sql)]
        for kind in kinds:
            if kind not in _CHANGES:
                raise _Refused(_REFUSED.get(kind, "this"))
        if refused_function(sql) is not None:
            raise _Refused("function")
        words = [token.word for token in tokens_of(sql, "duckdb")[:5]]
        if words[0] == "CREATE" and "SECRET" in words:
            raise _Refused("other file")
        return kinds[0]

    def _fetched(self, result: duckdb.DuckDBPyConnection, types: list[str]) -> list[Any]:
        readers = readers_of(tuple(types))
        rows: list[Any] = []
        while portion := result.fetchmany(PORTION):
            for at, read in readers:
                portion = [(*row[:at], read(row[at]), *row[at + 1 :]) for row in portion]
            rows += portion
            self._rows += len(portion)
            self._size += sum(map(bounded_size, portion))
            if self._rows > self._limits.rows:
                raise Stop("limit.rows")
            if self._size > self._limits.result_bytes:
                raise Stop("limit.memory")
        return rows

    def _undone(
        self, verdict: str, code: str, words: str, detail: str = "", offset: int = -1
    ) -> CopyAnswer:
        # Whatever comes now is not the script's: it is interrupted no more.
        self._watch.end()
        columns: list[tuple[str, list[str]]] = []
        with suppress(duckdb.Error):  # they are for words about names only
            self._db.execute("ROLLBACK")
            columns = [
                (one.name, [column.name for column in one.columns]) for one in schema_of(self._db)
            ]
        return failed_copy(verdict, code, words, self._at, detail, columns, offset)

    def close(self) -> None:
        """Closes the file: what was done is written into it."""
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
        return [
            CountedTable(table, None if table.kind == "view" else _count(db, table))
            for table in schema_of(db)
        ]


def copy_rows(copy: str, name: str, offset: int, limit: int, watch: Watch) -> CopyPage | None:
    """Rows of a table, as they are shown, and how many there are; None without such a table."""
    with _reading(copy, watch) as db:
        for table in schema_of(db):
            if table.name == name and table.kind != "view":
                found = db.execute(
                    f"SELECT * FROM {quoted_name(name)} LIMIT {int(limit)} OFFSET {int(offset)}"
                )
                readers = readers_of(tuple(str(one[1]) for one in found.description or ()))
                rows = found.fetchall()
                for at, read in readers:
                    rows = [(*row[:at], read(row[at]), *row[at + 1 :]) for row in rows]
                return list(json_rows(rows)), _count(db, table)
    return None


def _count(db: duckdb.DuckDBPyConnection, table: TableSchema) -> int:
    ((count,),) = db.execute(f"SELECT count(*) FROM {quoted_name(table.name)}").fetchall()
    return int(count)


@contextmanager
def _reading(copy: str, watch: Watch) -> Iterator[duckdb.DuckDBPyConnection]:
    try:
        db = opened(copy, LOOKING_BYTES)
    except duckdb.Error as problem:
        raise UnusableInput(_words(problem)) from problem
    watch.begin(db, LOOKING_SECONDS)
    try:
        yield db
    except duckdb.Error as problem:
        raise UnusableInput(_words(problem)) from problem
    except (OverflowError, ValueError) as beyond:  # a value that Python has no type for
        raise UnusableInput(str(beyond)) from beyond
    finally:
        watch.end()
        db.close()


def _words(problem: duckdb.Error) -> str:
    return str(rejected(problem, "")[3]).split("\n")[0].rstrip(".!")


def schema_of(db: duckdb.DuckDBPyConnection) -> list[TableSchema]:
    """The tables and views of a file, with what constrains their rows."""
    columns: dict[str, list[ColumnSchema]] = {}
    for table, name, type, is_nullable, default in db.execute(
        "SELECT table_name, column_name, data_type, is_nullable, column_default "
        "FROM duckdb_columns() WHERE NOT internal ORDER BY table_oid, column_index"
    ).fetchall():
        columns.setdefault(table, []).append(
            ColumnSchema(name, type, not_null=not is_nullable, default=default)
        )
    keys: dict[tuple[str, str], list[tuple[Any, ...]]] = {}
    for table, kind, *rest in db.execute(
        "SELECT table_name, constraint_type, constraint_column_names, expression, "
        "referenced_table, referenced_column_names FROM duckdb_constraints() "
        "ORDER BY table_oid, constraint_index"
    ).fetchall():
        keys.setdefault((table, kind), []).append(tuple(rest))
    views = {
        name
        for (name,) in db.execute(
            "SELECT view_name FROM duckdb_views() WHERE NOT internal"
        ).fetchall()
    }
    return [
        TableSchema(
            name,
            tuple(own),
            "view" if name in views else "table",
            primary_key=next((tuple(one[0]) for one in keys.get((name, "PRIMARY KEY"), ())), ()),
            uniques=tuple(tuple(one[0]) for one in keys.get((name, "UNIQUE"), ())),
            foreign_keys=tuple(
                ForeignKey(tuple(one[0]), one[2], tuple(one[3]))
                for one in keys.get((name, "FOREIGN KEY"), ())
            ),
            checks=tuple(one[1] for one in keys.get((name, "CHECK"), ())),
        )
        for name, own in columns.items()
    ]
