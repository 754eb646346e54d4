"""A learner's own copy of a sample, in a worker process: here statements may change things.

Each script is one transaction: where one of its statements fails, nothing of it was done.
"""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path
from typing import Any, Final

import apsw

from jentrow.core.engines.copy_answers import (
    SHOWN_ROWS,
    CopyAnswer,
    StatementAnswer,
    done,
    failed_copy,
    statement_done,
)
from jentrow.core.engines.sqlite.hardening import REFUSED_FUNCTIONS, STEPS_BETWEEN_CHECKS, harden
from jentrow.core.results import Column
from jentrow.core.shownrows import shown_rows
from jentrow.core.sql.text import is_blank
from jentrow.core.sql.tokens import statements_in

_CHANGES: Final = frozenset(
    [
        apsw.SQLITE_INSERT,
        apsw.SQLITE_UPDATE,
        apsw.SQLITE_DELETE,
        apsw.SQLITE_CREATE_TABLE,
        apsw.SQLITE_CREATE_INDEX,
        apsw.SQLITE_CREATE_VIEW,
        apsw.SQLITE_DROP_TABLE,
        apsw.SQLITE_DROP_INDEX,
        apsw.SQLITE_DROP_VIEW,
        apsw.SQLITE_ALTER_TABLE,
        apsw.SQLITE_REINDEX,
        apsw.SQLITE_SELECT,
        apsw.SQLITE_RECURSIVE,
        apsw.SQLITE_READ,
    ]
)


class _Stop(Exception):
    def __init__(self, code: str) -> None:
        super().__init__(code)
        self.code = code


class CopyRun:
    """One script on a copy, within its bounds."""

    def __init__(self, path: str, steps: int, rows: int, most_bytes: int, value_bytes: int) -> None:
        self._db = apsw.Connection(path, flags=apsw.SQLITE_OPEN_READWRITE, statementcachesize=0)
        harden(self._db)
        self._db.config(apsw.SQLITE_DBCONFIG_ENABLE_TRIGGER, 0)
        self._db.limit(apsw.SQLITE_LIMIT_LENGTH, value_bytes)
        self._db.limit(apsw.SQLITE_LIMIT_ATTACHED, 0)
        (page,) = next(self._db.execute("PRAGMA page_size"))
        self._db.execute(f"PRAGMA max_page_count = {max(1, most_bytes // page)}")
        self._db.execute("PRAGMA foreign_keys = ON")
        self._steps_left = steps
        self._rows = rows
        self._denied = ""
        self._said: list[list[Any]] = []
        self._changed = 0
        self._at = (1, 0, 0)

    def mind_case(self) -> None:
        """Has LIKE tell capitals from small letters."""
        self._db.execute("PRAGMA case_sensitive_like = 1")

    def run(self, script: str) -> CopyAnswer:
        """Runs a script as one transaction; nothing of it is done where it fails."""
        if is_blank(script):
            return failed_copy("error", "sql.syntax", "", self._at, "empty")
        self._db.execute("BEGIN IMMEDIATE")
        self._changed = self._db.total_changes()
        self._db.authorizer = self._authorize
        self._db.set_progress_handler(self._on_progress, STEPS_BETWEEN_CHECKS)
        cursor = self._db.cursor()
        cursor.exec_trace = self._on_statement
        try:
            # One after the other, so that whichever fails is known with its place in the script.
            for number, tokens in enumerate(statements_in(script, "sqlite"), 1):
                self._at = (number, tokens[0].start, tokens[-1].end)
                for row in cursor.execute(script[tokens[0].start : tokens[-1].end]):
                    self._take(row)
                self._note_changes()
        except _Stop as stop:
            return self._undone(cursor, "stopped", stop.code, "")
        except apsw.InterruptError:
            return self._undone(cursor, "stopped", "limit.time", "")
        except apsw.FullError as problem:
            return self._undone(cursor, "stopped", "limit.memory", str(problem), "full")
        except (apsw.NoMemError, apsw.TooBigError, MemoryError) as problem:
            return self._undone(cursor, "stopped", "limit.memory", str(problem))
        except UnicodeDecodeError:
            return self._undone(cursor, "error", "sql.runtime", "", "not_utf8")
        except apsw.Error as problem:
            verdict = "refused" if self._denied else "error"
            offset = getattr(problem, "error_offset", -1)
            return self._undone(cursor, verdict, "", str(problem), self._denied, offset)
        finally:
            cursor.close(True)
        self._free()
        # Made ready beforehand: what is answered at once cannot be taken for lost and done again.
        answer = done([self._shown(*one) for one in self._said])
        self._db.execute("COMMIT")
        return answer

    def _shown(self, sql: str, names: list[str], rows: list[Any], changed: int) -> StatementAnswer:
        view = shown_rows(tuple(map(Column, names)), rows, SHOWN_ROWS) if names else None
        return statement_done(sql, view, changed)

    def _undone(
        self,
        cursor: apsw.Cursor,
        verdict: str,
        code: str,
        words: str,
        detail: str = "",
        offset: int = -1,
    ) -> CopyAnswer:
        cursor.close(True)
        self._free()
        with suppress(apsw.Error):
            self._db.execute("ROLLBACK")
        return failed_copy(verdict, code, words, self._at, detail, self._columns(), offset)

    def _columns(self) -> list[tuple[str, list[str]]]:
        """The columns of each table, for words about names that there are not."""
        try:
            names = [
                name
                for (name,) in self._db.execute(
                    "SELECT name FROM sqlite_schema WHERE type IN ('table', 'view') "
                    "AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\'"
                )
            ]
            return [
                (
                    name,
                    [
                        column
                        for (column,) in self._db.execute(
                            "SELECT name FROM pragma_table_info(?)", (name,)
                        )
                    ],
                )
                for name in names
            ]
        except apsw.Error:
            return []

    def _free(self) -> None:
        self._db.authorizer = None
        self._db.set_progress_handler(None)

    def _on_statement(self, cursor: apsw.Cursor, sql: str, _: object) -> bool:
        if not cursor.has_vdbe:
            return True
        names = [column[0] for column in cursor.get_description()]
        self._said.append([sql.strip(), names, [], 0])
        return True

    def _note_changes(self) -> None:
        total = self._db.total_changes()
        if self._said:
            self._said[-1][3] = total - self._changed
        self._changed = total

    def _take(self, row: tuple[Any, ...]) -> None:
        rows = self._said[-1][2]
        if len(rows) >= self._rows:
            raise _Stop("limit.rows")
        rows.append(row)

    def _on_progress(self) -> bool:
        self._steps_left -= STEPS_BETWEEN_CHECKS
        return self._steps_left < 0

    def _authorize(
        self, action: int, one: str | None, two: str | None, base: str | None, _: str | None
    ) -> int:
        # ALTER looks through the list of temporary tables too, which stays empty.
        allowed = action in _CHANGES and (base in (None, "main") or one == "sqlite_temp_master")
        if action == apsw.SQLITE_FUNCTION:
            allowed = (two or "").lower() not in REFUSED_FUNCTIONS
        if not allowed and not self._denied:
            self._denied = _NAMES_OF_ACTIONS.get(action, "this")
        return apsw.SQLITE_OK if allowed else apsw.SQLITE_DENY

    def close(self) -> None:
        """Closes the copy."""
        self._db.close(True)


_NAMES_OF_ACTIONS: Final = {
    apsw.SQLITE_TRANSACTION: "transaction",
    apsw.SQLITE_SAVEPOINT: "transaction",
    apsw.SQLITE_PRAGMA: "pragma",
    apsw.SQLITE_ATTACH: "other file",
    apsw.SQLITE_DETACH: "other file",
    apsw.SQLITE_CREATE_TRIGGER: "trigger",
    apsw.SQLITE_CREATE_VTABLE: "virtual table",
    apsw.SQLITE_FUNCTION: "function",
}


def run_on_copy(
    path: str, script: str, steps: int, rows: int, most_bytes: int, value_bytes: int,
    *, minds_case: bool = False,
) -> CopyAnswer:  # fmt: skip
    """Runs a script on a copy; see :class:`CopyRun`."""
    if not Path(path).is_file():
        return failed_copy("error", "sql.runtime", "", (1, 0, 0), "gone")
    run = CopyRun(path, steps, rows, most_bytes, value_bytes)
    try:
        if minds_case:
            run.mind_case()
        return run.run(script)
    finally:
        run.close()
