"""What a table's columns hold: how many values, how many NULLs, the range, the most common."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import apsw

from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.schema.tables import ColumnSchema, TableSchema
from jentrow.core.sql.text import quoted_name
from jentrow.core.values import Value

COMMONEST: Final = 5


@dataclass(frozen=True, slots=True)
class ColumnProfile:
    """A column's values. ``commonest`` are pairs of a value and its count, most often first.

    ``blanks`` counts texts with a blank at an end, ``case_variants`` values that another value
    equals but for upper and lower case.
    """

    name: str
    different: int
    nulls: int
    empty: int
    blanks: int
    case_variants: int
    smallest: Value
    largest: Value
    commonest: tuple[tuple[Value, int], ...]


@dataclass(frozen=True, slots=True)
class TableProfile:
    """A table's rows, column by column. ``repeated`` counts rows that equal another but for keys."""

    name: str
    rows: int
    columns: tuple[ColumnProfile, ...]


def profile_table(dataset: Dataset, name: str) -> TableProfile:
    """Looks at every column of a table or view. Raises :class:`UnusableInput`."""
    table = dataset.table(name)
    with dataset.reading() as db:
        rows = int(next(db.execute(f"SELECT count(*) FROM {quoted_name(table.name)}"))[0])
        columns = tuple(_profile_column(db, table, column) for column in table.columns)
    return TableProfile(table.name, rows, columns)


def _profile_column(db: apsw.Connection, table: TableSchema, column: ColumnSchema) -> ColumnProfile:
    """One grouping of the values answers everything; it is kept aside while it is asked."""
    name, source = quoted_name(column.name), quoted_name(table.name)
    if table.primary_key == (column.name,):
        # Every value once: no need to group millions of them.
        db.execute(f"CREATE TEMP VIEW value_groups AS SELECT {name} AS v, 1 AS n FROM {source}")
    else:
        db.execute(
            f"CREATE TEMP TABLE value_groups AS SELECT {name} AS v, count(*) AS n "
            f"FROM {source} GROUP BY {name} COLLATE BINARY"
        )
    try:
        return _profile_groups(db, column)
    finally:
        kind = "VIEW" if table.primary_key == (column.name,) else "TABLE"
        db.execute(f"DROP {kind} temp.value_groups")


def _profile_groups(db: apsw.Connection, column: ColumnSchema) -> ColumnProfile:
    different, nulls, empty, blanks, smallest, largest = next(
        db.execute(
            "SELECT count(v), coalesce(sum(n) FILTER (WHERE v IS NULL), 0), "
            "coalesce(sum(n) FILTER (WHERE v = ''), 0), "
            "coalesce(sum(n) FILTER (WHERE typeof(v) = 'text' AND v <> trim(v)), 0), "
            "min(v), max(v) FROM temp.value_groups"
        )
    )
    variants = 0
    if column.type_name in (None, "text"):
        variants = next(
            db.execute(
                "SELECT coalesce(sum(k), 0) FROM (SELECT count(*) AS k FROM temp.value_groups "
                "WHERE typeof(v) = 'text' GROUP BY lower(v) HAVING count(*) > 1)"
            )
        )[0]
    commonest = db.execute(
        "SELECT v, n FROM temp.value_groups WHERE v IS NOT NULL "
        f"ORDER BY n DESC, v LIMIT {COMMONEST}"
    )
    return ColumnProfile(
        column.name, different, nulls, empty, blanks, variants, smallest, largest,
        tuple((value, count) for value, count in commonest),
    )  # fmt: skip


def follow(dataset: Dataset, table_name: str, column: str, number: int) -> tuple[str, int] | None:
    """The row that a foreign key value refers to: its table and number; None where it is NULL."""
    table = dataset.table(table_name)
    for key in table.foreign_keys:
        if column.lower() not in (name.lower() for name in key.columns):
            continue
        parent = dataset.table(key.table)
        pairs = zip(key.columns, key.to, strict=True)
        same = " AND ".join(f"c.{quoted_name(one)} = p.{quoted_name(to)}" for one, to in pairs)
        sql = (
            f"SELECT p.{parent.row_name} FROM {quoted_name(table.name)} c "
            f"JOIN {quoted_name(parent.name)} p ON {same} WHERE c.{table.row_name} = ?"
        )
        with dataset.reading() as db:
            found = list(db.execute(sql, (number,)))
        return (parent.name, found[0][0]) if found else None
    return None


@dataclass(frozen=True, slots=True)
class Referring:
    """Rows of a table that refer to a row: how many, and the condition that finds them."""

    table: str
    columns: tuple[str, ...]
    count: int
    where: str


def referring_rows(dataset: Dataset, table_name: str, number: int) -> list[Referring]:
    """For each foreign key to a table, the rows that refer to one of its rows."""
    table = dataset.table(table_name)
    found: list[Referring] = []
    with dataset.reading() as db:
        for child in dataset.tables:
            for key in child.foreign_keys:
                if key.table.lower() != table.name.lower():
                    continue
                names = ", ".join(quoted_name(name) for name in key.to)
                values = list(
                    db.execute(
                        f"SELECT {names} FROM {quoted_name(table.name)} WHERE {table.row_name} = ?",
                        (number,),
                    )
                )
                if not values or None in values[0]:
                    continue
                where = " AND ".join(
                    f"{quoted_name(name)} = {apsw.format_sql_value(value)}"
                    for name, value in zip(key.columns, values[0], strict=True)
                )
                sql = f"SELECT count(*) FROM {quoted_name(child.name)} WHERE {where}"
                count = int(next(db.execute(sql))[0])
                found.append(Referring(child.name, key.columns, count, where))
    return found
