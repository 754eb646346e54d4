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

from jentrow.core.engines.answers import Stop
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
from jentrow.core.engines.duckdb.problems import rejected, words_of
from jentrow.core.engines.duckdb.tables import count_rows, counted_tables, schema_of
from jentrow.core.engines.duckdb.values import Fetching, described, portions
from jentrow.core.engines.limits import Limits
from jentrow.core.errors import UnusableInput
from jentrow.core.results import Column
from jentrow.core.samples.schema import CountedTable
from jentrow.core.shownrows import json_rows, shown_rows
from jentrow.core.sql.text import quoted_name
from jentrow.core.sql.tokens import statements_in, tokens_of

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


class _Refused(Exception):
    """Raised where a statement is of a kind that nobody may run; ``args`` say which."""


class CopyRun:
    """One script on a copy, within its bounds."""

    def __init__(self, file: Path, limits: Limits, watch: Watch) -> None:
        self._db = opened(str(file), limits.memory_mb << 20, writing=True)
        self._limits, self._watch = limits, watch
        self._at = (1, 0, 0)
        self._fetching = Fetching(limits)

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
        names, types = described(result)
        rows = self._fetching.rows(result, types)
        counts = kind in _COUNTING and (names, types) == (("Count",), ("BIGINT",))
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
        return counted_tables(db)


def copy_rows(copy: str, name: str, offset: int, limit: int, watch: Watch) -> CopyPage | None:
    """Rows of a table, as they are shown, and how many there are; None without such a table."""
    with _reading(copy, watch) as db:
        if all(one.name != name or one.kind == "view" for one in schema_of(db)):
            return None
        found = db.execute(
            f"SELECT * FROM {quoted_name(name)} LIMIT {int(limit)} OFFSET {int(offset)}"
        )
        rows = [row for portion in portions(found, described(found)[1]) for row in portion]
        return list(json_rows(rows)), count_rows(db, name)


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
