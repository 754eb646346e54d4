"""The tables of a schema on a PostgreSQL server."""

from __future__ import annotations

from typing import Any, Final

import psycopg
from psycopg import sql as text

from jentrow.core.engines.answers import Tables
from jentrow.core.samples.schema.tables import ColumnSchema, CountedTable, ForeignKey, TableSchema

_Connection = psycopg.Connection[tuple[Any, ...]]

_COLUMNS: Final = """
    SELECT c.relname::text, c.relkind IN ('v', 'm'), a.attname::text,
        pg_catalog.format_type(a.atttypid, a.atttypmod), a.attnotnull,
        CASE WHEN a.attgenerated = '' THEN pg_catalog.pg_get_expr(d.adbin, d.adrelid) END,
        CASE WHEN a.attgenerated <> '' THEN pg_catalog.pg_get_expr(d.adbin, d.adrelid) END
    FROM pg_catalog.pg_class AS c
    JOIN pg_catalog.pg_attribute AS a ON a.attrelid = c.oid AND a.attnum > 0 AND NOT a.attisdropped
    LEFT JOIN pg_catalog.pg_attrdef AS d ON d.adrelid = c.oid AND d.adnum = a.attnum
    WHERE c.relnamespace = %s::regnamespace AND c.relkind IN ('r', 'v', 'm', 'p')
    ORDER BY c.oid, a.attnum
"""
_CONSTRAINTS: Final = """
    SELECT c.relname::text, k.contype::text, pg_catalog.pg_get_expr(k.conbin, k.conrelid),
        (SELECT array_agg(a.attname::text ORDER BY n.at) FROM unnest(k.conkey) WITH ORDINALITY AS n (num, at)
            JOIN pg_catalog.pg_attribute AS a ON a.attrelid = k.conrelid AND a.attnum = n.num),
        f.relname::text,
        (SELECT array_agg(a.attname::text ORDER BY n.at) FROM unnest(k.confkey) WITH ORDINALITY AS n (num, at)
            JOIN pg_catalog.pg_attribute AS a ON a.attrelid = k.confrelid AND a.attnum = n.num),
        k.confdeltype::text, k.confupdtype::text
    FROM pg_catalog.pg_constraint AS k
    JOIN pg_catalog.pg_class AS c ON c.oid = k.conrelid
    LEFT JOIN pg_catalog.pg_class AS f ON f.oid = k.confrelid
    WHERE c.relnamespace = %s::regnamespace ORDER BY k.oid
"""
_ACTIONS: Final = {"r": "RESTRICT", "c": "CASCADE", "n": "SET NULL", "d": "SET DEFAULT"}
_NO_ACTION: Final = "NO ACTION"


def tables_in(db: _Connection, schema: str) -> Tables:
    """Each table's and view's name, columns, and how many rows a table has."""
    return [
        (one.table.name, [column.name for column in one.table.columns], one.rows)
        for one in counted_tables(db, schema)
    ]


def counted_tables(db: _Connection, schema: str) -> list[CountedTable]:
    """The tables with their rows counted, and the views."""
    return [
        CountedTable(one, None if one.kind == "view" else count_rows(db, schema, one.name))
        for one in schema_of(db, schema)
    ]


def count_rows(db: _Connection, schema: str, table: str) -> int:
    """How many rows a table has."""
    count = text.SQL("SELECT count(*) FROM {}").format(text.Identifier(schema, table))
    ((rows,),) = db.execute(count).fetchall()
    return int(rows)


def schema_of(db: _Connection, schema: str) -> list[TableSchema]:
    """The tables and views, with what constrains their rows."""
    columns: dict[tuple[str, bool], list[ColumnSchema]] = {}
    for table, is_view, name, type, not_null, default, generated in db.execute(
        _COLUMNS, (schema,)
    ).fetchall():
        columns.setdefault((table, is_view), []).append(
            ColumnSchema(name, type, not_null, default, generated)
        )
    constraints: dict[tuple[str, str], list[tuple[Any, ...]]] = {}
    for table, kind, *rest in db.execute(_CONSTRAINTS, (schema,)).fetchall():
        constraints.setdefault((table, kind), []).append(tuple(rest))
    return [
        TableSchema(
            name,
            tuple(own),
            "view" if is_view else "table",
            primary_key=next((tuple(one[1]) for one in constraints.get((name, "p"), ())), ()),
            uniques=tuple(tuple(one[1]) for one in constraints.get((name, "u"), ())),
            foreign_keys=tuple(
                ForeignKey(
                    tuple(one[1]),
                    one[2],
                    tuple(one[3]),
                    _ACTIONS.get(one[4], _NO_ACTION),
                    _ACTIONS.get(one[5], _NO_ACTION),
                )
                for one in constraints.get((name, "f"), ())
            ),
            checks=tuple(one[0] for one in constraints.get((name, "c"), ())),
        )
        for (name, is_view), own in columns.items()
    ]
