"""The tables of a DuckDB file."""

from __future__ import annotations

from typing import Any

import duckdb

from jentrow.core.engines.answers import Tables
from jentrow.core.samples.schema.tables import ColumnSchema, CountedTable, ForeignKey, TableSchema
from jentrow.core.sql.text import quoted_name


def tables_in(db: duckdb.DuckDBPyConnection) -> Tables:
    """Each table's and view's name, columns, and how many rows a table has."""
    return [
        (one.table.name, [column.name for column in one.table.columns], one.rows)
        for one in counted_tables(db)
    ]


def counted_tables(db: duckdb.DuckDBPyConnection) -> list[CountedTable]:
    """The tables with their rows counted, and the views."""
    return [
        CountedTable(one, None if one.kind == "view" else count_rows(db, one.name))
        for one in schema_of(db)
    ]


def count_rows(db: duckdb.DuckDBPyConnection, table: str) -> int:
    """How many rows a table has."""
    ((count,),) = db.execute(f"SELECT count(*) FROM {quoted_name(table)}").fetchall()
    return int(count)


def schema_of(db: duckdb.DuckDBPyConnection) -> list[TableSchema]:
    """The tables and views of a file, with what constrains their rows."""
    columns: dict[str, list[ColumnSchema]] = {}
    for table, name, type, is_nullable, default in db.execute(
        "SELECT table_name, column_name, data_type, is_nullable, column_default "
        "FROM duckdb_columns() WHERE NOT internal ORDER BY table_oid, column_index"
    ).fetchall():
        columns.setdefault(table, []).append(
            ColumnSchema(name, type, not_null=not is_nullable, default=default)
        )
    keys: dict[tuple[str, str], list[tuple[Any, ...]]] = {}
    for table, kind, *rest in db.execute(
        "SELECT table_name, constraint_type, constraint_column_names, expression, "
        "referenced_table, referenced_column_names FROM duckdb_constraints() "
        "ORDER BY table_oid, constraint_index"
    ).fetchall():
        keys.setdefault((table, kind), []).append(tuple(rest))
    views = {
        name
        for (name,) in db.execute(
            "SELECT view_name FROM duckdb_views() WHERE NOT internal"
        ).fetchall()
    }
    return [
        TableSchema(
            name,
            tuple(own),
            "view" if name in views else "table",
            primary_key=next((tuple(one[0]) for one in keys.get((name, "PRIMARY KEY"), ())), ()),
            uniques=tuple(tuple(one[0]) for one in keys.get((name, "UNIQUE"), ())),
            foreign_keys=tuple(
                ForeignKey(tuple(one[0]), one[2], tuple(one[3]))
                for one in keys.get((name, "FOREIGN KEY"), ())
            ),
            checks=tuple(one[1] for one in keys.get((name, "CHECK"), ())),
        )
        for name, own in columns.items()
    ]
