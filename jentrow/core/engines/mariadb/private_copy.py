"""A learner's own copy of a sample on a MariaDB server: a database whose login may change it.

MariaDB does each change of a table for good. So before a script that changes tables, all that the
copy holds is laid into a database beside it; where a statement fails, the copy is made anew of that.
What a process left there that died in between is made good by whoever comes next.
"""

from __future__ import annotations

import re
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Final

import pymysql
from pymysql.connections import Connection
from pymysql.constants import CLIENT
from pymysql.cursors import SSCursor

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
from jentrow.core.engines.mariadb.connection import (
    asked,
    bounds,
    connected_to_dataset,
    ended,
    is_gone,
    number_of,
    output_columns,
    time_bound,
    words_of,
)
from jentrow.core.engines.mariadb.datasets import before
from jentrow.core.engines.mariadb.policy import DEFINING, refused_change
from jentrow.core.engines.mariadb.problems import TIME, rejected
from jentrow.core.engines.mariadb.tables import (
    count_rows,
    counted_tables,
    keys_of,
    named,
    rules_of,
    schema_of,
)
from jentrow.core.engines.servers.engine import PREFIX, ServerAddress
from jentrow.core.errors import EngineUnavailable, UnusableInput
from jentrow.core.results import Column
from jentrow.core.samples.schema.tables import CountedTable, TableSchema
from jentrow.core.shownrows import json_rows, shown_rows
from jentrow.core.sql.text import first_word, quoted_name
from jentrow.core.sql.tokens import tokens_of

LOOKING_SECONDS: Final = 5.0
RESTORING_SECONDS: Final = 60
WAITING_SECONDS: Final = 10
"""How long one waits for somebody else who is at the same copy."""

_COUNTING: Final = frozenset({"INSERT", "REPLACE", "UPDATE", "DELETE"})
_NO_LOGIN: Final = ("Access denied", "Unknown database")

_KEY: Final = re.compile(r"for key '(?:\w+\.)?(.+)'$")
_RULE: Final = re.compile(r"CONSTRAINT `(?:\w+\.)?(.+)` failed for `(.+)`")

_VIEWS: Final = f"{PREFIX}views"
"""The table beside the saved ones that holds the texts of views; it is made when all is saved."""


class _Saved:
    """What a copy was before a script, in a database beside it; nobody else is at the copy meanwhile."""

    def __init__(self, db: Connection[SSCursor], copy: str) -> None:
        """``db`` is a connection of its own, which holds the copy's lock."""
        self.db, self._copy, self._before = db, copy, before(copy)
        asked(
            db,
            "SET SESSION foreign_key_checks = 0, unique_checks = 0, "
            "sql_mode = CONCAT(@@sql_mode, ',NO_AUTO_VALUE_ON_ZERO')",
        )

    def save(self) -> None:
        """Saves all that the copy holds."""
        self._clear(self._before)
        self._fill(self._before, self._copy)
        views = self._names(self._copy, "VIEW")
        texts = [self._text_of("VIEW", self._copy, view) for view in views]
        place = named(self._before, _VIEWS)
        asked(self.db, f"CREATE TABLE {place} (written LONGTEXT) CHARACTER SET utf8mb4")
        for text in texts:
            asked(self.db, f"INSERT INTO {place} VALUES (%s)", text)

    def restore(self) -> None:
        """Makes the copy what was saved, where something is."""
        if self.is_there:
            self._clear(self._copy)
            self._fill(self._copy, self._before)
            left = [
                text for (text,) in asked(self.db, f"SELECT * FROM {named(self._before, _VIEWS)}")
            ]
            # A view may read another one that comes later.
            for _ in range(len(left)):
                left = [text for text in left if not self._is_made(text)]
            self.forget()

    @property
    def is_there(self) -> bool:
        """Whether something is saved, and all of it."""
        return _VIEWS in self._names(self._before, "BASE TABLE")

    def forget(self) -> None:
        """What the copy is now stands."""
        # First of all what says that it is whole.
        asked(self.db, f"DROP TABLE IF EXISTS {named(self._before, _VIEWS)}")
        self._clear(self._before)

    def _is_made(self, view: str) -> bool:
        try:
            asked(self.db, view)
        except pymysql.Error as problem:
            if is_gone(problem):
                raise
            return False
        return True

    def _fill(self, database: str, other: str) -> None:
        """Makes the tables of another database with their rows in an empty one."""
        asked(self.db, f"USE {quoted_name(database, 'mysql')}")
        schema = {one.name: one for one in schema_of(self.db, other)}
        for table in self._names(other, "BASE TABLE"):
            if table == _VIEWS:
                continue
            asked(self.db, self._text_of("TABLE", other, table))
            columns = ", ".join(
                quoted_name(one.name, "mysql") for one in schema[table].columns if not one.generated
            )
            into, source = named(database, table), named(other, table)
            asked(self.db, f"INSERT INTO {into} ({columns}) SELECT {columns} FROM {source}")
        asked(self.db, f"USE {quoted_name(self._copy, 'mysql')}")

    def _clear(self, database: str) -> None:
        for kind, said in (("VIEW", "VIEW"), ("BASE TABLE", "TABLE")):
            for name in self._names(database, kind):
                asked(self.db, f"DROP {said} IF EXISTS {named(database, name)}")

    def _names(self, database: str, kind: str) -> list[str]:
        found = asked(
            self.db,
            "SELECT table_name FROM information_schema.tables "
            "WHERE table_schema = %s AND table_type = %s ORDER BY table_name",
            database,
            kind,
        )
        return [name for (name,) in found]

    def _text_of(self, kind: str, database: str, name: str) -> str:
        ((_, text, *_),) = asked(self.db, f"SHOW CREATE {kind} {named(database, name)}")
        return str(text)


class CopyRun(CopyScript):
    """One script on a copy: one transaction, unless it changes tables."""

    dialect = "mysql"
    problems = (pymysql.Error, OSError, ValueError)

    def __init__(
        self, db: Connection[SSCursor], saved: _Saved, copy: str, limits: Limits, most_bytes: int
    ) -> None:
        super().__init__()
        self._db, self._saved, self._copy = db, saved, copy
        self._limits, self._most_bytes = limits, most_bytes
        self._rows = limits.rows

    def _begin(self, statements: list[str]) -> None:
        if any(first_word(sql) in DEFINING for sql in statements):
            self._saved.save()
        # What is saved beforehand takes nothing of the script's own time.
        self._until = time.monotonic() + self._limits.seconds

    def _done(self, sql: str) -> StatementAnswer:
        if kind := refused_change(sql):
            raise RefusedChange(kind)
        left = self._until - time.monotonic()
        if left <= 0:
            raise Stop("limit.time")
        _bound_seconds(self._db, left)
        cursor = self._db.cursor()
        cursor.execute(sql)
        changes = first_word(sql) in _COUNTING
        names = tuple(name for name, _ in output_columns(cursor))
        if not names:
            return statement_done(sql, None, max(cursor.rowcount, 0) if changes else 0)
        rows = within_bounds(cursor, self._limits)
        cursor.close()
        self._rows -= len(rows)
        if self._rows < 0:
            raise Stop("limit.rows")
        view = shown_rows(tuple(map(Column, names)), rows, SHOWN_ROWS)
        return statement_done(sql, view, len(rows) if changes else 0)

    def _is_full(self) -> bool:
        _bound_seconds(self._db, RESTORING_SECONDS)
        return bytes_in(self._db, self._copy) > self._most_bytes

    def _keep(self) -> None:
        # Only InnoDB takes back what a script that fails has done.
        others = asked(
            self._db,
            "SELECT 1 FROM information_schema.tables WHERE table_schema = %s AND engine <> 'InnoDB'",
            self._copy,
        )
        if others:
            raise RefusedChange("this")
        self._db.commit()
        self._saved.forget()

    def _told(self, problem: Exception, statement: str) -> tuple[str, str, str, str, int]:
        if is_gone(problem):
            raise problem
        if isinstance(problem, ValueError):  # a value that Python has no type for
            return "error", "sql.runtime", str(problem), "", -1
        verdict, code, words, _, detail = rejected(problem)[1:]
        if verdict == "refused":
            return "refused", "", words, "this", -1
        return verdict, code, self._completed(words, statement), detail, -1

    def _completed(self, words: str, statement: str) -> str:
        """What the server says, with the columns or the rule of what it only names."""
        words = words.replace(f"`{self._copy}`.", "").replace(f"{self._copy}.", "")
        if key := _KEY.search(words):
            named = {token.word for token in tokens_of(statement.upper(), "mysql")}
            for table, index, columns in keys_of(self._saved.db, self._copy):
                if index == key[1] and table.upper() in named:
                    return f"{words} ({columns})"
        if rule := _RULE.fullmatch(words):
            for table, name, clause in rules_of(self._saved.db, self._copy):
                if (name, table) == rule.groups():
                    return f"{words} ({clause})"
        return words

    def _undo(self) -> list[TableSchema]:
        # There may be rows on their way that nobody reads; a transaction ends with its connection.
        ended(self._db)
        # Words about a statement are about the tables that it found.
        found = schema_of(self._saved.db, self._copy)
        self._saved.restore()
        return found


def run_on_copy(
    address: ServerAddress, copy: str, script: str, limits: Limits, most_bytes: int
) -> CopyAnswer:
    """Runs a script on a copy; see :class:`CopyRun`. Raises :class:`EngineUnavailable`."""
    try:
        with _alone(address, copy) as saved:
            db = _signed_in(address, copy, limits.seconds, limits.memory_mb)
            try:
                asked(db, "SET SESSION autocommit = 0")
                return CopyRun(db, saved, copy, limits, most_bytes).run(script)
            finally:
                ended(db)
    except UnusableInput:
        return failed_copy("error", "sql.runtime", "", (1, 0, 0), "gone")
    except (pymysql.Error, OSError) as problem:
        raise EngineUnavailable(
            f"MariaDB at {address.says()} went away: {words_of(problem)}."
        ) from problem


def bytes_in(db: Connection[SSCursor], copy: str) -> int:
    """What the rows of a copy take up, printed."""
    size = 0
    for table in schema_of(db, copy):
        if table.kind == "table":
            lengths = " + ".join(
                f"COALESCE(LENGTH({quoted_name(one.name, 'mysql')}), 0)" for one in table.columns
            )
            place = named(copy, table.name)
            ((found,),) = asked(db, f"SELECT COALESCE(SUM({lengths}), 0) FROM {place}")
            size += int(found)
    return size


# looking


def copy_tables(address: ServerAddress, copy: str) -> list[CountedTable]:
    """The tables of a copy, with their rows counted."""
    with _reading(address, copy) as db:
        return counted_tables(db, copy)


def copy_bytes(address: ServerAddress, copy: str) -> int:
    """What the rows of a copy take up."""
    with _reading(address, copy) as db:
        return bytes_in(db, copy)


def copy_rows(
    address: ServerAddress, copy: str, name: str, offset: int, limit: int
) -> CopyPage | None:
    """Rows of a table, as they are shown, and how many there are; None without such a table."""
    with _reading(address, copy) as db:
        if all(one.name != name or one.kind == "view" for one in schema_of(db, copy)):
            return None
        place = named(copy, name)
        found = asked(db, f"SELECT * FROM {place} LIMIT {int(limit)} OFFSET {int(offset)}")
        return list(json_rows(found)), count_rows(db, copy, name)


@contextmanager
def _reading(address: ServerAddress, copy: str) -> Iterator[Connection[SSCursor]]:
    try:
        with _alone(address, copy) as saved:
            _bound_seconds(saved.db, LOOKING_SECONDS)
            yield saved.db
    except (pymysql.Error, OSError) as problem:
        is_late = number_of(problem) in TIME
        raise UnusableInput(LOOKED_TOO_LONG if is_late else words_of(problem)) from problem


@contextmanager
def _alone(address: ServerAddress, copy: str) -> Iterator[_Saved]:
    """While this lasts nobody else is at the copy; what a script left that died is made good first.

    Raises :class:`UnusableInput` where the copy is no more, and :class:`EngineUnavailable` where
    somebody else does not leave it.
    """
    db = _signed_in(address, copy, RESTORING_SECONDS)
    try:
        ((got,),) = asked(db, "SELECT GET_LOCK(%s, %s)", copy, WAITING_SECONDS)
        if not got:
            raise EngineUnavailable("Another script is still at work on your copy: try it again.")
        saved = _Saved(db, copy)
        saved.restore()
        yield saved
    finally:
        ended(db)


def _signed_in(
    address: ServerAddress, copy: str, seconds: float, memory_mb: int = 256
) -> Connection[SSCursor]:
    """Raises :class:`UnusableInput` where the copy has no login any more."""
    try:
        # As many rows are counted as a statement finds, not as many as it made others.
        db = connected_to_dataset(address, copy, flags=CLIENT.FOUND_ROWS)
    except EngineUnavailable as problem:
        if any(words in str(problem) for words in _NO_LOGIN):
            raise UnusableInput("the server has it no more") from problem
        raise
    waiting = max(1, int(seconds))
    settings = [*bounds(db, seconds, memory_mb), f"innodb_lock_wait_timeout = {waiting}"]
    asked(db, f"SET SESSION {', '.join(settings)}")
    return db


def _bound_seconds(db: Connection[SSCursor], seconds: float) -> None:
    asked(db, f"SET SESSION {time_bound(db, seconds)}")
