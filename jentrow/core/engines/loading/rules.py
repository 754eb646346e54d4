"""What a sample's table says of its rows, in the words of the engine that it is made on.

A sample is written in SQLite's dialect: defaults, conditions, computed columns, row numbers, what
becomes of rows that refer to a deleted one. Queries need none of it; a copy whose rows are to be
changed does.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Final, Protocol

import sqlglot
from sqlglot import exp

from jentrow.core.engines.loading.neutral import Kind, NeutralTable, NeutralType
from jentrow.core.samples.schema.coltypes import TRUTHS
from jentrow.core.samples.schema.enumerations import listed_in
from jentrow.core.sql.parser_failures import PARSER_FAILURES
from jentrow.core.sql.text import quoted_name, quoted_text

_NOW: Final = {
    "date('now')": "CURRENT_DATE",
    "time('now')": "CURRENT_TIME",
    "datetime('now')": "CURRENT_TIMESTAMP",
    "current_date": "CURRENT_DATE",
    "current_time": "CURRENT_TIME",
    "current_timestamp": "CURRENT_TIMESTAMP",
}
"""How SQLite says the moment, in small letters, and how every other engine does."""

_BIT: Final = {"0": "FALSE", "1": "TRUE"}
_ALL_INSIDE: Final = re.compile(r"\([^()']*\)|\([^()']*\(\)\)")


@dataclass(frozen=True)
class TableRules:
    """A table's rules, as an engine's DDL writes them; columns by their names.

    ``computed`` has the expressions of computed columns. ``number_from`` is what the next row of
    the key ``numbered`` gets by itself. With ``actions`` foreign keys say what becomes of rows that
    refer to one that goes.
    """

    defaults: Mapping[str, str] = field(default_factory=dict)
    checks: tuple[str, ...] = ()
    computed: Mapping[str, str] = field(default_factory=dict)
    numbered: str = ""
    number_from: int = 1
    actions: bool = False

    def each(self) -> list[TableRules]:
        """Every rule by itself."""
        alone = [TableRules(defaults={name: text}) for name, text in self.defaults.items()]
        alone += [TableRules(checks=(one,)) for one in self.checks]
        alone += [TableRules(computed={name: text}) for name, text in self.computed.items()]
        if self.numbered:
            alone.append(TableRules(numbered=self.numbered, number_from=self.number_from))
        return [*alone, TableRules(actions=True)] if self.actions else alone

    def with_(self, other: TableRules) -> TableRules:
        """These rules and others."""
        return TableRules(
            {**self.defaults, **other.defaults},
            (*self.checks, *other.checks),
            {**self.computed, **other.computed},
            self.numbered or other.numbered,
            max(self.number_from, other.number_from),
            self.actions or other.actions,
        )

    def of_column(self, name: str, *, computed: str, numbered: str) -> str:
        """What stands behind a column's type, mostly nothing.

        ``computed`` is how DDL says what a column is computed from, with a place for that, and
        ``numbered`` how it says that rows are numbered.
        """
        if name in self.computed:
            return f" {computed.format(self.computed[name])}"
        if name == self.numbered:
            return f" {numbered}"
        return f" DEFAULT {self.defaults[name]}" if name in self.defaults else ""

    def without_computed(self, *checks: str) -> TableRules:
        """These rules with computed columns as plain ones, of which conditions hold."""
        return replace(self, computed={}, checks=(*self.checks, *checks))


NO_RULES: Final = TableRules()


class WritesTables(Protocol):
    """How an engine writes what stands in the DDL of a table."""

    dialect: str

    def form(self, kind: Kind, text: str) -> str:
        """A text of a kind as this engine reads it from a CSV file; a list is a JSON array."""

    def own_name(self, name: str) -> str:
        """The name that a column of this name has here."""

    def type_of(self, type: NeutralType) -> str:
        """The engine's own type for one of a sample's."""


def rules_of(table: NeutralTable, words: WritesTables) -> TableRules:
    """The rules of a table, in the words of an engine."""
    schema = table.schema
    types = {
        column.name.lower(): type for column, type in zip(table.columns, table.types, strict=True)
    }
    defaults = {
        column.name: text
        for column in schema.columns
        if column.default is not None
        and (text := _default(column.default, types[column.name.lower()], words))
    }
    listed = {name for name, type in types.items() if type.kind == "enumeration"}
    return TableRules(
        defaults,
        tuple(
            text
            for one in schema.checks
            # An enumeration takes no other values anyway.
            if not any(listed_in(one, name) for name in listed)
            and (text := _expression(one, words))
        ),
        {
            column.name: text
            for column in schema.columns
            if column.generated is not None and (text := _expression(column.generated, words))
        },
        schema.primary_key[0] if table.next_number is not None else "",
        table.next_number or 1,
        any(key.actions for key in schema.foreign_keys),
    )


def _expression(text: str, words: WritesTables) -> str:
    """An expression in the engine's dialect; empty where it cannot be written."""
    try:
        found = sqlglot.parse_one(f"SELECT ({text}\n)", read="sqlite").expressions[0]
        for column in list(found.find_all(exp.Column)):
            column.replace(exp.column(words.own_name(column.name), quoted=True))
        return str(found.this.sql(words.dialect, comments=False))
    except PARSER_FAILURES:
        return ""


def _default(text: str, type: NeutralType, words: WritesTables) -> str:
    """A default in the engine's dialect; empty where it cannot be written."""
    bare = text.strip()
    while bare.startswith("(") and _ALL_INSIDE.fullmatch(bare):
        bare = bare[1:-1].strip()
    is_text = bare.startswith("'") and bare.endswith("'")
    if bare.startswith('"') and bare.endswith('"'):  # a text to SQLite
        bare, is_text = quoted_text(bare[1:-1].replace('""', '"')), True
    if moment := _NOW.get(bare.lower().replace(" ", "")):
        bare = moment
    elif type.kind == "boolean":
        known = TRUTHS.get(bare.strip("'").lower())
        bare = _BIT.get(bare, bare) if known is None else str(known).upper()
    elif type.kind == "list" and is_text:
        bare = quoted_text(words.form("list", bare[1:-1].replace("''", "'")))
    written = _expression(bare, words)
    # What is more than a literal stands in parentheses on MariaDB; any may.
    return f"({written})" if written and words.dialect == "mysql" else written


def holds_computed(words: WritesTables, name: str, expression: str, type: NeutralType) -> str:
    """The condition that a column holds what an expression comes to, as a value of its type."""
    column = quoted_name(words.own_name(name), words.dialect)
    declared = words.type_of(type)
    if words.dialect == "mysql":
        cast = declared if declared.startswith(("DECIMAL", "DOUBLE", "DATE", "TIME")) else ""
        value = f"CAST(({expression}) AS {cast})" if cast else f"({expression})"
        return f"{column} <=> {value}"
    return f"{column} IS NOT DISTINCT FROM CAST(({expression}) AS {declared})"
