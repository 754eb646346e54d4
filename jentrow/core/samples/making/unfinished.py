"""A dataset's database while it is made, and all that is to be said of it."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any, Final

import apsw

from jentrow.core.errors import UnusableInput
from jentrow.core.samples.making.database_build import create_tables, fresh_database
from jentrow.core.samples.making.filling import insert_into
from jentrow.core.samples.recipes import Problem
from jentrow.core.samples.schema.schema_text import without_row_options
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.samples.scripts.reasons import TRIGGER
from jentrow.core.samples.scripts.statements import beginning

Report = Callable[[int, int], None]
"""Told how many bytes are done, and of how many."""

LISTED: Final = 200
"""How many problems are listed; the rest is counted."""

_STEPS: Final = 20_000_000_000


class CannotMake(UnusableInput):
    """Raised when a dataset cannot be made; lists every problem, up to ``LISTED``."""

    def __init__(self, problems: Sequence[Problem], count: int = 0) -> None:
        self.problems = tuple(problems)
        self.count = count or len(self.problems)
        first = self.problems[0]
        more = f" (and {self.count - 1} more)" if self.count > 1 else ""
        super().__init__(f"{_where(first)}{first.message}{more}")


def _where(problem: Problem) -> str:
    parts = [problem.file, f"line {problem.row}" if problem.row else "", problem.column]
    said = ", ".join(part for part in parts if part)
    return f"{said}: " if said else ""


class Unfinished:
    """The database, what did not work, what was left out, and what else there is to note."""

    def __init__(self, target: Path, report: Report) -> None:
        self.report = report
        self.db = fresh_database(str(target), _STEPS)
        self.notes: list[str] = []
        self.left_out: list[tuple[int, str, str]] = []
        self.table_notes: dict[str, Any] = {}
        self._problems: list[Problem] = []
        self._count = 0

    def close(self) -> None:
        """Closes the database."""
        self.db.authorizer = None
        self.db.close(True)

    def note(self, problem: Problem) -> None:
        """Notes what did not work; beyond ``LISTED`` it is only counted."""
        self._count += 1
        if len(self._problems) < LISTED:
            self._problems.append(problem)

    def raise_problems(self) -> None:
        """Raises :class:`CannotMake` where anything did not work."""
        if self._problems:
            raise CannotMake(self._problems, self._count)

    def create(self, schema: str) -> list[str]:
        """Makes the tables of a schema; gives the statements that wait until there are rows."""
        later = create_tables(self.db, without_row_options(schema))
        self.db.execute("BEGIN")
        return later

    def make_later(self, statements: Sequence[str]) -> None:
        """Makes what waited until there were rows; triggers are left out."""
        for sql in statements:
            if re.match(r"\s*CREATE\s+(TEMP\w*\s+)?TRIGGER\b", sql, re.IGNORECASE):
                self.left_out.append((0, beginning(sql, 70), TRIGGER))
                continue
            try:
                self.db.execute(sql)
            except apsw.Error as problem:
                self.note(Problem("the schema", 0, "", f"{beginning(sql, 70)}: {problem}."))

    def insert_all(self, table: TableSchema, rows: Sequence[tuple[Any, ...]]) -> None:
        """Inserts rows that have a value for each column, without those that are computed."""
        keep = [at for at, one in enumerate(table.columns) if one.generated is None]
        self.db.executemany(
            insert_into(table.name, [column.name for column in table.writable]),
            (tuple(row[at] for at in keep) for row in rows),
        )

    def attempt_or_leave(self, sql: str, line: int) -> None:
        """Runs a statement; one that SQLite does not take is left out."""
        try:
            self.db.execute(sql)
        except apsw.Error as problem:
            self.left_out.append((line, beginning(sql, 70), f"SQLite does not take it: {problem}"))

    def attempt(self, sql: str, file: str, line: int) -> None:
        """Runs a statement; one that SQLite does not take is a problem."""
        try:
            self.db.execute(sql)
        except apsw.Error as problem:
            self.note(Problem(file, line, "", f"{problem} ({beginning(sql, 70)})."))
