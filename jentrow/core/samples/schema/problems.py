"""What is wrong with tables that somebody made up, in words."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import Final

import sqlglot
from sqlglot import exp

from jentrow.core.samples.schema.tables import ForeignKey, TableSchema
from jentrow.core.sql.parser_failures import PARSER_FAILURES, said_of

_TYPE: Final = re.compile(
    r"(?:[A-Za-z][A-Za-z0-9_ ]*(?:\(\s*\d+\s*(?:,\s*\d+\s*)?\))?(?:\[\d*\]){0,6})?\Z"
)


def name_problem(name: str) -> str:
    """Why a table cannot have this name; empty where it can. Each table is a file of its own."""
    if "/" in name or "\\" in name or name.strip(".") == "":
        return "its name is to be a file's name too, without slashes and not of dots alone"
    return ""


def schema_problems(tables: Sequence[TableSchema]) -> list[str]:
    """What is wrong with tables that somebody made up, in words; all of it at once."""
    problems: list[str] = []
    named = {table.name.lower(): table for table in tables}
    if len(named) < len(tables):
        problems.append("two tables have the same name")
    for table in tables:
        problems += [f"{table.name or 'a table'}: {problem}" for problem in _problems(table, named)]
    return problems


def _problems(table: TableSchema, named: dict[str, TableSchema]) -> Iterator[str]:
    if not table.name.strip() or table.name.lower().startswith("sqlite_") or "\0" in table.name:
        yield "a table needs a name, and one that does not begin with sqlite_"
    elif said := name_problem(table.name):
        yield said
    columns = {column.name.lower() for column in table.columns}
    if not columns:
        yield "a table needs at least one column"
    if len(columns) < len(table.columns):
        yield "two columns have the same name"
    for column in table.columns:
        if not column.name.strip():
            yield "every column needs a name"
        if not _TYPE.match(column.type):
            yield f"{column.name}: {column.type!r} is no type; write INTEGER, DECIMAL(8,2), TEXT …"
        for what, text in (("default", column.default), ("computed value", column.generated)):
            if text is not None and (said := expression_problem(text)):
                yield f"{column.name}: the {what} cannot be read ({said})"
    for check in table.checks:
        if said := expression_problem(check):
            yield f"the check {check!r} cannot be read ({said})"
    for names in (*table.keys, *(key.columns for key in table.foreign_keys)):
        if strange := [name for name in names if name.lower() not in columns]:
            yield f"a key names the column {strange[0]!r}, which the table does not have"
        if not names:
            yield "a key needs at least one column"
    for key in table.foreign_keys:
        yield from _key_problems(key, named)


def _key_problems(key: ForeignKey, named: dict[str, TableSchema]) -> Iterator[str]:
    parent = named.get(key.table.lower())
    if parent is None:
        yield f"a foreign key refers to {key.table!r}, and there is no such table"
        return
    if len(key.to) != len(key.columns):
        yield f"the foreign key to {key.table} pairs {len(key.columns)} columns with {len(key.to)}"
    wanted = {name.lower() for name in key.to}
    if not any({name.lower() for name in names} == wanted for names in parent.keys):
        yield (
            f"the foreign key refers to {key.table} ({', '.join(key.to)}), which is neither its "
            "primary key nor unique"
        )
    actions = ("NO ACTION", "RESTRICT", "CASCADE", "SET NULL", "SET DEFAULT", "")
    if key.on_delete.upper() not in actions or key.on_update.upper() not in actions:
        yield f"the foreign key to {key.table}: an action is one of {', '.join(actions[:5])}"


def expression_problem(text: str) -> str:
    """Why a text is not one SQL expression; empty where it is."""
    if not text.strip():
        return "it is empty"
    try:
        found = sqlglot.parse(f"SELECT ({text}\n)", read="sqlite")
    except PARSER_FAILURES as problem:
        return said_of(problem)
    # Whatever is inside the parentheses has to stay inside: "1) OR (1" does not.
    whole = found[0] if len(found) == 1 else None
    parts = whole.expressions if isinstance(whole, exp.Select) else []
    closed = len(parts) == 1 and isinstance(parts[0], exp.Paren | exp.Subquery | exp.Tuple)
    return "" if closed else "it is not one expression"
