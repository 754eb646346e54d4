"""What the open dataset holds, as far as made-up rows should look like it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Final

from jentrow.core.results import ResultSet, Row
from jentrow.core.samples.generated.habits import Habits, habits_of
from jentrow.core.samples.schema.tables import ColumnSchema, TableSchema
from jentrow.core.sql.edits.facts import ColumnFacts, Family, KeyFacts, TableFacts, tables_by_name
from jentrow.core.sql.mentions import ColumnName
from jentrow.core.sql.text import quoted_name, quoted_text
from jentrow.core.values import Value, printed

LOOKED_AT: Final = 400
"""Rows of a table that are looked at: the first ones."""

_HELD: Final = 7
_LONGEST: Final = 24
"""Longer texts are not taken: they cannot be read at a glance."""

_FAMILIES: Final[dict[str, Family]] = {
    "integer": "number", "decimal": "number", "float": "number", "boolean": "number",
    "text": "text", "date": "date", "timestamp": "date",
}  # fmt: skip


@dataclass(frozen=True)
class OpenData:
    """Tables as edits look at them, the values that columns hold, and what nobody declared."""

    facts: Mapping[str, TableFacts]
    held: Mapping[ColumnName, tuple[Value, ...]]
    habits: Mapping[str, Habits]


def looked_at(
    schema: Sequence[TableSchema], run: Callable[[str], ResultSet | None], dialect: str
) -> OpenData:
    """Looks at the first rows of each table, with queries in a dialect."""
    held: dict[ColumnName, tuple[Value, ...]] = {}
    habits: dict[str, Habits] = {}
    facts: list[TableFacts] = []
    for table in schema:
        found = run(_first_rows(table, dialect))
        rows: Sequence[Row] = found.rows if found is not None else ()
        if table.kind == "table":
            plain = [tuple(map(_plain, row)) for row in rows]
            habits[table.name.lower()] = habits_of(table, plain)
        for at, column in enumerate(table.columns):
            values = _typical([row[at] for row in rows])
            held[table.name.lower(), column.name.lower()] = values
        facts.append(_facts(table, held))
    return OpenData(tables_by_name(facts), held, habits)


def _first_rows(table: TableSchema, dialect: str) -> str:
    names = ", ".join(quoted_name(column.name, dialect) for column in table.columns)
    source = quoted_name(table.name, dialect)
    if dialect == "tsql":
        return f"SELECT TOP {LOOKED_AT} {names} FROM {source}"
    if dialect in ("oracle", "db2"):
        return f"SELECT {names} FROM {source} FETCH FIRST {LOOKED_AT} ROWS ONLY"
    return f"SELECT {names} FROM {source} LIMIT {LOOKED_AT}"


def _plain(value: Value) -> Value:
    """A value as made-up rows hold it: what is neither a number nor a text, as a text."""
    if isinstance(value, Decimal):
        return int(value) if value == value.to_integral_value() else float(value)
    if value is None or isinstance(value, bool | int | float | str | bytes):
        return value
    return printed(value)


def _typical(values: Sequence[Value]) -> tuple[Value, ...]:
    """The most frequent values of a column, short ones first among equals, and its extremes."""
    known = [
        value
        for value in map(_plain, values)
        if value is not None and not (isinstance(value, str) and len(value) > _LONGEST)
    ]
    try:
        counted = Counter(known)
        common = [value for value, _ in counted.most_common(_HELD)]
        ends = [min(known), max(known)] if known else []
    except TypeError:
        return ()
    return tuple(dict.fromkeys((*common, *ends)))


def _facts(table: TableSchema, held: Mapping[ColumnName, tuple[Value, ...]]) -> TableFacts:
    return TableFacts(
        table.name,
        tuple(
            ColumnFacts(
                column.name,
                _family(column),
                not column.not_null and column.name not in table.primary_key,
                tuple(
                    quoted_text(value)
                    for value in held[table.name.lower(), column.name.lower()]
                    if isinstance(value, str)
                ),
            )
            for column in table.columns
        ),
        table.primary_key,
        tuple(KeyFacts(key.columns, key.table, key.to) for key in table.foreign_keys),
    )


def _family(column: ColumnSchema) -> Family:
    return _FAMILIES.get(column.type_name or "", "other")
