"""The tables of a database on a MariaDB server."""

from __future__ import annotations

from typing import Any, Final

from pymysql.connections import Connection
from pymysql.cursors import SSCursor

from jentrow.core.engines.answers import Tables
from jentrow.core.engines.mariadb.connection import asked, is_mariadb
from jentrow.core.samples.schema.tables import ColumnSchema, CountedTable, ForeignKey, TableSchema
from jentrow.core.sql.text import quoted_name

_COLUMNS: Final = """
    SELECT c.table_name, t.table_type = 'VIEW', c.column_name, c.column_type, c.is_nullable = 'NO',
        c.column_default, c.generation_expression
    FROM information_schema.columns AS c
    JOIN information_schema.tables AS t USING (table_schema, table_name)
    WHERE c.table_schema = %s AND t.table_type <> 'SEQUENCE' ORDER BY c.table_name, c.ordinal_position
"""
_KEYS: Final = """
    SELECT k.table_name, k.constraint_name, t.constraint_type, k.column_name,
        k.referenced_table_name, k.referenced_column_name, r.delete_rule, r.update_rule
    FROM information_schema.key_column_usage AS k
    JOIN information_schema.table_constraints AS t USING (constraint_schema, constraint_name, table_name)
    LEFT JOIN information_schema.referential_constraints AS r
        ON r.constraint_schema = k.constraint_schema AND r.constraint_name = k.constraint_name
        AND r.table_name = k.table_name
    WHERE k.table_schema = %s ORDER BY k.table_name, k.constraint_name, k.ordinal_position
"""
_CHECKS: Final = """
    SELECT table_name, constraint_name, check_clause FROM information_schema.check_constraints
    WHERE constraint_schema = %s AND check_clause NOT LIKE 'json_valid(%%' ORDER BY 1, 2
"""
_CHECKS_OF_MYSQL: Final = """
    SELECT t.table_name, constraint_name, c.check_clause FROM information_schema.check_constraints AS c
    JOIN information_schema.table_constraints AS t USING (constraint_schema, constraint_name)
    WHERE c.constraint_schema = %s ORDER BY 1, 2
"""


def named(database: str, table: str) -> str:
    """A table of a database, as a statement names it."""
    return f"{quoted_name(database, 'mysql')}.{quoted_name(table, 'mysql')}"


def count_rows(db: Connection[SSCursor], database: str, table: str) -> int:
    """How many rows a table has."""
    ((rows,),) = asked(db, f"SELECT COUNT(*) FROM {named(database, table)}")
    return int(rows)


def tables_in(db: Connection[SSCursor], database: str) -> Tables:
    """Each table's and view's name, columns, and how many rows a table has."""
    found: dict[str, list[str]] = {}
    for table, column in asked(
        db,
        "SELECT table_name, column_name FROM information_schema.columns WHERE table_schema = %s "
        "ORDER BY table_name, ordinal_position",
        database,
    ):
        found.setdefault(table, []).append(column)
    kinds = dict(
        asked(
            db,
            "SELECT table_name, table_type FROM information_schema.tables WHERE table_schema = %s",
            database,
        )
    )
    return [
        (table, columns, None if kinds[table] == "VIEW" else count_rows(db, database, table))
        for table, columns in found.items()
        if kinds[table] != "SEQUENCE"  # a script's own, which MariaDB keeps as a table
    ]


def counted_tables(db: Connection[SSCursor], database: str) -> list[CountedTable]:
    """The tables with their rows counted, and the views."""
    return [
        CountedTable(one, None if one.kind == "view" else count_rows(db, database, one.name))
        for one in schema_of(db, database)
    ]


def schema_of(db: Connection[SSCursor], database: str) -> list[TableSchema]:
    """The tables and views, with what constrains their rows."""
    columns: dict[tuple[str, bool], list[ColumnSchema]] = {}
    for table, is_view, name, type, not_null, default, generated in asked(db, _COLUMNS, database):
        plain = None if default in (None, "NULL") or generated else str(default)
        columns.setdefault((table, bool(is_view)), []).append(
            ColumnSchema(name, type, bool(not_null), plain, generated or None)
        )
    keys: dict[tuple[str, str], list[tuple[Any, ...]]] = {}
    for table, constraint, *part in asked(db, _KEYS, database):
        keys.setdefault((table, constraint), []).append(tuple(part))
    rules = rules_of(db, database)
    return [
        TableSchema(
            name,
            tuple(own),
            "view" if is_view else "table",
            primary_key=next(iter(_columns_of(keys, name, "PRIMARY KEY")), ()),
            uniques=tuple(_columns_of(keys, name, "UNIQUE")),
            foreign_keys=tuple(
                ForeignKey(
                    tuple(part[1] for part in parts),
                    parts[0][2],
                    tuple(part[3] for part in parts),
                    parts[0][4],
                    parts[0][5],
                )
                for (table, _), parts in keys.items()
                if table == name and parts[0][0] == "FOREIGN KEY"
            ),
            checks=tuple(clause for table, _, clause in rules if table == name),
        )
        for (name, is_view), own in columns.items()
    ]


def rules_of(db: Connection[SSCursor], database: str) -> list[tuple[str, str, str]]:
    """The conditions on rows: table, name, condition."""
    found = asked(db, _CHECKS if is_mariadb(db) else _CHECKS_OF_MYSQL, database)
    return [(table, name, clause) for table, name, clause in found]


def keys_of(db: Connection[SSCursor], database: str) -> list[tuple[str, str, str]]:
    """The keys of which no two rows may hold the same values: table, name, columns."""
    found = asked(
        db,
        "SELECT table_name, index_name, GROUP_CONCAT(column_name ORDER BY seq_in_index SEPARATOR ', ') "
        "FROM information_schema.statistics WHERE table_schema = %s AND non_unique = 0 GROUP BY 1, 2",
        database,
    )
    return [(table, name, columns) for table, name, columns in found]


def _columns_of(
    keys: dict[tuple[str, str], list[tuple[Any, ...]]], table: str, kind: str
) -> list[tuple[str, ...]]:
    return [
        tuple(part[1] for part in parts)
        for (of, _), parts in keys.items()
        if of == table and parts[0][0] == kind
    ]
