"""SQLite's scratch database: in memory, with the schema of a sample's file."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from time import process_time
from typing import Final

import apsw

from jentrow.core.engines.sqlite.checks import Checks
from jentrow.core.engines.sqlite.hardening import harden
from jentrow.core.engines.sqlite.sandbox import Sandbox, opened
from jentrow.core.results import Row
from jentrow.core.samples.schema.tables import TableSchema, read_schema
from jentrow.core.sql.text import quoted_name

_KEPT_STATEMENTS: Final = 200
"""Edits of one text are run on many datasets: each is prepared once."""


class SQLiteScratch(Sandbox):
    """See :class:`~jentrow.core.engines.scratch.Scratch`."""

    slowness: Final = 1.0
    clock = staticmethod(process_time)

    def __init__(self, location: str) -> None:
        """Takes the schema from the database file of a dataset."""
        source = opened(location)
        self.schema = tuple(read_schema(source))
        made = list(
            source.execute(
                "SELECT sql FROM sqlite_schema WHERE sql IS NOT NULL AND type IN "
                "('table', 'index', 'view') AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY rowid"
            )
        )
        source.close(True)
        db = apsw.Connection(":memory:", statementcachesize=_KEPT_STATEMENTS)
        harden(db)
        for (sql,) in made:
            db.execute(sql)
        self._filling = False
        self._backwards = False
        self._inserts = {
            table.name: _insert(table) for table in self.schema if table.kind == "table"
        }
        self._checks = Checks(self.schema)
        super().__init__(db)

    def fill(self, rows: Mapping[str, Sequence[Row]], *, backwards: bool = False) -> bool:
        """Holds these rows and no others; false where a constraint refuses one."""
        self._filling = True
        try:
            if self._db.in_transaction:
                self._db.execute("ROLLBACK")
            if backwards != self._backwards:
                self._db.execute(f"PRAGMA reverse_unordered_selects = {int(backwards)}")
                self._backwards = backwards
            self._db.execute("BEGIN")
            for table, held in rows.items():
                if held:
                    self._db.executemany(
                        self._inserts[table], reversed(held) if backwards else held
                    )
        except apsw.Error:
            return False
        finally:
            self._filling = False
        return True

    def allows(self, table: TableSchema, row: Row) -> bool:
        """Whether a row meets the CHECK constraints of its table."""
        return self._checks.allow(table, row)

    def _authorize(
        self, action: int, one: str | None, two: str | None, base: str | None, trigger: str | None
    ) -> int:
        if self._filling:
            return apsw.SQLITE_OK
        return super()._authorize(action, one, two, base, trigger)


def _insert(table: TableSchema) -> str:
    names = ", ".join(quoted_name(column.name) for column in table.writable)
    marks = ", ".join("?" for _ in table.writable)
    return f"INSERT INTO {quoted_name(table.name)} ({names}) VALUES ({marks})"
