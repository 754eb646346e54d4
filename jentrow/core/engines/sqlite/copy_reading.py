"""Looking at a learner's own copy of a sample: what they have made of it is not trusted."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Final

import apsw

from jentrow.core.engines.copy_answers import CopyPage
from jentrow.core.errors import UnusableInput
from jentrow.core.samples.schema.tables import CountedTable, TableSchema, read_schema
from jentrow.core.shownrows import json_rows
from jentrow.core.sql.text import quoted_name

LOOKING_STEPS: Final = 20_000_000
VALUE_BYTES: Final = 16 << 20
_STEPS_BETWEEN_CHECKS: Final = 100_000


def copy_tables(path: Path) -> list[CountedTable]:
    """The tables of a copy, with their rows counted."""
    with _reading(path) as db:
        return [
            CountedTable(table, None if table.kind == "view" else _count(db, table))
            for table in read_schema(db)
        ]


def copy_rows(path: Path, name: str, offset: int, limit: int) -> CopyPage | None:
    """Rows of a table, as they are shown, and how many there are; None without such a table."""
    with _reading(path) as db:
        for table in read_schema(db):
            if table.name == name and table.kind != "view":
                sql = f"SELECT * FROM {quoted_name(name)} LIMIT ? OFFSET ?"
                return list(json_rows(db.execute(sql, (limit, offset)))), _count(db, table)
    return None


def _count(db: apsw.Connection, table: TableSchema) -> int:
    (count,) = next(db.execute(f"SELECT count(*) FROM {quoted_name(table.name)}"))
    return int(count)


@contextmanager
def _reading(path: Path) -> Iterator[apsw.Connection]:
    """A copy open for reading, for a while."""
    left = LOOKING_STEPS

    def on_progress() -> bool:
        nonlocal left
        left -= _STEPS_BETWEEN_CHECKS
        return left < 0

    db = apsw.Connection(str(path), flags=apsw.SQLITE_OPEN_READONLY)
    try:
        db.config(apsw.SQLITE_DBCONFIG_TRUSTED_SCHEMA, 0)
        db.config(apsw.SQLITE_DBCONFIG_DEFENSIVE, 1)
        db.limit(apsw.SQLITE_LIMIT_LENGTH, VALUE_BYTES)
        db.set_progress_handler(on_progress, _STEPS_BETWEEN_CHECKS)
        yield db
    except (apsw.Error, MemoryError) as problem:
        raise UnusableInput(str(problem) or "it holds too large values") from problem
    finally:
        db.close(True)
