"""The process in which untrusted SQL meets SQLite. Nothing of the server runs here.

The parent sends frames over a socket, this process answers: see :func:`serve`. Frames are
``marshal``, not ``pickle``: reading one cannot run code, whatever a broken process may send.
"""

from __future__ import annotations

import marshal
import resource
import sys
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from functools import partial
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, Final, TypeVar

import apsw

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Judges, LoadedDataset, QueryOutcome, Run
from jentrow.core.engines.sqlite.hardening import REFUSED_FUNCTIONS, STEPS_BETWEEN_CHECKS, harden
from jentrow.core.engines.sqlite.outcomes import outcome_of, stopped, unusable
from jentrow.core.engines.sqlite.private_copy import run_on_copy
from jentrow.core.processes.bounds import (
    bound_memory,
    leave_with_parent,
    take_as_baseline,
    unbound_memory,
)
from jentrow.core.processes.crossing import packed, unpacked
from jentrow.core.results import Column
from jentrow.core.samples.database_build import BuildProblem, build_database
from jentrow.core.shownrows import shown_rows
from jentrow.core.sql.text import first_word, is_blank, quoted_name

OPEN_DATABASES: Final = 8
FLUSH_SECONDS: Final = 0.02
FLUSH_ANSWERS: Final = 64

READING_WORDS: Final = frozenset({"SELECT", "WITH", "VALUES"})
OTHER_STATEMENTS: Final = frozenset(
    [
        "ALTER",
        "ANALYZE",
        "ATTACH",
        "BEGIN",
        "CALL",
        "COMMIT",
        "COPY",
        "CREATE",
        "DELETE",
        "DESC",
        "DESCRIBE",
        "DETACH",
        "DO",
        "DROP",
        "END",
        "EXEC",
        "EXECUTE",
        "EXPLAIN",
        "GRANT",
        "INSERT",
        "KILL",
        "LOAD",
        "LOCK",
        "MERGE",
        "PRAGMA",
        "REINDEX",
        "RELEASE",
        "RENAME",
        "REPLACE",
        "REVOKE",
        "ROLLBACK",
        "SAVEPOINT",
        "SET",
        "SHOW",
        "TRUNCATE",
        "UPDATE",
        "USE",
        "VACUUM",
    ]
)
"""Words that begin a statement which is not a query, in SQLite or in another dialect."""

_TABLE_FUNCTIONS: Final = frozenset({"json_each", "json_tree", "generate_series"})
_CATALOGUE_PRAGMAS: Final = frozenset(
    [
        "table_info",
        "table_xinfo",
        "table_list",
        "index_list",
        "index_info",
        "index_xinfo",
        "foreign_key_list",
    ]
)
_CATALOGUE_TABLES: Final = frozenset({"sqlite_master", "sqlite_schema"})
_REFUSED_FUNCTIONS: Final = REFUSED_FUNCTIONS | {
    "sqlite_compileoption_get",
    "sqlite_compileoption_used",
    "sqlite_source_id",
}

CHECKING_BYTES: Final = 2**30

_Sent = TypeVar("_Sent")

Answer = tuple[Any, ...]
"""``("rows", names, rows)`` or ``("failed", verdict, code, engine's words, byte offset, detail)``."""


class _Stop(Exception):
    """Raised inside the fetch loop when a bound is passed."""

    def __init__(self, code: str) -> None:
        super().__init__(code)
        self.code = code


class Sandbox:
    """One database, open for reading and nothing else."""

    def __init__(self, path: str) -> None:
        uri = f"file:{path}?immutable=1&mode=ro"
        self._db = apsw.Connection(
            uri, flags=apsw.SQLITE_OPEN_READONLY | apsw.SQLITE_OPEN_URI, statementcachesize=0
        )
        harden(self._db)
        self._db.execute("PRAGMA query_only = on")
        names = self._db.execute("SELECT lower(name) FROM sqlite_schema WHERE type != 'index'")
        self._tables = frozenset(name for (name,) in names) | _CATALOGUE_TABLES
        modules = self._db.execute("SELECT lower(name) FROM pragma_module_list")
        self._modules = frozenset(name for (name,) in modules)
        self._denied: tuple[str, str] | None = None
        self._steps_left = 0
        self._began = False
        self._names: tuple[str, ...] = ()
        self._sources: tuple[str, ...] = ()
        self._rest = ""
        self._db.authorizer = self._authorize
        self._db.set_progress_handler(self._on_progress, STEPS_BETWEEN_CHECKS)

    def run(self, sql: str, steps: int, rows: int, result_bytes: int, value_bytes: int) -> Answer:
        """Runs one query within its bounds."""
        if is_blank(sql):
            return _failed("error", "sql.syntax", "", detail="empty")
        word = first_word(sql)
        if word in OTHER_STATEMENTS:
            return _failed("refused", "policy.statement", "", detail=word)
        self._db.limit(apsw.SQLITE_LIMIT_LENGTH, max(value_bytes, len(sql) * 4 + 1000))
        self._denied, self._steps_left, self._began = None, steps, False
        self._names, self._rest = (), sql
        cursor = self._db.cursor()
        cursor.exec_trace = self._on_statement
        try:
            fetched = self._fetch(cursor.execute(sql), rows, result_bytes)
        except _Stop as stop:
            verdict = "refused" if stop.code.startswith("policy") else "stopped"
            return _failed(verdict, stop.code, "", detail="several" if verdict == "refused" else "")
        except apsw.InterruptError:
            return _failed("stopped", "limit.time", "")
        except (apsw.NoMemError, apsw.TooBigError, MemoryError) as problem:
            if "parser stack" in str(problem):
                return _failed("error", "sql.runtime", str(problem))
            return _failed("stopped", "limit.memory", "")
        except UnicodeDecodeError:
            return _failed("error", "sql.runtime", "", detail="not_utf8")
        except apsw.Error as problem:
            return self._rejected(problem)
        finally:
            cursor.close(True)
        return ("rows", self._names, fetched)

    def _fetch(self, cursor: apsw.Cursor, rows: int, result_bytes: int) -> list[Any]:
        """The rows, up to the bounds. Sizes are looked at in portions, as rows come."""
        fetched: list[Any] = []
        size = 0
        while True:
            portion = []
            for row in cursor:
                portion.append(row)
                if len(portion) == 1000:
                    break
            fetched += portion
            if len(fetched) > rows:
                raise _Stop("limit.rows")
            size += sum(
                len(value) for row in portion for value in row if value.__class__ in (str, bytes)
            )
            if size > result_bytes:
                raise _Stop("limit.memory")
            if len(portion) < 1000:
                return fetched

    def _on_statement(self, cursor: apsw.Cursor, sql: str, _: object) -> bool:
        """Called before each statement: notes the columns, and refuses what is not one query."""
        if not cursor.has_vdbe:
            return True
        if self._began or not cursor.is_readonly or cursor.is_explain:
            raise _Stop("policy.statement")
        self._began = True
        # Everything after the first statement must be blank, and that is known before it runs.
        self._rest = self._rest[self._rest.index(sql) + len(sql) :]
        if not is_blank(self._rest):
            raise _Stop("policy.statement")
        self._names = tuple(column[0] for column in cursor.get_description())
        self._sources = tuple(column[3] or "" for column in cursor.description_full)
        return True

    def told_names(self) -> tuple[str, ...]:
        """The columns of the last query as people tell them apart.

        Where several have one name, each stands with the table that it comes from.
        """
        times = Counter(name.lower() for name in self._names)
        return tuple(
            f"{source}.{name}" if source and times[name.lower()] > 1 else name
            for name, source in zip(self._names, self._sources, strict=True)
        )

    def _on_progress(self) -> bool:
        self._steps_left -= STEPS_BETWEEN_CHECKS
        return self._steps_left < 0

    def _authorize(
        self, action: int, one: str | None, two: str | None, base: str | None, _: str | None
    ) -> int:
        allowed = False
        if action in (apsw.SQLITE_SELECT, apsw.SQLITE_RECURSIVE):
            allowed = True
        elif action == apsw.SQLITE_READ:
            allowed = self._may_read((one or "").lower(), two or "", base)
        elif action == apsw.SQLITE_PRAGMA:
            # Reached through pragma_…() in a query only: a PRAGMA statement was refused before.
            allowed = (one or "").lower() in _CATALOGUE_PRAGMAS
        elif action == apsw.SQLITE_FUNCTION:
            allowed = (two or "").lower() not in _REFUSED_FUNCTIONS
            if not allowed:
                self._denied = ("policy.function", two or "")
        if not allowed and self._denied is None:
            kind = "table" if action == apsw.SQLITE_READ else "statement"
            self._denied = ("policy.statement", (one or "") if kind == "table" else "")
        return apsw.SQLITE_OK if allowed else apsw.SQLITE_DENY

    def _may_read(self, name: str, column: str, base: str | None) -> bool:
        if base not in (None, "main"):
            return False
        if name in _TABLE_FUNCTIONS or name in self._tables:
            return True
        if name.startswith("pragma_"):
            return name[7:] in _CATALOGUE_PRAGMAS
        # A count over a CTE or a subquery asks for its name and no column.
        return not column and name not in self._modules

    def _rejected(self, problem: apsw.Error) -> Answer:
        if self._denied is not None:
            code, name = self._denied
            return _failed("refused", code, str(problem), detail=name)
        offset = getattr(problem, "error_offset", -1)
        return _failed("error", "", str(problem), offset)

    def tables(self) -> list[tuple[str, list[str], int | None]]:
        """Each table's and view's name, columns, and how many rows a table has."""
        self._steps_left = sys.maxsize
        found = self._db.execute(
            "SELECT name, type FROM sqlite_schema WHERE type IN ('table', 'view') "
            "AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY rowid"
        )
        tables: list[tuple[str, list[str], int | None]] = []
        for name, kind in list(found):
            columns = self._db.execute("SELECT name FROM pragma_table_info(?)", (name,))
            rows = None
            if kind == "table":
                (rows,) = next(self._db.execute(f"SELECT count(*) FROM {quoted_name(name)}"))
            tables.append((name, [column for (column,) in columns], rows))
        return tables

    def close(self) -> None:
        """Closes the database."""
        self._db.close(True)


def _failed(verdict: str, code: str, words: str, offset: int = -1, detail: str = "") -> Answer:
    return ("failed", verdict, code, words, offset, detail)


class _Databases:
    """The databases that were asked for last, open."""

    def __init__(self) -> None:
        self._open: dict[str, Sandbox] = {}

    def get(self, path: str) -> Sandbox:
        sandbox = self._open.pop(path, None) or Sandbox(path)
        self._open[path] = sandbox
        while len(self._open) > OPEN_DATABASES:
            self._open.pop(next(iter(self._open))).close()
        return sandbox

    def run(self, dataset: LoadedDataset, sql: str, limits: Limits) -> QueryOutcome:
        """Runs one query of a judge's."""
        if problem := unusable(sql):
            return problem
        try:
            answer = self.get(dataset.location).run(
                sql, limits.steps, limits.rows, limits.result_bytes, limits.value_bytes
            )
        except MemoryError:
            return stopped("limit.memory", limits)
        return outcome_of(answer, sql, dataset, limits)


def serve(pipe: Connection, make_judge: Callable[[Run], Judges]) -> None:
    """Answers frames until the parent goes away. ``make_judge`` gives what answers are judged by.

    ``("query", path, queries, memory bytes, steps, rows, result bytes, value bytes)`` is answered
    by lists of answers, in order, one for each query; ``("judge", measure, texts, memory bytes,
    how)`` likewise; ``("build", parts…)`` and the others by one list.
    """
    databases = _Databases()
    judge = make_judge(databases.run)

    answering: dict[str, Callable[..., Iterator[Answer | bytes | str]]] = {
        "query": partial(_run_all, databases),
        "show": partial(_show, databases),
        "judge": lambda *parts: _judge(judge, *parts),
        "check": lambda path: _check(judge, path),
        **_ANSWERS,
    }
    while True:
        try:
            kind, *parts = marshal.loads(pipe.recv_bytes())
        except EOFError:
            return
        answers = answering[kind](*parts)
        for portion in _in_portions(answers):
            pipe.send_bytes(marshal.dumps(portion))


def _in_portions(answers: Iterator[_Sent]) -> Iterator[list[_Sent]]:
    """Gathers quick answers into one frame; an answer never waits long for the next."""
    waiting: list[_Sent] = []
    since = time.monotonic()
    for answer in answers:
        waiting.append(answer)
        now = time.monotonic()
        if len(waiting) >= FLUSH_ANSWERS or now - since > FLUSH_SECONDS:
            yield waiting
            waiting, since = [], now
    if waiting:
        yield waiting


def _run_all(
    databases: _Databases, path: str, queries: list[str], memory: int, *bounds: int
) -> Iterator[Answer]:
    _bound(memory)
    for sql in queries:
        try:
            yield databases.get(path).run(sql, *bounds)
        except MemoryError:
            yield _failed("stopped", "limit.memory", "")


def _show(
    databases: _Databases, path: str, sql: str, most: int, memory: int, *bounds: int
) -> Iterator[Answer]:
    (answer,) = _run_all(databases, path, [sql], memory, *bounds)
    if answer[0] == "rows":
        names = databases.get(path).told_names()
        answer = ("shown", packed(shown_rows(tuple(map(Column, names)), answer[2], most)))
    yield answer


def _judge(judge: Judges, path: str, texts: list[str], memory: int, how: bytes) -> Iterator[bytes]:
    _take_up(judge, path)
    _bound(memory)
    return judge.answers(path, texts, unpacked(how))


def _check(judge: Judges, path: str) -> Iterator[str]:
    _take_up(judge, path)
    _bound(CHECKING_BYTES)
    try:
        yield judge.check(path)
    except MemoryError:
        yield "The reference answer's result is too large to be compared."


def _take_up(judge: Judges, path: str) -> None:
    """Loads a measure; what the process holds from then on is no query's doing."""
    unbound_memory()
    if judge.take_up(path):
        take_as_baseline()


def _build(path: str, schema: str, keep_rows: bool, script: str, tables: list[list[str]]) -> Any:
    _bound(4 * 2**30)
    try:
        build_database(path, schema, keep_rows, script, [(name, Path(at)) for name, at in tables])
    except BuildProblem as problem:
        yield ("invalid", str(problem))
        return
    sandbox = Sandbox(path)
    yield ("built", sandbox.tables())
    sandbox.close()


def _look(path: str) -> Any:
    _bound(256 * 2**20)
    sandbox = Sandbox(path)
    yield ("built", sandbox.tables())
    sandbox.close()


def _change(path: str, script: str, memory: int, *bounds: int) -> Any:
    _bound(memory)
    try:
        yield run_on_copy(path, script, *bounds)
    except MemoryError:
        yield _failed("stopped", "limit.memory", "")


_ANSWERS: Final[dict[str, Callable[..., Iterator[Answer]]]] = {
    "build": _build,
    "look": _look,
    "change": _change,
}


def run_process(descriptor: int, make_judge: Callable[[Run], Judges]) -> None:
    """The process: one socket to the parent, no writing of files, until the parent goes away."""
    threading.Thread(target=leave_with_parent, daemon=True).start()
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    serve(Connection(descriptor), make_judge)


def _bound(memory: int) -> None:
    """Bounds SQLite's heap (in bytes), and the process above it."""
    apsw.hard_heap_limit(memory)
    bound_memory(memory)
