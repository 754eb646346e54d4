"""What can go wrong with the records, in words; SQLAlchemy's errors are translated here alone.

JentrowError
├── RecordsConflict      somebody else changed the same thing at the same time
└── RecordsUnavailable   the file cannot be read or written now
    └── RecordsBusy      others write for longer than anybody waits
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager

from sqlalchemy.exc import DBAPIError, IntegrityError

from jentrow.core.errors import JentrowError


class RecordsConflict(JentrowError):
    """Raised when a constraint of the records speaks against a change that was right before."""


class RecordsUnavailable(JentrowError):
    """Raised when the records' file cannot be read or written: nothing of the change was kept."""


class RecordsBusy(RecordsUnavailable):
    """Raised when others write for longer than anybody waits."""


_CONFLICT = (
    "Somebody changed the same thing at the same time, and nothing of this was kept: "
    "look at it again, then try anew."
)
BUSY = "The records are in use by others for longer than anybody waits: try again in a moment."
_FULL = (
    "The disk of the server is full: nothing of this was kept, and all before it is safe. "
    "Make room on it, then try again."
)
_READ_ONLY = (
    "The data folder of the server cannot be written: nothing of this was kept, and all before it "
    "is safe. Its administrator has to allow writing there, then try again."
)
_OTHER = (
    "The records cannot be read or written now ({}): nothing of this was kept. "
    "Try again; if that does not help, tell the administrator."
)


@contextmanager
def translated() -> Iterator[None]:
    """Raises an error of ours, with a word of what to do, for each that SQLAlchemy raises."""
    try:
        yield
    except IntegrityError as problem:
        raise RecordsConflict(_CONFLICT) from problem
    except DBAPIError as problem:
        raise error_of(problem) from problem


def error_of(problem: DBAPIError) -> RecordsUnavailable:
    """What a failure of the database file means."""
    words = trouble_of(problem)
    if words == BUSY:
        return RecordsBusy(BUSY)
    return RecordsUnavailable(words or _OTHER.format(problem.orig))


def trouble_of(problem: DBAPIError) -> str:
    """What keeps a database file from being read or written now; empty where it is something else."""
    code = getattr(problem.orig, "sqlite_errorcode", 0) & 0xFF
    if code in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED):
        return BUSY
    if code == sqlite3.SQLITE_FULL:
        return _FULL
    if code in (sqlite3.SQLITE_READONLY, sqlite3.SQLITE_CANTOPEN, sqlite3.SQLITE_PERM):
        return _READ_ONLY
    return ""
