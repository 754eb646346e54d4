"""MariaDB's scratch database: temporary tables, which hide the dataset's own from one connection.

A view would still read those: where a query names one, what it is stands before the query.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Final

import pymysql
from pymysql.connections import Connection
from pymysql.cursors import Cursor, SSCursor

from jentrow.core.engines.answers import Answer, Stop, failed, within_bounds
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.mariadb.connection import (
    abandoned,
    asked,
    bounds,
    connected_to_dataset,
    ended,
    is_gone,
    is_mariadb,
    output_columns,
    words_of,
)
from jentrow.core.engines.mariadb.policy import refusal
from jentrow.core.engines.mariadb.problems import rejected
from jentrow.core.engines.mariadb.tables import named, schema_of
from jentrow.core.engines.servers.engine import ServerAddress
from jentrow.core.engines.servers.scratch import PATIENCE, Gone, OpenScratches, ServerScratch
from jentrow.core.results import Row
from jentrow.core.sql.text import quoted_name
from jentrow.core.sql.tokens import tokens_of

_VIEWS: Final = (
    "SELECT table_name, view_definition FROM information_schema.views WHERE table_schema = %s "
    "ORDER BY table_name"
)
_REFERENCE: Final = re.compile(r"\s*CONSTRAINT\s.*\sFOREIGN KEY\s")


class MariaDBScratch(ServerScratch):
    """See :class:`ServerScratch`: its login reads the dataset, and makes temporary tables."""

    dialect = "mysql"

    def __init__(self, opened: OpenScratches, address: ServerAddress, location: str) -> None:
        """``address`` is that for reading.

        Raises :class:`EngineUnavailable`, and ``pymysql.Error`` where it may not make such tables.
        """
        self._address, self._location = address, location
        self._db: Connection[SSCursor] | None = None
        self._limits: Limits | None = None
        db = connected_to_dataset(address, location)
        try:
            super().__init__(opened, schema_of(db, location))
            found = asked(db, _VIEWS, location)
            self._views = {name.lower(): (name, query) for name, query in found}
            self._ddl = [_temporary(db, location, name) for name in self._tables]
            for sql in self._ddl:
                asked(db, sql)
        finally:
            db.close()

    @property
    def is_open(self) -> bool:
        """Whether there is a connection."""
        return self._db is not None and self._db.open

    def close(self) -> None:
        """Ends the connection."""
        if self._db is not None:
            ended(self._db)
        self._db, self._limits = None, None

    def _open(self) -> None:
        self._db = connected_to_dataset(self._address, self._location)
        read_only = "tx_read_only" if is_mariadb(self._db) else "transaction_read_only"
        try:
            for sql in self._ddl:
                asked(self._db, sql)
            # Temporary tables may be written to all the same, and a key may be 0.
            asked(
                self._db,
                f"SET SESSION {read_only} = 1, "
                "sql_mode = CONCAT(@@sql_mode, ',NO_AUTO_VALUE_ON_ZERO')",
            )
        except pymysql.Error as problem:
            raise Gone(words_of(problem)) from problem

    def _filled(self, rows: Mapping[str, Sequence[Row]], backwards: bool) -> bool:
        assert self._db is not None
        try:
            with self._db.cursor(Cursor) as cursor:
                for name in self._tables:
                    cursor.execute(f"DELETE FROM {quoted_name(name, self.dialect)}")
                for name, held in rows.items():
                    if not held:
                        continue
                    columns = [one.name for one in self._tables[name].writable]
                    names = ", ".join(quoted_name(one, self.dialect) for one in columns)
                    row = f"({', '.join(['%s'] * len(columns))})"
                    cursor.execute(
                        f"INSERT INTO {quoted_name(name, self.dialect).replace('%', '%%')} "
                        f"({names.replace('%', '%%')}) VALUES {', '.join([row] * len(held))}",
                        [cell for one in (reversed(held) if backwards else held) for cell in one],
                    )
        except (pymysql.Error, OSError) as problem:
            if is_gone(problem):
                raise Gone(words_of(problem)) from problem
            return False
        return True

    def _ran(self, sql: str, limits: Limits) -> Answer:
        if refused := refusal(sql):
            return refused
        assert self._db is not None
        whole = self._with_views(sql)
        if whole is None:
            return failed("error", "sql.object", "")
        try:
            if self._limits != limits:
                settings = bounds(self._db, limits.seconds * PATIENCE, limits.memory_mb)
                asked(self._db, f"SET SESSION {', '.join(settings)}")
                self._limits = limits
            return self._asked(self._db, whole, limits)
        except (pymysql.Error, OSError) as problem:
            if is_gone(problem):
                raise Gone(words_of(problem)) from problem
            return rejected(problem)

    def _asked(self, db: Connection[SSCursor], sql: str, limits: Limits) -> Answer:
        cursor = db.cursor()
        try:
            cursor.execute(sql)
            columns = output_columns(cursor)
            return ("rows", tuple(name for name, _ in columns), within_bounds(cursor, limits), ())
        except Stop as stop:
            abandoned(cursor)  # rows that nobody reads are still on their way
            return failed("stopped", stop.code, "")
        except (ValueError, UnicodeDecodeError) as problem:
            abandoned(cursor)
            return failed("error", "sql.runtime", str(problem))

    def _with_views(self, sql: str) -> str | None:
        """A query with the views that it names written out before it; None where they cannot be."""
        if not self._views:
            return sql
        tokens = tokens_of(sql, self.dialect)
        names = [sql[one.start : one.end].strip("`").lower() for one in tokens]
        wanted = self._behind({one for one in names if one in self._views})
        if not wanted:
            return sql
        parts = ", ".join(self._written_out(one) for one in self._views if one in wanted)
        if tokens[0].word != "WITH":
            return f"WITH {parts} {sql}"
        following = (one.word for one in tokens[1:])
        if any(
            name in wanted and word in ("AS", "(")
            for name, word in zip(names, following, strict=False)
        ):
            return None  # the text has a query of that name itself
        after = tokens[1 if tokens[1].word == "RECURSIVE" else 0].end
        return f"{sql[:after]} {parts}, {sql[after:]}"

    def _behind(self, wanted: set[str]) -> set[str]:
        """Views, and those that they read."""
        more = {
            other
            for other, (name, _) in self._views.items()
            if any(named(self._location, name) in self._views[one][1] for one in wanted)
        }
        return wanted if more <= wanted else self._behind(wanted | more)

    def _written_out(self, view: str) -> str:
        name, query = self._views[view]
        for other, _ in self._views.values():
            query = query.replace(named(self._location, other), quoted_name(other, self.dialect))
        return f"{quoted_name(name, self.dialect)} AS ({query})"


def _temporary(db: Connection[SSCursor], database: str, table: str) -> str:
    """The DDL of a table as a temporary one: it can refer to no other, and has no parts."""
    ((_, ddl),) = asked(db, f"SHOW CREATE TABLE {named(database, table)}")
    first, *lines = ddl.split("\n")
    last = next(at for at, line in enumerate(lines) if line.startswith(")"))
    kept = [one.rstrip(",") for one in lines[:last] if not _REFERENCE.match(one)]
    end = lines[last].partition("/*")[0]
    return (
        f"{first.replace('CREATE TABLE', 'CREATE TEMPORARY TABLE', 1)}\n"
        + ",\n".join(kept)
        + f"\n{end}"
    )
