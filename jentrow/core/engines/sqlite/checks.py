"""CHECK constraints asked of rows before they are put anywhere, by SQLite, as samples are read."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import apsw

from jentrow.core.engines.sqlite.hardening import harden
from jentrow.core.results import Row
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.sql.text import quoted_name

_KEPT_STATEMENTS: Final = 100


class Checks:
    """The CHECK constraints of some tables."""

    def __init__(self, tables: Sequence[TableSchema]) -> None:
        self._db = apsw.Connection(":memory:", statementcachesize=_KEPT_STATEMENTS)
        harden(self._db)
        self._checks = {table.name: _check(table) for table in tables if table.checks}
        self._allowed: dict[tuple[str, Row], bool] = {}

    def allow(self, table: TableSchema, row: Row) -> bool:
        """Whether a row, a value for each writable column, meets the constraints of its table."""
        check = self._checks.get(table.name)
        if check is None:
            return True
        key = (table.name, row)
        known = self._allowed.get(key)
        if known is None:
            try:
                known = bool(list(self._db.execute(check, row)))
            except apsw.Error:
                known = True  # what cannot be asked beforehand is refused when rows are put in
            self._allowed[key] = known
        return known


def _check(table: TableSchema) -> str:
    """A query that gives a row where values meet all CHECK constraints."""
    columns = ", ".join(
        f"?{at} AS {quoted_name(column.name)}" for at, column in enumerate(table.writable, 1)
    )
    tests = " AND ".join(f"coalesce(({check}), 1)" for check in table.checks)
    return f"SELECT 1 FROM (SELECT {columns}) WHERE {tests}"
