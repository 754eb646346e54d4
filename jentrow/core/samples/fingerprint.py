"""Whether two datasets hold the same: a short name for the tables and rows of an SQLite file."""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import Final

import apsw

from jentrow.core.samples.schema.tables import TableSchema, read_schema
from jentrow.core.sql.text import quoted_name

_WRAP: Final = 1 << 128


def fingerprint(path: Path) -> str:
    """A name that is the same for the same tables with the same rows, in whatever order."""
    db = apsw.Connection(str(path), flags=apsw.SQLITE_OPEN_READONLY)
    try:
        told = hashlib.sha256()
        for table in sorted(read_schema(db), key=lambda one: one.name.lower()):
            told.update(repr(table).encode())
            if table.kind == "table":
                told.update(_rows(db, table).to_bytes(17, "big"))
        return told.hexdigest()[:32]
    finally:
        db.close()


def _rows(db: apsw.Connection, table: TableSchema) -> int:
    """The sum of the rows' digests: the order does not matter, how often a row comes does."""
    names = ", ".join(quoted_name(column.name) for column in table.columns)
    total = 0
    for row in db.execute(f"SELECT {names} FROM {quoted_name(table.name)}"):
        digest = hashlib.blake2b(repr(row).encode(), digest_size=16).digest()
        total = (total + int.from_bytes(digest, "big")) % _WRAP
    return total
