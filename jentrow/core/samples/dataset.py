"""A dataset that is kept: its rows in an SQLite file, every version of them in another beside it.

``data.db`` holds the tables and nothing else, so that a copy of it is what queries run on. Each
change is recorded as a changeset by SQLite's session extension and kept in ``history.db`` before
the change is committed; the number of the version is in the data file itself (``user_version``), so
that a version which did not come to be is known after a crash, and forgotten.
"""

from __future__ import annotations

import os
import shutil
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, Final, Literal, TypeAlias

import apsw

from jentrow.core.errors import InvalidSample, UnusableInput
from jentrow.core.samples.schema.tables import TableSchema, read_schema
from jentrow.core.sql.text import quoted_name

DATA: Final = "data.db"
HISTORY: Final = "history.db"
BUSY_MS: Final = 10_000
SECONDS: Final = 60.0
"""How long one look at the rows may take."""

VALUE_BYTES: Final = 64 << 20
_STEPS_BETWEEN_LOOKS: Final = 50_000

VersionKind: TypeAlias = Literal["made", "edit", "undo", "redo", "restore"]


class TooSlow(UnusableInput):
    """Raised when looking at the rows takes too long; a condition that is too costly does that."""


@dataclass(frozen=True, slots=True)
class Version:
    """One version of a dataset's rows.

    ``stands_for`` is the version whose rows these are: itself, or the one that an undo went back
    to. ``before`` is the version that it was made from.
    """

    number: int
    made_at: datetime
    kind: VersionKind
    summary: str
    stands_for: int
    before: int
    added: int
    changed: int
    removed: int


class Dataset:
    """A dataset in its folder. Safe to use from several threads; one change at a time."""

    def __init__(self, folder: Path) -> None:
        """Opens a dataset. Raises :class:`InvalidSample` where the folder holds none."""
        self.folder = folder
        self.path = folder / DATA
        if not self.path.is_file():
            raise InvalidSample(f"{folder}: holds no dataset.")
        self._changing = threading.RLock()
        self._watching = threading.Lock()
        self._watcher: apsw.Connection | None = None
        with self._opened(writable=True) as db:
            db.execute("PRAGMA journal_mode = wal")
            self.tables: tuple[TableSchema, ...] = tuple(read_schema(db))
            # Another process may be between writing the history and committing the rows.
            db.execute("BEGIN IMMEDIATE")
            self._forget_after(version_of(db))
            db.execute("ROLLBACK")

    @classmethod
    def adopt(cls, folder: Path, made: Path, summary: str, number: int = 1) -> Dataset:
        """Takes a file that was just made as the first version that is kept of a dataset.

        Its ``number`` is 1 unless it follows others, whose rows are in other tables.
        """
        folder.mkdir(parents=True)
        try:
            with made.open("rb+") as file:
                os.fsync(file.fileno())
            shutil.move(made, folder / DATA)
            history = apsw.Connection(str(folder / HISTORY))
            history.execute(_HISTORY_TABLE)
            history.execute(
                "INSERT INTO versions VALUES (?1, ?2, 'made', ?3, ?1, ?1, 0, 0, 0, NULL)",
                (number, datetime.now(UTC).isoformat(), summary),
            )
            history.close()
            db = apsw.Connection(str(folder / DATA))
            db.execute(f"PRAGMA user_version = {number}")
            db.close()
            return cls(folder)
        except BaseException:
            shutil.rmtree(folder, ignore_errors=True)
            raise

    def table(self, name: str) -> TableSchema:
        """The table or view of this name. Raises :class:`UnusableInput`."""
        for table in self.tables:
            if table.name.lower() == name.lower():
                return table
        known = ", ".join(table.name for table in self.tables)
        raise UnusableInput(f"there is no table {name!r}; there are {known}.")

    @property
    def version(self) -> int:
        """The number of the current version. Raises :class:`InvalidSample` where it was deleted."""
        # Asked several times for each answer that is graded: a file is opened once for all of them.
        with self._watching:
            if not self.path.is_file():
                self._watcher = None
                raise InvalidSample(_GONE)
            if self._watcher is None:
                self._watcher = self._connected(writable=False)
            return version_of(self._watcher)

    @contextmanager
    def reading(self, seconds: float = SECONDS) -> Iterator[apsw.Connection]:
        """A connection that reads; raises :class:`TooSlow` where that takes too long."""
        with self._opened(writable=False) as db:
            until = time.monotonic() + seconds
            db.set_progress_handler(lambda: time.monotonic() > until, _STEPS_BETWEEN_LOOKS)
            try:
                yield db
            except apsw.InterruptError as problem:
                raise TooSlow(
                    "looking at the rows takes too long; narrow the condition."
                ) from problem

    @contextmanager
    def _opened(self, *, writable: bool, path: Path | None = None) -> Iterator[apsw.Connection]:
        db = self._connected(writable=writable, path=path)
        try:
            yield db
        finally:
            db.close(True)

    def _connected(self, *, writable: bool, path: Path | None = None) -> apsw.Connection:
        flags = apsw.SQLITE_OPEN_READWRITE if writable else apsw.SQLITE_OPEN_READONLY
        try:
            db = apsw.Connection(str(path or self.path), flags=flags)
        except apsw.CantOpenError as problem:
            raise InvalidSample(_GONE) from problem
        db.set_busy_timeout(BUSY_MS)
        db.limit(apsw.SQLITE_LIMIT_LENGTH, VALUE_BYTES)
        db.limit(apsw.SQLITE_LIMIT_ATTACHED, 0)
        db.config(apsw.SQLITE_DBCONFIG_DEFENSIVE, 1)
        db.config(apsw.SQLITE_DBCONFIG_TRUSTED_SCHEMA, 0)
        db.config(apsw.SQLITE_DBCONFIG_DQS_DML, 0)
        return db

    # versions

    def versions(self) -> list[Version]:
        """All versions, the first first."""
        with self._history() as history:
            found = history.execute(
                "SELECT number, made_at, kind, summary, stands_for, before, added, changed, "
                "removed FROM versions ORDER BY number"
            )
            return [
                Version(number, datetime.fromisoformat(made_at), *rest)
                for number, made_at, *rest in found
            ]

    @contextmanager
    def _history(self) -> Iterator[apsw.Connection]:
        with self._opened(writable=True, path=self.folder / HISTORY) as history:
            history.execute("PRAGMA journal_mode = wal; PRAGMA synchronous = full")
            yield history

    def _forget_after(self, current: int) -> None:
        with self._history() as history:
            if list(history.execute("SELECT 1 FROM versions WHERE number > ?", (current,))):
                history.execute("DELETE FROM versions WHERE number > ?", (current,))

    def change(
        self, work: Callable[[apsw.Connection], str], kind: VersionKind = "edit"
    ) -> Version | None:
        """Does some work on the rows as one new version; None where it changed nothing.

        ``work`` answers with a summary. Whatever it raises, the rows are as they were.
        """
        return self._commit(kind, work, None)

    def _commit(
        self, kind: VersionKind, work: Callable[[apsw.Connection], str], stands_for: int | None
    ) -> Version | None:
        with self._changing, self._opened(writable=True) as db:
            until = time.monotonic() + SECONDS
            db.set_progress_handler(lambda: time.monotonic() > until, _STEPS_BETWEEN_LOOKS)
            db.execute("PRAGMA foreign_keys = on")
            db.execute("BEGIN IMMEDIATE")
            session = apsw.Session(db, "main")
            session.config(apsw.SQLITE_SESSION_OBJCONFIG_ROWID, True)
            try:
                session.attach()
                summary = work(db)
                changeset = session.changeset()
            except BaseException as problem:
                session.close()
                if db.in_transaction:
                    db.execute("ROLLBACK")
                if isinstance(problem, apsw.InterruptError):
                    raise TooSlow("the change takes too long, and was not made.") from problem
                raise
            session.close()
            if not changeset:
                db.execute("ROLLBACK")
                return None
            version = self._record(kind, summary, changeset, stands_for)
            db.execute(f"PRAGMA user_version = {version.number}")
            db.execute("COMMIT")
            return version

    def _record(
        self, kind: VersionKind, summary: str, changeset: bytes, stands_for: int | None
    ) -> Version:
        counts = _counts(changeset)
        with self._history() as history:
            number, before = next(
                history.execute(
                    "SELECT number, stands_for FROM versions ORDER BY number DESC LIMIT 1"
                )
            )
            number += 1
            made_at = datetime.now(UTC)
            version = Version(number, made_at, kind, summary, stands_for or number, before, *counts)
            history.execute(
                "INSERT INTO versions VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
                (number, made_at.isoformat(), kind, summary, version.stands_for, before, *counts,
                 changeset),
            )  # fmt: skip
            return version

    def changesets(self, after: int, until: int) -> list[bytes]:
        """The changesets of the versions above ``after`` up to ``until``, in their order."""
        with self._history() as history:
            found = history.execute(
                "SELECT changeset FROM versions WHERE number > ? AND number <= ? ORDER BY number",
                (after, until),
            )
            return [changeset for (changeset,) in found]

    def undo(self) -> Version:
        """Takes back the last change that stands. Raises :class:`UnusableInput` where none does."""
        with self._changing:
            standing = _standing(self.versions())
            if standing.kind == "made":
                raise UnusableInput("there is nothing to undo.")
            (changeset,) = self.changesets(standing.number - 1, standing.number)
            inverse = apsw.Changeset.invert(changeset)
            return self._apply("undo", inverse, f"undone: {standing.summary}", standing.before)

    def redo(self) -> Version:
        """Makes the last change that was undone once more. Raises :class:`UnusableInput`."""
        with self._changing:
            undone = _undone(self.versions())
            if undone is None:
                raise UnusableInput("there is nothing to redo.")
            (changeset,) = self.changesets(undone.number - 1, undone.number)
            return self._apply("redo", changeset, f"redone: {undone.summary}", undone.number)

    def can(self) -> tuple[str, str]:
        """What undo and redo would take back or make again; empty where there is nothing."""
        versions = self.versions()
        standing, undone = _standing(versions), _undone(versions)
        return (
            "" if standing.kind == "made" else standing.summary,
            undone.summary if undone else "",
        )

    def restore(self, number: int) -> Version:
        """Brings the rows of an earlier version back. Raises :class:`UnusableInput`."""
        with self._changing:
            inverse = self._back_to(number)
            if inverse is None:
                raise UnusableInput(f"the rows are those of version {number} already.")
            return self._apply("restore", inverse, f"version {number} restored", None)

    def _back_to(self, number: int) -> bytes | None:
        """What leads back to a version's rows; None where they are the same.

        Raises :class:`UnusableInput` where there is no such version, or its tables were others.
        """
        current, first = self.version, self.versions()[0].number
        if not 1 <= number <= current:
            raise UnusableInput(f"there is no version {number}.")
        if number < first:
            raise UnusableInput(
                f"version {number} had other tables, which were changed with version {first}."
            )
        return apsw.Changeset.invert(self.net_changeset(number, current)) or None

    def _apply(
        self, kind: VersionKind, changeset: bytes, summary: str, stands_for: int | None
    ) -> Version:
        def work(db: apsw.Connection) -> str:
            apply_changeset(db, changeset)
            return summary

        version = self._commit(kind, work, stands_for)
        if version is None:
            raise UnusableInput("the rows are the same in both versions.")
        return version

    @contextmanager
    def at_version(self, number: int) -> Iterator[apsw.Connection]:
        """The rows of a version, in memory unless it is the current one; for reading."""
        with self.reading() as db:
            inverse = self._back_to(number)
            if inverse is None:
                yield db
                return
            copy = apsw.Connection(":memory:")
            try:
                with copy.backup("main", db, "main") as backup:
                    backup.step()
                apply_changeset(copy, inverse)
                yield copy
            finally:
                copy.close(True)

    def net_changeset(self, older: int, newer: int) -> bytes:
        """What leads from one version's rows to another's, as one changeset."""
        together = apsw.ChangesetBuilder()  # type: ignore[no-untyped-call]
        for changeset in self.changesets(older, newer):
            together.add(changeset)
        return together.output()

    # copies

    def copy_to(self, target: Path) -> None:
        """Writes the current rows to a file of their own, whole or not at all."""
        unfinished = target.with_name(target.name + ".unfinished")
        unfinished.unlink(missing_ok=True)
        copy = apsw.Connection(str(unfinished))
        try:
            with self.reading() as db, copy.backup("main", db, "main") as backup:
                while not backup.done:
                    backup.step(10_000)
            copy.execute("PRAGMA journal_mode = delete")
        finally:
            copy.close(True)
        unfinished.replace(target)


_GONE: Final = (
    "the tables were deleted, or others were put in their place, a moment ago; look again."
)

_HISTORY_TABLE: Final = """
    CREATE TABLE versions (
        number INTEGER PRIMARY KEY, made_at TEXT NOT NULL, kind TEXT NOT NULL,
        summary TEXT NOT NULL, stands_for INTEGER NOT NULL, before INTEGER NOT NULL,
        added INTEGER NOT NULL, changed INTEGER NOT NULL, removed INTEGER NOT NULL, changeset BLOB
    )
"""


def version_of(db: apsw.Connection) -> int:
    """The number of the version whose rows a connection sees."""
    return int(db.pragma("user_version"))


def empty_tables(file: Path) -> None:
    """Takes all rows out of a dataset's file."""
    db = apsw.Connection(str(file))
    try:
        db.execute("PRAGMA foreign_keys = off")
        for table in read_schema(db):
            if table.kind == "table":
                db.execute(f"DELETE FROM {quoted_name(table.name)}")
        db.execute("VACUUM")
    finally:
        db.close()


def _numbered(versions: Sequence[Version], number: int) -> Version:
    """A version by its number: they have no gaps, and the first that is kept need not be 1."""
    return versions[number - versions[0].number]


def _standing(versions: Sequence[Version]) -> Version:
    """The change that made the rows what they are."""
    return _numbered(versions, versions[-1].stands_for)


def _undone(versions: Sequence[Version]) -> Version | None:
    """The change that a redo would make: undone, and nothing new since."""
    now = versions[-1].stands_for
    for at in range(len(versions) - 1, 0, -1):
        version = versions[at]
        if version.kind not in ("undo", "redo"):
            return None
        if version.kind == "undo" and version.stands_for == now:
            return _numbered(versions, versions[at - 1].stands_for)
    return None


def _counts(changeset: bytes) -> tuple[int, int, int]:
    added = changed = removed = 0
    for one in apsw.Changeset.iter(changeset):
        added += one.op == "INSERT"
        changed += one.op == "UPDATE"
        removed += one.op == "DELETE"
    return added, changed, removed


class _Conflict(Exception):
    """Raised where a changeset does not fit the rows that it is applied to."""


def apply_changeset(db: apsw.Connection, changeset: bytes) -> None:
    """Applies a changeset whole. The rows are those that it was made for, so that it fits.

    Foreign keys are left alone: the rows that come out stood in this database before, and what a
    key's action did is in the changeset.
    """

    def conflict(reason: int, _: Any) -> int:
        if reason == apsw.SQLITE_CHANGESET_FOREIGN_KEY:
            return int(apsw.SQLITE_CHANGESET_OMIT)
        return int(apsw.SQLITE_CHANGESET_ABORT)

    try:
        apsw.Changeset.apply(
            changeset, db, conflict=conflict, flags=apsw.SQLITE_CHANGESETAPPLY_FKNOACTION
        )
    except apsw.AbortError as problem:
        raise _Conflict(str(problem)) from problem
