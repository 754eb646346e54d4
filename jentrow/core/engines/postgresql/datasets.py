"""A dataset on a PostgreSQL server: a schema of its own, and a login that reads it and nothing else."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, Final, LiteralString

import psycopg
from psycopg import sql as text

from jentrow.core.engines.answers import Tables
from jentrow.core.engines.loading.datasets import load_parts
from jentrow.core.engines.postgresql.connection import connected, connected_to_dataset
from jentrow.core.engines.postgresql.loader import PostgreSQLLoader
from jentrow.core.engines.postgresql.tables import tables_in
from jentrow.core.engines.protocol import DatasetParts
from jentrow.core.engines.servers.engine import KEPT_DAYS, PREFIX, ServerAddress, dataset_password
from jentrow.core.errors import EngineUnavailable

SCRIPT_SECONDS: Final = 120
TEMP_FILES: Final = "512MB"
"""What one query may lay on the server's disk, where the administrator's login may say so."""

_Connection = psycopg.Connection[tuple[Any, ...]]


def build_dataset(address: ServerAddress, name: str, parts: DatasetParts) -> Tables:
    """Loads a dataset into the schema of this name, unless it is there already.

    ``address`` is the administrator's. Raises :class:`InvalidSample` and
    :class:`EngineUnavailable`.
    """
    with _working(address) as db, _alone(db, name):
        if _is_there(db, name):
            db.execute("UPDATE jentrow.datasets SET used_at = now() WHERE name = %s", (name,))
            db.execute(_with_password("ALTER ROLE {} PASSWORD {}", address, name))
        else:
            _drop_old(db)
            _make(db, address, name, parts)
        return tables_in(db, name)


@contextmanager
def _administrator(address: ServerAddress) -> Iterator[_Connection]:
    db = connected(address, user=address.user, password=address.password)
    try:
        yield db
    finally:
        db.close()


@contextmanager
def _alone(db: _Connection, name: str) -> Iterator[None]:
    """While this lasts nobody else loads the same dataset."""
    number = int.from_bytes(hashlib.sha256(name.encode()).digest()[:8], "big", signed=True)
    db.execute("SELECT pg_advisory_lock(%s)", (number,))
    try:
        yield
    finally:
        db.execute("SELECT pg_advisory_unlock(%s)", (number,))


@contextmanager
def _only_one(db: _Connection) -> Iterator[None]:
    """A transaction that changes who may do what in the database: of two at a time one would fail."""
    with db.transaction():
        db.execute("SELECT pg_advisory_xact_lock(7363)")
        yield


def _prepare(db: _Connection) -> None:
    """The list of what was loaded, and when it was asked for last."""
    db.execute("SET client_min_messages = warning")
    with db.transaction():
        # Two that begin at once must not both make it.
        db.execute("SELECT pg_advisory_xact_lock(7361)")
        db.execute("CREATE SCHEMA IF NOT EXISTS jentrow")
        db.execute(
            "CREATE TABLE IF NOT EXISTS jentrow.datasets (name text PRIMARY KEY, "
            "loaded_at timestamptz NOT NULL DEFAULT now(), used_at timestamptz NOT NULL DEFAULT now())"
        )


def _is_there(db: _Connection, name: str) -> bool:
    _prepare(db)
    found = db.execute(
        "SELECT 1 FROM jentrow.datasets AS d JOIN pg_catalog.pg_namespace AS n ON n.nspname = d.name "
        "WHERE d.name = %s",
        (name,),
    )
    return found.fetchone() is not None


def make_copy(address: ServerAddress, name: str, parts: DatasetParts) -> None:
    """Loads a dataset into a schema of this name that its login may change.

    ``address`` is the administrator's. Raises :class:`InvalidSample` and
    :class:`EngineUnavailable`.
    """
    with _working(address) as db:
        _prepare(db)
        _drop_old(db)
        _fill(db, address, name, parts)
        login = text.Identifier(name)
        db.execute(text.SQL("ALTER ROLE {} CONNECTION LIMIT 8").format(login))
        _bound_files(db, login)
        db.execute(text.SQL("REVOKE {} FROM CURRENT_USER").format(login))
        _note(db, name)


def drop_copy(address: ServerAddress, name: str) -> None:
    """Deletes a copy. Raises :class:`EngineUnavailable`."""
    with _working(address) as db:
        _prepare(db)
        _drop(db, name)


def use_copy(address: ServerAddress, name: str) -> None:
    """Notes that a copy is in use, so that it stays. Raises :class:`EngineUnavailable`."""
    with _working(address) as db:
        _prepare(db)
        db.execute("UPDATE jentrow.datasets SET used_at = now() WHERE name = %s", (name,))


@contextmanager
def _working(address: ServerAddress) -> Iterator[_Connection]:
    try:
        with _administrator(address) as db:
            yield db
    except psycopg.Error as problem:
        raise EngineUnavailable(
            f"PostgreSQL at {address.says()} cannot keep a dataset: {str(problem).strip()}."
        ) from problem


def _fill(db: _Connection, address: ServerAddress, name: str, parts: DatasetParts) -> None:
    """A schema with a login that owns it and all that is in it."""
    _drop(db, name)
    login = text.Identifier(name)
    db.execute(_with_password("CREATE ROLE {} LOGIN NOINHERIT PASSWORD {}", address, name))
    db.execute(text.SQL("GRANT {} TO CURRENT_USER").format(login))
    db.execute(text.SQL("CREATE SCHEMA {0} AUTHORIZATION {0}").format(login))
    own = connected_to_dataset(
        address.reading, name, f"-c search_path={name} -c statement_timeout={SCRIPT_SECONDS}s"
    )
    loader = PostgreSQLLoader(own, name)
    try:
        load_parts(loader, parts)
    except BaseException:
        own.close()
        _drop(db, name)
        raise
    own.close()


def _make(db: _Connection, address: ServerAddress, name: str, parts: DatasetParts) -> None:
    _fill(db, address, name, parts)
    login = text.Identifier(name)
    # From here on the login only reads: nothing is its own any more.
    db.execute(text.SQL("REASSIGN OWNED BY {} TO CURRENT_USER").format(login))
    db.execute(text.SQL("GRANT USAGE ON SCHEMA {0} TO {0}").format(login))
    db.execute(text.SQL("GRANT SELECT ON ALL TABLES IN SCHEMA {0} TO {0}").format(login))
    db.execute(text.SQL("ALTER ROLE {} CONNECTION LIMIT 64").format(login))
    # In tables that its connection alone sees made-up rows are tried.
    database = text.Identifier(address.database)
    with _only_one(db):
        db.execute(text.SQL("GRANT TEMPORARY ON DATABASE {} TO {}").format(database, login))
    _bound_files(db, login)
    db.execute(text.SQL("REVOKE {} FROM CURRENT_USER").format(login))
    for table, _, rows in tables_in(db, name):
        if rows is not None:
            db.execute(text.SQL("ANALYZE {}").format(text.Identifier(name, table)))
    _note(db, name)


def _note(db: _Connection, name: str) -> None:
    db.execute(
        "INSERT INTO jentrow.datasets (name) VALUES (%s) "
        "ON CONFLICT (name) DO UPDATE SET loaded_at = now(), used_at = now()",
        (name,),
    )


def _with_password(template: LiteralString, address: ServerAddress, name: str) -> text.Composed:
    password = dataset_password(address.reading.password, name)
    return text.SQL(template).format(text.Identifier(name), text.Literal(password))


def _bound_files(db: _Connection, login: text.Identifier) -> None:
    """Bounds what a query lays on the disk: a right that not every administrator's login has."""
    limit = text.SQL("ALTER ROLE {} SET temp_file_limit = {}").format(
        login, text.Literal(TEMP_FILES)
    )
    try:
        db.execute(limit)
    except psycopg.errors.InsufficientPrivilege:
        return


def _drop_old(db: _Connection) -> None:
    """Deletes the datasets that nobody asked for in a long time, unless another process is at it."""
    ((is_alone,),) = db.execute("SELECT pg_try_advisory_lock(7362)").fetchall()
    if not is_alone:
        return
    try:
        old = db.execute(
            "SELECT name FROM jentrow.datasets WHERE used_at < now() - make_interval(days => %s)",
            (KEPT_DAYS,),
        ).fetchall()
        for (name,) in old:
            _drop(db, name)
    finally:
        db.execute("SELECT pg_advisory_unlock(7362)")


def _drop(db: _Connection, name: str) -> None:
    """Deletes a dataset or a copy and its login, as far as they are there."""
    assert name.startswith(PREFIX)
    login = text.Identifier(name)
    found = db.execute("SELECT 1 FROM pg_catalog.pg_roles WHERE rolname = %s", (name,)).fetchone()
    if found:  # what the schema of a copy belongs to
        db.execute(text.SQL("GRANT {} TO CURRENT_USER").format(login))
    db.execute("DELETE FROM jentrow.datasets WHERE name = %s", (name,))
    db.execute(text.SQL("DROP SCHEMA IF EXISTS {} CASCADE").format(login))
    if found:
        with _only_one(db):
            db.execute(text.SQL("DROP OWNED BY {} CASCADE").format(login))
        db.execute(text.SQL("DROP ROLE {}").format(login))
