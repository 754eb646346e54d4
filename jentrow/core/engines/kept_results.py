"""Results of queries kept in a file, for all processes of a server: what ran once need not run again.

A change of rules or of the mark scheme compares again what every answer gave; it asks no engine.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from contextlib import suppress
from functools import lru_cache
from hashlib import sha256
from pathlib import Path
from typing import Final

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import QueryFailure, QueryOutcome
from jentrow.core.processes.crossing import Unreadable, packed, unpacked
from jentrow.core.results import ResultSet, text_size

PLACES: Final = 16_384
"""Results that are kept: each has one place, and a later one takes it over."""

MOST_BYTES: Final = 64 << 10
"""A larger result is not kept: with all places taken they need 1 GB at most, usually a few MB."""

FORM: Final = 2
"""Of what is kept. What an earlier version kept in another form is not recalled."""

WRITTEN_AT_ONCE: Final = 32
"""Results that are written together, where many come one after the other."""

_WAIT_SECONDS: Final = 0.2
"""How long another process may be at writing. What cannot be kept then runs again when it is asked for."""

_MAKE: Final = (
    "CREATE TABLE IF NOT EXISTS results (place INTEGER PRIMARY KEY, key BLOB, content BLOB)"
)


class KeptResults:
    """What queries gave, by dataset, text and the limits that they are allowed.

    Safe to share between processes, each with its own, and where one is killed while it writes.
    """

    def __init__(self, file: Path) -> None:
        file.parent.mkdir(parents=True, exist_ok=True)
        self._db: sqlite3.Connection | None = None
        self._unwritten: list[tuple[int, bytes, bytes]] = []
        with suppress(sqlite3.OperationalError):  # a full disk, or one that is only read
            self._db = _opened(file)

    def known(self, dataset: str, texts: Sequence[str], limits: Limits) -> frozenset[str]:
        """Those of many texts that there is something to recall of, asked at once."""
        if self._db is None:
            return frozenset()
        keys = {_key(dataset, sql, limits): sql for sql in texts}
        places = ",".join(str(_place(key)) for key in keys)
        with suppress(sqlite3.Error):
            # Numbers of our own making, and more of them than a statement takes parameters.
            there = self._db.execute(f"SELECT key FROM results WHERE place IN ({places})")
            return frozenset(keys[key] for (key,) in there.fetchall() if key in keys)
        return frozenset()

    def recall(self, dataset: str, sql: str, limits: Limits) -> QueryOutcome | None:
        """What a query gave before; None where that is not known any more."""
        key = _key(dataset, sql, limits)
        row = None
        if self._db is not None:
            with suppress(sqlite3.Error):
                row = self._db.execute(
                    "SELECT content FROM results WHERE place = ? AND key = ?", (_place(key), key)
                ).fetchone()
        if row is None:
            return None
        try:
            found = unpacked(row[0])
        except Unreadable:
            return None
        return found if isinstance(found, ResultSet | QueryFailure) else None

    def keep(self, dataset: str, sql: str, limits: Limits, outcome: QueryOutcome) -> None:
        """Keeps what a query gave, unless it is large, or was stopped: another time it may not be."""
        if self._db is None or (isinstance(outcome, QueryFailure) and outcome.verdict == "stopped"):
            return
        if isinstance(outcome, ResultSet) and _is_large(outcome):  # packing it would be in vain
            return
        content = packed(outcome)
        if len(content) > MOST_BYTES:
            return
        key = _key(dataset, sql, limits)
        self._unwritten.append((_place(key), key, content))
        if len(self._unwritten) >= WRITTEN_AT_ONCE:
            self.flush()

    def flush(self) -> None:
        """Writes what is to be kept and is not written yet."""
        if self._db is None or not self._unwritten:
            return
        with suppress(sqlite3.Error):  # a full disk: it runs again when it is asked for
            try:
                self._db.execute("BEGIN IMMEDIATE")
                self._db.executemany("REPLACE INTO results VALUES (?, ?, ?)", self._unwritten)
                self._db.execute("COMMIT")
            finally:
                if self._db.in_transaction:
                    self._db.execute("ROLLBACK")
        self._unwritten.clear()

    def close(self) -> None:
        """Closes the file."""
        if self._db is not None:
            self.flush()
            self._db.close()


def _is_large(result: ResultSet) -> bool:
    cells = len(result.rows) * len(result.columns)
    return cells > MOST_BYTES or text_size(result.rows) > MOST_BYTES


def _opened(file: Path) -> sqlite3.Connection:
    """Raises ``sqlite3.OperationalError`` where the file cannot be written now."""
    try:
        return _made(file)
    except sqlite3.OperationalError:
        raise
    except sqlite3.DatabaseError:
        # Left over from a machine that went down: nothing in it that cannot be had again.
        for one in file.parent.glob(f"{file.name}*"):
            one.unlink(missing_ok=True)
        return _made(file)


def _made(file: Path) -> sqlite3.Connection:
    db = sqlite3.connect(file, timeout=_WAIT_SECONDS, isolation_level=None)
    # Written through a log: a process that is killed spoils nothing. Nothing is lost that matters
    # where the machine goes down, so nobody waits for the disk.
    db.execute("PRAGMA journal_mode = WAL")
    db.execute("PRAGMA synchronous = OFF")
    db.execute(_MAKE)
    return db


def _place(key: bytes) -> int:
    return int.from_bytes(key[:8], "big") % PLACES


def _key(dataset: str, sql: str, limits: Limits) -> bytes:
    said = f"{_common(dataset, limits)}{sql}"
    return sha256(said.encode(errors="surrogatepass")).digest()


@lru_cache(maxsize=64)
def _common(dataset: str, limits: Limits) -> str:
    return f"{FORM}\0{dataset}\0{limits}\0"
