"""What every SQLite connection is denied that runs untrusted SQL."""

from __future__ import annotations

from typing import Final

import apsw

STEPS_BETWEEN_CHECKS: Final = 10_000
"""Steps of the virtual machine after which the bounds are looked at."""

REFUSED_FUNCTIONS: Final = frozenset(
    ["load_extension", "fts3_tokenizer", "readfile", "writefile", "edit", "sqlite_log"]
)
"""Functions that reach out of the database."""


def harden(db: apsw.Connection) -> None:
    """Turns off what lets SQL reach out of the database, and double-quoted text."""
    for option in (
        apsw.SQLITE_DBCONFIG_DQS_DML,
        apsw.SQLITE_DBCONFIG_DQS_DDL,
        apsw.SQLITE_DBCONFIG_ENABLE_LOAD_EXTENSION,
        apsw.SQLITE_DBCONFIG_WRITABLE_SCHEMA,
        apsw.SQLITE_DBCONFIG_TRUSTED_SCHEMA,
    ):
        db.config(option, 0)
    db.config(apsw.SQLITE_DBCONFIG_DEFENSIVE, 1)
    db.execute("PRAGMA temp_store = memory")
