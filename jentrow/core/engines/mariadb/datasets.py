"""A dataset on a MariaDB server: a database of its own, and a login that reads it and nothing else."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Final

import pymysql
from pymysql.connections import Connection
from pymysql.cursors import SSCursor

from jentrow.core.engines.answers import Tables
from jentrow.core.engines.loading.datasets import load_parts
from jentrow.core.engines.mariadb.connection import (
    asked,
    connected,
    connected_to_dataset,
    number_of,
    words_of,
)
from jentrow.core.engines.mariadb.loader import MariaDBLoader
from jentrow.core.engines.mariadb.tables import named, tables_in
from jentrow.core.engines.protocol import DatasetParts
from jentrow.core.engines.servers.engine import KEPT_DAYS, PREFIX, ServerAddress, dataset_password
from jentrow.core.errors import EngineUnavailable
from jentrow.core.sql.text import quoted_name

LOCKING_SECONDS: Final = 300
CONNECTIONS: Final = 8
"""How many connections the login of a copy may have."""

_READING: Final = "SELECT, SHOW VIEW, CREATE TEMPORARY TABLES"
"""What the login of a dataset may do; in tables that its connection alone sees made-up rows are tried."""

_CHANGING: Final = (
    "SELECT, INSERT, UPDATE, DELETE, CREATE, DROP, ALTER, INDEX, REFERENCES, CREATE VIEW, SHOW VIEW"
)
"""What a learner may do in a copy: no triggers, no routines, no events, no locks of tables."""

_NO_DATABASE: Final = 1008


def build_dataset(address: ServerAddress, name: str, parts: DatasetParts) -> Tables:
    """Loads a dataset into the database of this name, unless it is there already.

    ``address`` is the administrator's. Raises :class:`InvalidSample` and
    :class:`EngineUnavailable`.
    """
    with _working(address) as db, _alone(db, name):
        if _is_there(db, name):
            _note_used(db, name)
            password = dataset_password(address.reading.password, name)
            asked(db, f"ALTER USER '{name}'@'%%' IDENTIFIED BY %s", password)
            return tables_in(db, name)
        _drop_old(db)
        tables = _fill(db, address, name, parts)
        asked(db, f"GRANT {_READING} ON {_as_pattern(name)}.* TO '{name}'@'%'")
        _note(db, name)
        return tables


def make_copy(address: ServerAddress, name: str, parts: DatasetParts) -> None:
    """Loads a dataset into a database of this name that its login may change.

    Beside it is another one, for what a script that fails began with. ``address`` is the
    administrator's. Raises :class:`InvalidSample` and :class:`EngineUnavailable`.
    """
    with _working(address) as db:
        _drop_old(db)
        _fill(db, address, name, parts)
        asked(db, f"CREATE DATABASE {_quoted(before(name))} CHARACTER SET utf8mb4")
        for database in (name, before(name)):
            asked(db, f"GRANT {_CHANGING} ON {_as_pattern(database)}.* TO '{name}'@'%'")
        asked(db, f"ALTER USER '{name}'@'%' WITH MAX_USER_CONNECTIONS {CONNECTIONS}")
        _note(db, name)


def drop_copy(address: ServerAddress, name: str) -> None:
    """Deletes a copy. Raises :class:`EngineUnavailable`."""
    with _working(address) as db:
        _drop(db, name)


def use_copy(address: ServerAddress, name: str) -> None:
    """Notes that a copy is in use, so that it stays. Raises :class:`EngineUnavailable`."""
    with _working(address) as db:
        _note_used(db, name)


def before(copy: str) -> str:
    """The database that holds what a copy was before a script, while that runs."""
    return f"{copy}_before"


@contextmanager
def _working(address: ServerAddress) -> Iterator[Connection[SSCursor]]:
    db = connected(address, user=address.user, password=address.password)
    try:
        _prepare(db)
        yield db
    except pymysql.Error as problem:
        raise EngineUnavailable(
            f"MariaDB at {address.says()} cannot keep a dataset: {words_of(problem)}."
        ) from problem
    finally:
        db.close()


@contextmanager
def _alone(db: Connection[SSCursor], name: str) -> Iterator[None]:
    """While this lasts nobody else loads the same dataset."""
    asked(db, "SELECT GET_LOCK(%s, %s)", name, LOCKING_SECONDS)
    try:
        yield
    finally:
        asked(db, "SELECT RELEASE_LOCK(%s)", name)


def _prepare(db: Connection[SSCursor]) -> None:
    """Makes what it takes to keep track of what is on the server."""
    if not asked(db, "SELECT 1 FROM information_schema.schemata WHERE schema_name = 'jentrow'"):
        asked(db, "CREATE DATABASE IF NOT EXISTS jentrow CHARACTER SET utf8mb4")
    if not asked(
        db,
        "SELECT 1 FROM information_schema.tables WHERE table_schema = 'jentrow' "
        "AND table_name = 'datasets'",
    ):
        asked(
            db,
            "CREATE TABLE IF NOT EXISTS jentrow.datasets (name VARCHAR(64) PRIMARY KEY, "
            "loaded_at TIMESTAMP NOT NULL DEFAULT NOW(), used_at TIMESTAMP NOT NULL DEFAULT NOW())",
        )


def _is_there(db: Connection[SSCursor], name: str) -> bool:
    return bool(
        asked(
            db,
            "SELECT 1 FROM jentrow.datasets AS d JOIN information_schema.schemata AS s "
            "ON CONVERT(s.schema_name USING utf8mb4) = d.name WHERE d.name = %s",
            name,
        )
    )


def _note(db: Connection[SSCursor], name: str) -> None:
    asked(
        db,
        "INSERT INTO jentrow.datasets (name) VALUES (%s) "
        "ON DUPLICATE KEY UPDATE loaded_at = NOW(), used_at = NOW()",
        name,
    )


def _note_used(db: Connection[SSCursor], name: str) -> None:
    asked(db, "UPDATE jentrow.datasets SET used_at = NOW() WHERE name = %s", name)


def _fill(
    db: Connection[SSCursor], address: ServerAddress, name: str, parts: DatasetParts
) -> Tables:
    """Fills a database with a login that may do nothing any more when it is loaded."""
    _drop(db, name)
    reading = address.reading
    asked(db, f"CREATE DATABASE {_quoted(name)} CHARACTER SET utf8mb4")
    asked(
        db,
        f"CREATE USER '{name}'@'%%' IDENTIFIED BY %s",
        dataset_password(reading.password, name),
    )
    asked(db, f"GRANT ALL ON {_as_pattern(name)}.* TO '{name}'@'%'")
    own = connected_to_dataset(reading, name)
    loader = MariaDBLoader(own, reading, name)
    try:
        tables = load_parts(loader, parts)
    except BaseException:
        own.close()
        _drop(db, name)
        raise
    own.close()
    asked(db, f"REVOKE ALL ON {_as_pattern(name)}.* FROM '{name}'@'%'")
    for table, _, rows in tables:
        if rows is not None:
            asked(db, f"ANALYZE TABLE {named(name, table)}")
    return tables


def _as_pattern(database: str) -> str:
    """A database in GRANT, where its name is a pattern: an underscore is any sign, unless escaped."""
    return _quoted(database.replace("_", "\\_"))


def _drop_old(db: Connection[SSCursor]) -> None:
    """Deletes the datasets that nobody asked for in a long time."""
    old = asked(
        db,
        "SELECT name FROM jentrow.datasets WHERE used_at < NOW() - INTERVAL %s DAY",
        KEPT_DAYS,
    )
    for (name,) in old:
        _drop(db, name)


def _drop(db: Connection[SSCursor], name: str) -> None:
    """Deletes a dataset and its login, as far as they are there."""
    assert name.startswith(PREFIX)
    asked(db, "DELETE FROM jentrow.datasets WHERE name = %s", name)
    for database in (name, before(name)):
        try:
            asked(db, f"DROP DATABASE {_quoted(database)}")
        except pymysql.Error as problem:
            if number_of(problem) != _NO_DATABASE:
                raise
    asked(db, f"DROP USER IF EXISTS '{name}'@'%'")


def _quoted(name: str) -> str:
    return quoted_name(name, "mysql")
