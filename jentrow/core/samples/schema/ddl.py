"""A sample's tables as DDL, and names as it shows them."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Final

from jentrow.core.samples.schema.tables import ForeignKey, TableSchema
from jentrow.core.sql.text import quoted_name

_PLAIN_NAME: Final = re.compile(r"[a-z_][a-z0-9_]*\Z", re.ASCII)
_RESERVED: Final = frozenset({
    "add", "all", "alter", "and", "as", "autoincrement", "between", "case", "check", "collate",
    "column", "commit", "constraint", "create", "cross", "current_date", "current_time",
    "current_timestamp", "default", "deferrable", "delete", "desc", "distinct", "drop", "else",
    "end", "escape", "except", "exists", "foreign", "from", "full", "group", "having", "if",
    "in", "index", "inner", "insert", "intersect", "into", "is", "isnull", "join", "left",
    "limit", "natural", "not", "notnull", "null", "of", "offset", "on", "or", "order", "outer",
    "primary", "references", "right", "rows", "select", "set", "table", "then", "to",
    "transaction", "union", "unique", "update", "user", "using", "values", "view", "when",
    "where", "window", "with",
})  # fmt: skip


def written_name(name: str) -> str:
    """A name as DDL shows it: quoted only where it must be."""
    plain = _PLAIN_NAME.match(name) and name not in _RESERVED
    return name if plain else quoted_name(name)


def written_names(names: Iterable[str]) -> str:
    """Names in a row, as DDL shows them."""
    return ", ".join(map(written_name, names))


_LITERAL: Final = re.compile(
    r"(?:[+-]?[\d.]+(?:[eE][+-]?\d+)?|'(?:[^']|'')*'|NULL|TRUE|FALSE|CURRENT_\w+)\Z", re.IGNORECASE
)


def create_table(table: TableSchema) -> str:
    """The DDL of a table, a column a line, without a semicolon."""
    parts: list[tuple[str, str, str]] = []
    key_inline = len(table.primary_key) == 1
    for column in table.columns:
        said = []
        if key_inline and column.name.lower() == table.primary_key[0].lower():
            said.append("PRIMARY KEY AUTOINCREMENT" if table.autoincrement else "PRIMARY KEY")
        if column.not_null:
            said.append("NOT NULL")
        if column.default is not None:
            plain = _LITERAL.match(column.default.strip())
            said.append(f"DEFAULT {column.default}" if plain else f"DEFAULT ({column.default})")
        if column.collation:
            said.append(f"COLLATE {column.collation}")
        if column.generated is not None:
            said.append(f"GENERATED ALWAYS AS ({column.generated}) STORED")
        said += ["UNIQUE" for unique in table.uniques if unique == (column.name,)]
        said += [_references(key) for key in table.foreign_keys if key.columns == (column.name,)]
        parts.append((written_name(column.name), column.type, " ".join(said)))
    widths = [max(len(part[at]) for part in parts) for at in (0, 1)]
    lines = [
        f"{name:<{widths[0]}} {type:<{widths[1]}} {said}".rstrip() for name, type, said in parts
    ]
    if table.primary_key and not key_inline:
        lines.append(f"PRIMARY KEY ({written_names(table.primary_key)})")
    lines += [f"UNIQUE ({written_names(names)})" for names in table.uniques if len(names) != 1]
    lines += [
        f"FOREIGN KEY ({written_names(key.columns)}) {_references(key)}"
        for key in table.foreign_keys
        if len(key.columns) != 1
    ]
    lines += [f"CHECK ({check})" for check in table.checks]
    body = ",\n    ".join(lines)
    return f"CREATE TABLE {written_name(table.name)} (\n    {body}\n)"


def _references(key: ForeignKey) -> str:
    return f"REFERENCES {written_name(key.table)} ({written_names(key.to)}){key.actions}"
