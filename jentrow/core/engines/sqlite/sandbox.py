"""Where untrusted SQL meets SQLite: one database, and nothing but a query at a time."""

from __future__ import annotations

import sys
from itertools import islice
from typing import Any, Final

import apsw

from jentrow.core.engines.answers import Answer, Stop, Tables, failed, told_columns
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.sqlite.hardening import REFUSED_FUNCTIONS, STEPS_BETWEEN_CHECKS, harden
from jentrow.core.engines.statements import OTHER_STATEMENTS
from jentrow.core.results import Column, text_size
from jentrow.core.sql.text import first_word, index_of_byte, is_blank, quoted_name

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

KEPT_PERMISSIONS: Final = 2_000


def opened(path: str) -> apsw.Connection:
    """A database file, open for reading and nothing else."""
    db = apsw.Connection(
        f"file:{path}?immutable=1&mode=ro",
        flags=apsw.SQLITE_OPEN_READONLY | apsw.SQLITE_OPEN_URI,
        statementcachesize=0,
    )
    harden(db)
    db.execute("PRAGMA query_only = on")
    return db


class Sandbox:
    """A database in which queries run, one at a time, and nothing else does."""

    def __init__(self, db: apsw.Connection) -> None:
        self._db = db
        names = self._db.execute("SELECT lower(name) FROM sqlite_schema WHERE type != 'index'")
        self._tables = frozenset(name for (name,) in names) | _CATALOGUE_TABLES
        modules = self._db.execute("SELECT lower(name) FROM pragma_module_list")
        self._modules = frozenset(name for (name,) in modules)
        self._denied: tuple[str, str] | None = None
        self._steps_left = 0
        self._began = False
        self._names: tuple[str, ...] = ()
        self._types: tuple[str, ...] = ()
        self._sources: tuple[str, ...] = ()
        self._allowed: set[tuple[object, ...]] = set()
        self._rest = ""
        self._minds_case = False
        self._db.authorizer = self._authorize
        self._db.set_progress_handler(self._on_progress, STEPS_BETWEEN_CHECKS)

    def run(self, sql: str, limits: Limits) -> Answer:
        """Runs one query within its bounds."""
        if is_blank(sql):
            return failed("error", "sql.syntax", "", detail="empty")
        word = first_word(sql)
        if word in OTHER_STATEMENTS:
            return failed("refused", "policy.statement", "", detail=word)
        self._db.limit(apsw.SQLITE_LIMIT_LENGTH, max(limits.value_bytes, len(sql) * 4 + 1000))
        self._denied, self._steps_left, self._began = None, limits.steps, False
        self._names, self._rest = (), sql
        self._mind_case(limits.minds_case)
        cursor = self._db.cursor()
        cursor.exec_trace = self._on_statement
        try:
            fetched = self._fetch(cursor.execute(sql), limits.rows, limits.result_bytes)
        except Stop as stop:
            verdict = "refused" if stop.code.startswith("policy") else "stopped"
            return failed(verdict, stop.code, "", detail="several" if verdict == "refused" else "")
        except apsw.InterruptError:
            return failed("stopped", "limit.time", "")
        except (apsw.NoMemError, apsw.TooBigError, MemoryError) as problem:
            if "parser stack" in str(problem):
                return failed("error", "sql.runtime", str(problem))
            return failed("stopped", "limit.memory", "")
        except UnicodeDecodeError:
            return failed("error", "sql.runtime", "", detail="not_utf8")
        except apsw.Error as problem:
            return self._rejected(problem, sql)
        finally:
            cursor.close(True)
        return ("rows", self._names, fetched, self._types)

    def _mind_case(self, minds: bool) -> None:
        """Has LIKE tell capitals from small letters, or not (https://sqlite.org/pragma.html)."""
        if minds != self._minds_case:
            self._db.authorizer = None
            self._db.execute(f"PRAGMA case_sensitive_like = {int(minds)}")
            self._db.authorizer = self._authorize
            self._minds_case = minds

    def _fetch(self, cursor: apsw.Cursor, rows: int, result_bytes: int) -> list[Any]:
        """The rows, up to the bounds. Sizes are looked at in portions, as rows come."""
        fetched: list[Any] = []
        size = 0
        while True:
            portion = list(islice(cursor, 1000))
            fetched += portion
            if len(fetched) > rows:
                raise Stop("limit.rows")
            size += text_size(portion)
            if size > result_bytes:
                raise Stop("limit.memory")
            if len(portion) < 1000:
                return fetched

    def _on_statement(self, cursor: apsw.Cursor, sql: str, _: object) -> bool:
        """Called before each statement: notes the columns, and refuses what is not one query."""
        if not cursor.has_vdbe:
            return True
        if self._began or not cursor.is_readonly or cursor.is_explain:
            raise Stop("policy.statement")
        self._began = True
        # Everything after the first statement must be blank, and that is known before it runs.
        self._rest = self._rest[self._rest.index(sql) + len(sql) :]
        if not is_blank(self._rest):
            raise Stop("policy.statement")
        described = cursor.description_full
        self._names = tuple([column[0] for column in described])
        self._types = tuple([column[1] or "" for column in described])
        self._sources = tuple([column[3] or "" for column in described])
        return True

    def told_columns(self) -> tuple[Column, ...]:
        """The columns of the last query as people tell them apart, with their types."""
        return told_columns(list(zip(self._names, self._sources, strict=True)), self._types)

    def _on_progress(self) -> bool:
        self._steps_left -= STEPS_BETWEEN_CHECKS
        return self._steps_left < 0

    def _authorize(
        self, action: int, one: str | None, two: str | None, base: str | None, _: str | None
    ) -> int:
        """Asked for each column and function of each query, mostly the same: what may be is kept."""
        asked = (action, one, two, base)
        if asked in self._allowed:
            return apsw.SQLITE_OK
        allowed = self._allows(*asked)
        if allowed and len(self._allowed) < KEPT_PERMISSIONS:
            self._allowed.add(asked)
        return apsw.SQLITE_OK if allowed else apsw.SQLITE_DENY

    def _allows(self, action: int, one: str | None, two: str | None, base: str | None) -> bool:
        """Whether a query may do something; the first thing that it may not is noted."""
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
        return allowed

    def _may_read(self, name: str, column: str, base: str | None) -> bool:
        if base not in (None, "main"):
            return False
        if name in _TABLE_FUNCTIONS or name in self._tables:
            return True
        if name.startswith("pragma_"):
            return name[7:] in _CATALOGUE_PRAGMAS
        # A count over a CTE or a subquery asks for its name and no column.
        return not column and name not in self._modules

    def _rejected(self, problem: apsw.Error, sql: str) -> Answer:
        if self._denied is not None:
            code, name = self._denied
            return failed("refused", code, str(problem), detail=name)
        offset = getattr(problem, "error_offset", -1)
        return failed("error", "", str(problem), index_of_byte(sql, offset) if offset >= 0 else -1)

    def tables(self) -> Tables:
        """Each table's and view's name, columns, and how many rows a table has."""
        self._steps_left = sys.maxsize
        found = self._db.execute(
            "SELECT name, type FROM sqlite_schema WHERE type IN ('table', 'view') "
            "AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY rowid"
        )
        tables: Tables = []
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
