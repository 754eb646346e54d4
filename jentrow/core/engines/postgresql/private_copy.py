"""A learner's own copy of a sample on a PostgreSQL server: a schema whose login may change it.

The login owns its schema and reaches nothing else. Each script is one transaction, with a
connection of its own: where a statement fails, or the connection goes, the copy is as it was.
"""

from __future__ import annotations

import re
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from typing import Any, Final

import psycopg
from psycopg import sql as text
from psycopg.errors import error_from_result
from psycopg.pq import ExecStatus

from jentrow.core.engines.answers import Stop, within_bounds
from jentrow.core.engines.copies.script import CopyScript, RefusedChange
from jentrow.core.engines.copy_answers import (
    LOOKED_TOO_LONG,
    SHOWN_ROWS,
    CopyAnswer,
    CopyPage,
    StatementAnswer,
    failed_copy,
    statement_done,
)
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.postgresql.connection import connected_to_dataset, is_gone
from jentrow.core.engines.postgresql.policy import refused_change
from jentrow.core.engines.postgresql.problems import rejected
from jentrow.core.engines.postgresql.tables import count_rows, counted_tables, schema_of
from jentrow.core.engines.servers.engine import ServerAddress
from jentrow.core.errors import EngineUnavailable, UnusableInput
from jentrow.core.results import Column
from jentrow.core.samples.schema.tables import CountedTable, TableSchema
from jentrow.core.shownrows import json_rows, shown_rows
from jentrow.core.sql.text import first_word
from jentrow.core.sql.tokens import tokens_of

PORTION: Final = 500
LOOKING_SECONDS: Final = 5.0
CLEARING_SECONDS: Final = 20
"""How long giving back the room of deleted rows may take."""

_COUNTING: Final = frozenset({"INSERT", "UPDATE", "DELETE", "MERGE"})
_NO_LOGIN: Final = re.compile(r'role "[^"]*" does not exist|password authentication failed')

_BROKEN_RULE: Final = "23"
"""What the codes begin with that a server gives where a row breaks a constraint."""

_Connection = psycopg.Connection[tuple[Any, ...]]


class CopyRun(CopyScript):
    """One script on a copy: one transaction."""

    dialect = "postgres"
    problems = (psycopg.Error,)

    def __init__(self, db: _Connection, schema: str, limits: Limits, most_bytes: int) -> None:
        super().__init__()
        self._db, self._schema = db, schema
        self._limits, self._most_bytes = limits, most_bytes
        self._until = time.monotonic() + limits.seconds
        self._rows = limits.rows

    def _begin(self, statements: list[str]) -> None:
        self._db.execute("BEGIN")

    def _is_full(self) -> bool:
        # What is looked at when all is done is looked at now, while the statement is known.
        self._db.execute("SET CONSTRAINTS ALL IMMEDIATE")
        return bytes_in(self._db, self._schema) > self._most_bytes

    def _keep(self) -> None:
        self._db.execute("COMMIT")

    def _told(self, problem: Exception, statement: str) -> tuple[str, str, str, str, int]:
        assert isinstance(problem, psycopg.Error)
        if is_gone(problem, self._db):
            raise problem
        verdict, code, words, index, detail = rejected(problem)[1:]
        if verdict == "refused":
            return "refused", "", words, "this", -1
        more = problem.diag.message_detail
        if more and detail.startswith(_BROKEN_RULE):  # of rows that are the learner's own
            words = f"{words}. {more}"
        offset = len(statement[:index].encode()) if index >= 0 else -1
        return verdict, code, words, detail, offset

    def _done(self, sql: str) -> StatementAnswer:
        if kind := refused_change(sql):
            raise RefusedChange(kind)
        left = self._until - time.monotonic()
        if left <= 0:
            raise Stop("limit.time")
        self._db.execute(f"SET LOCAL statement_timeout = {max(1, int(left * 1000))}")
        words = {token.word for token in tokens_of(sql, "postgres")}
        changes = bool(words & _COUNTING) and first_word(sql) in _COUNTING | {"WITH"}
        cursor = self._db.cursor()
        names = self._names_of(sql)
        if not names:
            cursor.execute(sql)
            return statement_done(sql, None, max(cursor.rowcount, 0) if changes else 0)
        stream: Any = cursor.stream(sql, size=PORTION)
        with closing(stream):
            rows = within_bounds(stream, self._limits)
        self._rows -= len(rows)
        if self._rows < 0:
            raise Stop("limit.rows")
        view = shown_rows(tuple(map(Column, names)), rows, SHOWN_ROWS)
        return statement_done(sql, view, len(rows) if changes else 0)

    def _names_of(self, sql: str) -> tuple[str, ...]:
        """The columns of the rows that a statement gives, none where it gives no rows.

        Raises ``psycopg.Error`` where the server does not take it for one statement.
        """
        server = self._db.pgconn
        prepared = server.prepare(b"", sql.encode())
        if prepared.status != ExecStatus.COMMAND_OK:
            raise error_from_result(prepared)
        found = server.describe_prepared(b"")
        return tuple((found.fname(at) or b"").decode() for at in range(found.nfields))

    def _undo(self) -> list[TableSchema]:
        with suppress(psycopg.Error):  # they are for words about names only
            self._db.execute("ROLLBACK")
            return schema_of(self._db, self._schema)
        return []


def run_on_copy(
    address: ServerAddress, schema: str, script: str, limits: Limits, most_bytes: int
) -> CopyAnswer:
    """Runs a script on a copy; see :class:`CopyRun`. Raises :class:`EngineUnavailable`."""
    milliseconds = int(limits.seconds * 1000)
    try:
        db = _signed_in(address, schema, milliseconds)
    except UnusableInput:
        return failed_copy("error", "sql.runtime", "", (1, 0, 0), "gone")
    try:
        answer = CopyRun(db, schema, limits, most_bytes).run(script)
        _clear(db, schema, most_bytes)
    except psycopg.Error as problem:
        raise EngineUnavailable(
            f"PostgreSQL at {address.says()} went away: {str(problem).strip()}."
        ) from problem
    finally:
        db.close()
    return answer


def bytes_in(db: _Connection, schema: str) -> int:
    """What the rows of a schema take up that are there: deleted ones do not count."""
    size = 0
    for table in schema_of(db, schema):
        if table.kind == "table":
            count = text.SQL("SELECT coalesce(sum(pg_column_size(t.*)), 0) FROM {} AS t")
            ((found,),) = db.execute(count.format(text.Identifier(schema, table.name))).fetchall()
            size += int(found)
    return size


def _clear(db: _Connection, schema: str, most_bytes: int) -> None:
    """Gives back the room of rows that were deleted, or never came to stay, where it is much."""
    ((on_disk,),) = db.execute(
        "SELECT coalesce(sum(pg_total_relation_size(oid)), 0) FROM pg_catalog.pg_class "
        "WHERE relnamespace = %s::regnamespace AND relkind = 'r'",
        (schema,),
    ).fetchall()
    if on_disk <= 2 * most_bytes:
        return
    db.execute(f"SET statement_timeout = {CLEARING_SECONDS * 1000}")
    with suppress(psycopg.errors.QueryCanceled):  # another time
        for table in schema_of(db, schema):
            if table.kind == "table":
                db.execute(text.SQL("VACUUM FULL {}").format(text.Identifier(schema, table.name)))


# looking


def copy_tables(address: ServerAddress, schema: str) -> list[CountedTable]:
    """The tables of a copy, with their rows counted."""
    with _reading(address, schema) as db:
        return counted_tables(db, schema)


def copy_bytes(address: ServerAddress, schema: str) -> int:
    """What the rows of a copy take up."""
    with _reading(address, schema) as db:
        return bytes_in(db, schema)


def copy_rows(
    address: ServerAddress, schema: str, name: str, offset: int, limit: int
) -> CopyPage | None:
    """Rows of a table, as they are shown, and how many there are; None without such a table."""
    with _reading(address, schema) as db:
        if all(one.name != name or one.kind == "view" for one in schema_of(db, schema)):
            return None
        found = db.execute(
            text.SQL("SELECT * FROM {} LIMIT {} OFFSET {}").format(
                text.Identifier(schema, name), text.Literal(limit), text.Literal(offset)
            )
        )
        return list(json_rows(found.fetchall())), count_rows(db, schema, name)


@contextmanager
def _reading(address: ServerAddress, schema: str) -> Iterator[_Connection]:
    db = _signed_in(
        address, schema, int(LOOKING_SECONDS * 1000), "-c default_transaction_read_only=on"
    )
    try:
        yield db
    except (psycopg.errors.QueryCanceled, psycopg.errors.LockNotAvailable) as problem:
        raise UnusableInput(LOOKED_TOO_LONG) from problem
    except psycopg.Error as problem:
        raise UnusableInput((problem.diag.message_primary or str(problem)).strip()) from problem
    finally:
        db.close()


def _signed_in(
    address: ServerAddress, schema: str, milliseconds: int, options: str = ""
) -> _Connection:
    """Raises :class:`UnusableInput` where the copy has no login any more."""
    said = (
        f"-c search_path={schema} -c statement_timeout={milliseconds}ms "
        f"-c lock_timeout={milliseconds}ms -c work_mem=16MB -c jit=off "
        f"-c max_parallel_workers_per_gather=0 -c client_min_messages=error {options}"
    )
    try:
        return connected_to_dataset(address, schema, said)
    except EngineUnavailable as problem:
        if _NO_LOGIN.search(str(problem)):
            raise UnusableInput("the server has it no more") from problem
        raise
