"""The schema of an SQLite database as a text."""

from __future__ import annotations

import re
from typing import Final

import apsw

_ROW_OPTIONS: Final = re.compile(
    r"\)\s*(?:WITHOUT\s+ROWID|STRICT)(?:\s*,\s*(?:WITHOUT\s+ROWID|STRICT))?\s*(?=;|$)",
    re.IGNORECASE,
)


def without_row_options(sql: str) -> str:
    """DDL without what says how rows are stored, which makes no difference to what they are."""
    return _ROW_OPTIONS.sub(")", sql)


def schema_text(db: apsw.Connection) -> str:
    """The whole schema of a database as a script, tables first, as its authors wrote it."""
    found = db.execute(
        "SELECT sql FROM sqlite_schema WHERE sql IS NOT NULL AND type != 'trigger' "
        "AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY type != 'table', rowid"
    )
    return "".join(f"{sql};\n\n" for (sql,) in found).rstrip("\n") + "\n"
