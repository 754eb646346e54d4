"""Fills a database on a MariaDB server with a dataset."""

from __future__ import annotations

import datetime as dt
import tempfile
from collections.abc import Iterable, Sequence
from itertools import islice
from pathlib import Path
from typing import Any, Final

import pymysql
from pymysql.connections import Connection
from pymysql.cursors import Cursor, SSCursor

from jentrow.core.engines.answers import Tables
from jentrow.core.engines.loading.datasets import records_with_bytes
from jentrow.core.engines.loading.loader import StatementFailed
from jentrow.core.engines.loading.neutral import Kind, NeutralTable, NeutralType
from jentrow.core.engines.loading.rules import TableRules
from jentrow.core.engines.mariadb.connection import (
    asked,
    connected_to_dataset,
    is_mariadb,
    words_of,
)
from jentrow.core.engines.mariadb.tables import tables_in
from jentrow.core.engines.servers.engine import ServerAddress
from jentrow.core.sql.text import quoted_name, quoted_text

SCRIPT_SECONDS: Final = 120
PORTION: Final = 1_000
SHORT: Final = 255

_BINARY: Final = frozenset({"binary", "varbinary", "blob", "tinyblob", "mediumblob", "longblob"})

_TYPES: Final[dict[Kind, str]] = {
    "small": "SMALLINT", "integer": "INT", "big": "BIGINT", "float": "DOUBLE",
    "date": "DATE", "time": "TIME", "span": "TIME", "timestamp": "DATETIME", "instant": "DATETIME",
    "interval": "VARCHAR(60)", "boolean": "BOOLEAN", "json": "JSON", "identifier": "CHAR(36)",
    "list": "JSON",
}  # fmt: skip


class MariaDBLoader:
    """A new database, being filled by its own login: it can reach nothing else."""

    dialect = "mysql"
    script_dialect = ""

    def __init__(self, db: Connection[SSCursor], address: ServerAddress, database: str) -> None:
        """``address`` is that for reading."""
        self._db, self._address, self._database = db, address, database
        self._types: dict[tuple[str, str], str] = {}
        asked(db, "SET SESSION foreign_key_checks = 0")
        if is_mariadb(db):
            asked(db, f"SET SESSION max_statement_time = {SCRIPT_SECONDS}")

    def form(self, kind: Kind, text: str) -> str:
        """Instants have no zone: they stand in UTC."""
        return _in_utc(text) if kind == "instant" else text

    def run(self, sql: str) -> None:
        """Runs one statement of a script."""
        try:
            asked(self._db, sql)
        except pymysql.Error as problem:
            raise StatementFailed(words_of(problem)) from problem

    def columns(self) -> dict[str, tuple[str, dict[str, bool]]]:
        """The tables, with their columns and whether each holds bytes."""
        found: dict[str, tuple[str, dict[str, bool]]] = {}
        for table, column, type in asked(
            self._db,
            "SELECT table_name, column_name, data_type FROM information_schema.columns "
            "WHERE table_schema = %s ORDER BY table_name, ordinal_position",
            self._database,
        ):
            found.setdefault(table.lower(), (table, {}))[1][column] = type.lower() in _BINARY
            self._types[table, column] = type.lower()
        return found

    def empty(self) -> None:
        """Deletes the rows of all tables."""
        for name, _, rows in tables_in(self._db, self._database):
            if rows:
                self.run(f"TRUNCATE TABLE {_quoted(name)}")

    def copy(self, table: str, columns: Sequence[str], path: Path) -> None:
        """Loads a CSV file: whole where the server takes files, else many rows at once."""
        name, known = self.columns()[table.lower()]
        binary = [known[column] for column in columns]
        names = ", ".join(map(_quoted, columns))
        small = [self._types[name, column] == "tinyint" for column in columns]
        if not any(binary):
            lines = None if any(small) or len(columns) < 2 else _simple_lines(path)
            if lines is not None and self._whole(name, names, [lines], ","):
                return
        records = records_with_bytes(path, binary)
        if not any(binary):
            written = (_line(record, small, any(small)) for record in records)
            if self._whole(name, names, written, "\\t"):
                return
        marks = ", ".join(["%s"] * len(columns))
        insert = f"INSERT INTO {_quoted(name)} ({names}) VALUES ({marks})"
        left = iter(records)
        try:
            with self._db.cursor(Cursor) as cursor:
                self._db.begin()
                while portion := [list(map(_sent, one, small)) for one in islice(left, PORTION)]:
                    cursor.executemany(insert, portion)
                self._db.commit()
        except pymysql.Error as problem:
            self._db.rollback()
            raise StatementFailed(words_of(problem)) from problem

    def _whole(self, name: str, names: str, lines: Iterable[str], between: str) -> bool:
        """Loads rows as one file; false, and the table empty, where that is not taken or not clean.

        On a connection of its own: no script runs where files of this process can be named.
        """
        with tempfile.NamedTemporaryFile("w", encoding="utf-8", newline="") as file:
            file.writelines(lines)
            file.flush()
            load = (
                f"LOAD DATA LOCAL INFILE '{file.name}' INTO TABLE {_quoted(name)} CHARACTER SET utf8mb4 "
                f"FIELDS TERMINATED BY '{between}' LINES TERMINATED BY '\\n' ({names})"
            )
            own = connected_to_dataset(self._address, self._database, files=True)
            try:
                asked(own, "SET SESSION foreign_key_checks = 0")
                asked(own, load)
                # What an INSERT would refuse is only warned of here.
                if not asked(own, "SHOW WARNINGS"):
                    return True
                asked(own, f"DELETE FROM {_quoted(name)}")
            except pymysql.Error:
                return False
            finally:
                own.close()
        return False

    def create(self, table: NeutralTable, rules: TableRules) -> None:
        """Makes a table."""
        schema = table.schema
        keyed = {name.lower() for key in schema.keys for name in key}
        keyed |= {name.lower() for key in schema.foreign_keys for name in key.columns}
        parts = []
        for column, type in zip(table.columns, table.types, strict=True):
            said = f"{_quoted(column.name)} {_type(type, column.name.lower() in keyed)}"
            if column.name not in rules.computed:
                needed = column.not_null or column.name in schema.primary_key
                said += " NOT NULL" if needed else " NULL"
            computed, number = "AS ({}) STORED", "AUTO_INCREMENT"
            parts.append(said + rules.of_column(column.name, computed=computed, numbered=number))
        for key in schema.keys:
            kind = "PRIMARY KEY" if key == schema.primary_key else "UNIQUE"
            # To the collation two such keys are one: it would take the second row for the first.
            kind = "INDEX" if key in table.loose_keys else kind
            parts.append(f"{kind} ({', '.join(map(_quoted, key))})")
        parts += [
            f"FOREIGN KEY ({', '.join(map(_quoted, key.columns))}) "
            f"REFERENCES {_quoted(key.table)} ({', '.join(map(_quoted, key.to))})"
            f"{key.actions if rules.actions else ''}"
            for key in schema.foreign_keys
        ]
        parts += [f"CHECK ({check})" for check in rules.checks]
        self.run(f"CREATE TABLE {_quoted(schema.name)} ({', '.join(parts)})")

    def drop(self, table: str) -> None:
        """Deletes a table."""
        self.run(f"DROP TABLE IF EXISTS {_quoted(table)}")

    def own_name(self, name: str) -> str:
        """Names are the sample's own."""
        return name

    def type_of(self, type: NeutralType) -> str:
        """MariaDB's own type for one of a sample's, in no key."""
        return _type(type, False)

    def start_over(self) -> None:
        """Makes the database empty again."""
        for name, _, rows in tables_in(self._db, self._database):
            self.run(f"DROP {'VIEW' if rows is None else 'TABLE'} IF EXISTS {_quoted(name)}")

    def tables(self) -> Tables:
        """What is in it."""
        return tables_in(self._db, self._database)


def _in_utc(text: str) -> str:
    try:
        moment = dt.datetime.fromisoformat(text)
    except ValueError:
        return text
    return moment.astimezone(dt.UTC).replace(tzinfo=None).isoformat(" ") if moment.tzinfo else text


def _type(type: NeutralType, keyed: bool) -> str:
    match type.kind:
        case "decimal":
            return f"DECIMAL({type.size}, {type.places})"
        case "char" | "varchar":
            return f"{type.kind.upper()}({type.size})"
        case "text":
            return f"VARCHAR({SHORT})" if keyed or type.longest <= SHORT else "LONGTEXT"
        case "enumeration":
            return f"ENUM({', '.join(quoted_text(one.replace(_ESCAPE, _ESCAPE * 2)) for one in type.values)})"
        case "binary":
            return f"VARBINARY({SHORT})" if keyed else "LONGBLOB"
        case "time" | "span" | "timestamp" | "instant":
            return _TYPES[type.kind] + (f"({type.places})" if type.places else "")
        case kind:
            return _TYPES[kind]


def _simple_lines(path: Path) -> str | None:
    """The rows of a CSV file as LOAD DATA takes them; None where a field is quoted or escaped."""
    content = path.read_bytes()
    if b'"' in content or b"\\" in content or b"\r" in content or not content.endswith(b"\n"):
        return None
    try:
        _, _, rows = content.decode("utf-8").partition("\n")
    except UnicodeDecodeError:
        return None
    rows = f"\n{rows}"
    # Twice: of three commas the second one begins another pair.
    for pair in (",,", ",,", ",\n", "\n,"):
        rows = rows.replace(pair, rf"{pair[0]}\N{pair[1]}")
    return rows[1:]


def _line(record: Sequence[str | bytes | None], small: Sequence[bool], any_small: bool) -> str:
    """A row as LOAD DATA takes it."""
    cells: list[Any] = list(map(_sent, record, small)) if any_small else list(record)
    texts = [one for one in cells if one.__class__ is str]
    joined = "".join(texts)
    if not joined.isprintable() or "\\" in joined:
        cells = [one.translate(_ESCAPED) if one.__class__ is str else one for one in cells]
    return "\t".join(["\\N" if one is None else str(one) for one in cells]) + "\n"


_ESCAPE: Final = "\\"
_ESCAPED: Final = str.maketrans({"\\": "\\\\", "\t": "\\t", "\n": "\\n", "\r": "\\r", "\0": "\\0"})


def _sent(cell: str | bytes | None, is_small: bool) -> str | bytes | int | None:
    """A cell as MariaDB takes it: a boolean is a small number there, and has no words."""
    return _TRUTHS.get(cell.lower(), cell) if is_small and isinstance(cell, str) else cell


_TRUTHS: Final = {"true": 1, "false": 0, "t": 1, "f": 0}


def _quoted(name: str) -> str:
    return quoted_name(name, "mysql")
