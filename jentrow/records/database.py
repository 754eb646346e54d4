"""The records' database file: opened with WAL and foreign keys, brought up to date by migrations."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from copy import copy
from functools import cache
from pathlib import Path
from typing import Any, Final

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from alembic.util import CommandError
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.exc import DatabaseError, DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from jentrow.core.errors import UnusableFolder
from jentrow.records.errors import BUSY, RecordsBusy, translated, trouble_of

FILE: Final = "records.db"
MIGRATIONS: Final = Path(__file__).parent / "migrations"
BUSY_MS: Final = 30_000
CHECKPOINT_PAGES: Final = 4_000
"""Pages of 4 KiB that the log of changes grows by before they are copied into the file: a page that
changes with each of many answers is copied once for all of them."""
COURSE: Final = "course"
"""Where a session holds the course on whose behalf it is open."""
ACTOR: Final = "actor"
"""Where it holds the name of who is at work."""


class Records:
    """The open records of one data folder."""

    def __init__(self, folder: Path) -> None:
        """Opens the records, making or migrating the file. Raises :class:`UnusableFolder`."""
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as problem:
            raise UnusableFolder(
                f"{folder}: cannot be used as a data folder ({problem.strerror})."
            ) from problem
        self.folder = folder
        self.engine = _opened(folder / FILE)
        try:
            migrate(self.engine)
        except (DatabaseError, CommandError) as problem:
            self.engine.dispose()
            if isinstance(problem, DBAPIError) and (words := trouble_of(problem)):
                raise UnusableFolder(f"{folder / FILE}: {words}") from problem
            raise UnusableFolder(
                f"{folder / FILE}: not records that this version of Jentrow can open "
                f"({str(problem).splitlines()[0]}). Name another folder with --data."
            ) from problem
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)
        self._writer = threading.Lock()

    def of_course(self, course_id: int, actor: str) -> Records:
        """The same records, as somebody uses them on behalf of one course."""
        scoped = copy(self)
        scoped._sessions = sessionmaker(
            self.engine, expire_on_commit=False, info={COURSE: course_id, ACTOR: actor}
        )
        return scoped

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A session that only looks: what is to be changed, is so in a writing one.

        Raises :class:`RecordsUnavailable`.
        """
        with translated(), self._sessions.begin() as session:
            session.connection().exec_driver_sql("PRAGMA query_only = ON")
            yield session

    @contextmanager
    def writing(self, *, on_disk: bool = True) -> Iterator[Session]:
        """A session in which nobody else writes, from the first look on: what is read, holds.

        Whatever is told to anybody afterwards must be ``on_disk``. Waiting for the disk takes longer
        than most of what is written: what is worked out again where it is missing, such as a
        grading beside its task, need not be there before others may write. The end of a process
        undoes nothing of it; a failure of power may undo the last of it, never a part of one
        session, and nothing that was there when somebody wrote on disk.

        Raises :class:`RecordsConflict` or :class:`RecordsUnavailable`.
        """
        with translated(), self._sole_writer(), self._sessions.begin() as session:
            connection = session.connection()
            connection.exec_driver_sql("PRAGMA query_only = OFF")
            connection.exec_driver_sql(f"PRAGMA synchronous = {'FULL' if on_disk else 'NORMAL'}")
            connection.exec_driver_sql("BEGIN IMMEDIATE")
            yield session

    @contextmanager
    def _sole_writer(self) -> Iterator[None]:
        # The file has a lock of its own, for other processes; who waits for that looks now and then,
        # and whoever comes at the right moment goes first. Threads of this one wait in a line.
        if not self._writer.acquire(timeout=BUSY_MS / 1000):
            raise RecordsBusy(BUSY)
        try:
            yield
        finally:
            self._writer.release()

    def close(self) -> None:
        """Closes all connections."""
        self.engine.dispose()


@contextmanager
def opened_records(folder: Path) -> Iterator[Records]:
    """The records that a folder holds, also beside a running server.

    Raises :class:`UnusableFolder` where there are none.
    """
    if not (folder / FILE).is_file():
        raise UnusableFolder(f"{folder}: holds no records; name the data folder with --data.")
    records = Records(folder)
    try:
        yield records
    finally:
        records.close()


def _opened(path: Path) -> Engine:
    engine = create_engine(f"sqlite:///{path}")

    @event.listens_for(engine, "connect")
    def _configure(connection: Any, _: object) -> None:
        cursor = connection.cursor()
        cursor.execute("PRAGMA journal_mode = WAL")
        cursor.execute("PRAGMA foreign_keys = ON")
        cursor.execute(f"PRAGMA busy_timeout = {BUSY_MS}")
        cursor.execute(f"PRAGMA wal_autocheckpoint = {CHECKPOINT_PAGES}")
        cursor.close()

    return engine


def migrate(engine: Engine) -> None:
    """Brings the tables up to date, wholly or not at all.

    Where they are, nobody who writes is waited for, and no migration is read.
    """
    config = _migrations()
    with engine.connect() as connection:
        if MigrationContext.configure(connection).get_current_heads() == _newest():
            return
        connection.rollback()
        config.attributes["connection"] = connection
        # A table is altered by copying it: with keys that hold, what refers to it would go with it.
        connection.exec_driver_sql("PRAGMA foreign_keys = OFF")
        connection.exec_driver_sql("BEGIN IMMEDIATE")
        command.upgrade(config, "head")
        connection.commit()
        connection.exec_driver_sql("PRAGMA foreign_keys = ON")


def _migrations() -> Config:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    return config


@cache
def _newest() -> tuple[str, ...]:
    """What the migrations lead to, as the tables' own version says it."""
    return tuple(ScriptDirectory.from_config(_migrations()).get_heads())
