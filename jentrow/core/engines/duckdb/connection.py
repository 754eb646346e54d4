"""Connections to DuckDB's files, closed to everything outside of them."""

from __future__ import annotations

import threading
import time
from typing import Any, Final

import duckdb

from jentrow.core.sql.text import quoted_text

_CLOSED: Final[dict[str, Any]] = {
    "enable_external_access": "false",
    "autoinstall_known_extensions": "false",
    "autoload_known_extensions": "false",
    "allow_community_extensions": "false",
    "allow_unsigned_extensions": "false",
    "python_enable_replacements": "false",
    "threads": "1",
    "async_threads": "0",
    "temp_directory": "",
}
"""No other files, no network, no extensions, and no variables of this process for tables."""

LOOK_SECONDS: Final = 0.02


def opened(
    path: str, memory: int, *, writing: bool = False, collation: str = "", folder: str = ""
) -> duckdb.DuckDBPyConnection:
    """A connection to a file, its configuration locked; ``memory`` bounds it, in bytes.

    By ``collation`` texts compare that say nothing else; byte by byte where it is empty. Of other
    files it reaches those in ``folder``, and none where that is empty.
    """
    config = {**_CLOSED, "memory_limit": f"{memory}B", "default_collation": collation}
    if folder:  # is only taken while all files are open
        config["enable_external_access"] = "true"
    db = duckdb.connect(path, read_only=not writing, config=config)
    if folder:
        db.execute(f"SET allowed_directories = [{quoted_text(folder)}]")
        db.execute("SET enable_external_access = false")
    db.execute("SET errors_as_json = true")
    db.execute("SET TimeZone = 'UTC'")
    db.execute("SET lock_configuration = true")
    return db


class Watch:
    """Interrupts a connection whose query takes too long.

    Time is the process's own on a processor, so that a busy machine changes no verdict.
    """

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._begun = threading.Event()
        self._db: duckdb.DuckDBPyConnection | None = None
        self._until = 0.0
        self._stopped = False
        threading.Thread(target=self._look, daemon=True).start()

    def begin(self, db: duckdb.DuckDBPyConnection, seconds: float) -> None:
        """From here on a query runs on this connection."""
        with self._lock:
            self._db, self._until, self._stopped = db, time.process_time() + seconds, False
        self._begun.set()

    def end(self) -> bool:
        """The query is over; whether it was stopped."""
        self._begun.clear()
        with self._lock:
            self._db = None
            return self._stopped

    def _look(self) -> None:
        while True:
            self._begun.wait()
            time.sleep(LOOK_SECONDS)
            with self._lock:
                if self._db is not None and time.process_time() > self._until:
                    self._stopped = True
                    self._db.interrupt()
