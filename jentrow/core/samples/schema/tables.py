"""What a sample's tables are: columns, keys, constraints; read from a catalogue."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal, TypeAlias

import apsw
import sqlglot
from sqlglot.tokenizer_core import TokenType

from jentrow.core.errors import UnusableInput
from jentrow.core.samples.schema.coltypes import TypeName, type_of_declaration
from jentrow.core.samples.schema.view_texts import is_stand_in
from jentrow.core.sql.parser_failures import PARSER_FAILURES

Kind: TypeAlias = Literal["table", "view"]


@dataclass(frozen=True, slots=True)
class ColumnSchema:
    """A column. ``type`` is the declaration, ``default`` and ``generated`` are SQL expressions.

    ``note`` is what its instructor noted on it.
    """

    name: str
    type: str = ""
    not_null: bool = False
    default: str | None = None
    generated: str | None = None
    collation: str = ""
    note: str = ""

    @property
    def type_name(self) -> TypeName | None:
        """The type that the declaration means; None where the column takes anything."""
        return type_of_declaration(self.type)


@dataclass(frozen=True, slots=True)
class ForeignKey:
    """Columns that hold the key of a row of ``table``, or NULL."""

    columns: tuple[str, ...]
    table: str
    to: tuple[str, ...]
    on_delete: str = "NO ACTION"
    on_update: str = "NO ACTION"

    @property
    def actions(self) -> str:
        """What becomes of the rows where the key goes or changes, as DDL says it; mostly empty."""
        said = ""
        if self.on_delete not in ("", "NO ACTION"):
            said += f" ON DELETE {self.on_delete}"
        if self.on_update not in ("", "NO ACTION"):
            said += f" ON UPDATE {self.on_update}"
        return said


@dataclass(frozen=True, slots=True)
class TableSchema:
    """A table or a view, with everything that constrains its rows.

    ``stands_in`` tells that SQLite cannot read a view: its rows are those of another engine.
    """

    name: str
    columns: tuple[ColumnSchema, ...]
    kind: Kind = "table"
    primary_key: tuple[str, ...] = ()
    uniques: tuple[tuple[str, ...], ...] = ()
    foreign_keys: tuple[ForeignKey, ...] = ()
    checks: tuple[str, ...] = ()
    autoincrement: bool = field(default=False)
    note: str = ""
    stands_in: bool = False

    def column(self, name: str) -> ColumnSchema:
        """The column of this name, whatever its case. Raises :class:`UnusableInput`."""
        for column in self.columns:
            if column.name.lower() == name.lower():
                return column
        raise UnusableInput(f"{self.name} has no column {name!r}.")

    @property
    def row_name(self) -> str:
        """A name by which SQLite gives the row's own number, not taken by a column."""
        taken = {column.name.lower() for column in self.columns}
        return next((name for name in ("rowid", "_rowid_", "oid") if name not in taken), "rowid")

    @property
    def keys(self) -> tuple[tuple[str, ...], ...]:
        """The sets of columns of which no two rows may hold the same values."""
        return ((self.primary_key,) if self.primary_key else ()) + self.uniques

    @property
    def writable(self) -> tuple[ColumnSchema, ...]:
        """The columns that take values: not those that are computed."""
        return tuple(column for column in self.columns if column.generated is None)


@dataclass(frozen=True, slots=True)
class CountedTable:
    """A table with its rows counted; None for a view, which is not run unasked."""

    table: TableSchema
    rows: int | None


def read_schema(db: apsw.Connection) -> list[TableSchema]:
    """The tables and views of a database, in the order in which they were made."""
    objects = list(
        db.execute(
            "SELECT name, type, sql FROM sqlite_schema WHERE type IN ('table', 'view') "
            "AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY rowid"
        )
    )
    return [
        _read_view(db, name, sql) if kind == "view" else _read_table(db, name, sql)
        for name, kind, sql in objects
    ]


def _read_view(db: apsw.Connection, name: str, sql: str) -> TableSchema:
    found = db.execute("SELECT name, type FROM pragma_table_info(?)", (name,))
    columns = tuple(ColumnSchema(*column) for column in found)
    return TableSchema(name, columns, "view", stands_in=is_stand_in(sql))


def _read_table(db: apsw.Connection, name: str, sql: str) -> TableSchema:
    columns: list[ColumnSchema] = []
    key: list[tuple[int, str]] = []
    computed = dict(_computed(sql))
    autoincrement = False
    for _, column, declared, not_null, default, place, hidden in db.execute(
        "SELECT * FROM pragma_table_xinfo(?)", (name,)
    ):
        collation = db.column_metadata("main", name, column)
        autoincrement = autoincrement or bool(collation[4])
        if place:
            key.append((place, column))
        columns.append(
            ColumnSchema(
                column,
                re.sub(r"\s*generated always$", "", declared, flags=re.IGNORECASE),
                bool(not_null),
                default,
                computed.get(column.lower(), "NULL") if hidden in (2, 3) else None,
                "" if collation[1] == "BINARY" else collation[1],
            )
        )
    return TableSchema(
        name,
        tuple(columns),
        primary_key=tuple(column for _, column in sorted(key)),
        uniques=tuple(_uniques(db, name)),
        foreign_keys=tuple(_foreign_keys(db, name)),
        checks=tuple(_checks(sql)),
        autoincrement=autoincrement,
    )


def _uniques(db: apsw.Connection, table: str) -> Iterator[tuple[str, ...]]:
    indexes = db.execute(
        "SELECT name FROM pragma_index_list(?) WHERE \"unique\" AND origin = 'u' ORDER BY seq DESC",
        (table,),
    )
    for (index,) in list(indexes):
        columns = db.execute("SELECT name FROM pragma_index_info(?) ORDER BY seqno", (index,))
        yield tuple(name for (name,) in columns)


def _foreign_keys(db: apsw.Connection, table: str) -> Iterator[ForeignKey]:
    found: dict[int, list[Any]] = {}
    for number, _, parent, column, to, on_update, on_delete in db.execute(
        'SELECT id, seq, "table", "from", "to", on_update, on_delete '
        "FROM pragma_foreign_key_list(?) ORDER BY id DESC, seq",
        (table,),
    ):
        entry = found.setdefault(number, [[], parent, [], on_delete, on_update])
        entry[0].append(column)
        entry[2].append(to)
    for columns, parent, to, on_delete, on_update in found.values():
        if None in to:  # the parent's primary key is meant
            key = db.execute(
                "SELECT name FROM pragma_table_info(?) WHERE pk ORDER BY pk", (parent,)
            )
            to = [name for (name,) in key]
        yield ForeignKey(tuple(columns), parent, tuple(to), on_delete, on_update)


def _checks(sql: str) -> Iterator[str]:
    """The expressions of all CHECK constraints, as they are written."""
    for start, end in _in_parentheses_after(sql, "CHECK"):
        yield sql[start:end].strip()


def _computed(sql: str) -> Iterator[tuple[str, str]]:
    """Computed columns by name (lower case) with their expressions."""
    tokens = _tokens(sql)
    depth, name, fresh = 0, "", False
    for at, token in enumerate(tokens):
        if token.token_type == TokenType.L_PAREN:
            depth += 1
            fresh = depth == 1
            continue
        if token.token_type == TokenType.R_PAREN:
            depth -= 1
        elif depth == 1 and token.token_type == TokenType.COMMA:
            fresh = True
            continue
        elif depth == 1 and fresh:
            name, fresh = token.text, False
        elif (
            depth == 1
            and token.text.upper() == "AS"
            and at + 1 < len(tokens)
            and tokens[at + 1].token_type == TokenType.L_PAREN
        ):
            start, end = _balanced(tokens, at + 1)
            yield name.lower(), sql[start:end].strip()


def _in_parentheses_after(sql: str, word: str) -> Iterator[tuple[int, int]]:
    tokens = _tokens(sql)
    for at, token in enumerate(tokens[:-1]):
        if token.text.upper() == word and tokens[at + 1].token_type == TokenType.L_PAREN:
            yield _balanced(tokens, at + 1)


def _tokens(sql: str) -> Sequence[Any]:
    try:
        return sqlglot.tokenize(sql, read="sqlite")
    except PARSER_FAILURES:
        return []


def _balanced(tokens: Sequence[Any], at: int) -> tuple[int, int]:
    """Where the text inside a parenthesis starts and ends."""
    start, depth = tokens[at].end + 1, 0
    for token in tokens[at:]:
        depth += token.token_type == TokenType.L_PAREN
        depth -= token.token_type == TokenType.R_PAREN
        if not depth:
            return start, token.start
    return start, tokens[-1].end
