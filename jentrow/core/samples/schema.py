"""What a sample's tables are: columns, keys, constraints; read from a catalogue, written as DDL."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any, Final, Literal, TypeAlias

import apsw
import sqlglot
from sqlglot import exp
from sqlglot.tokenizer_core import TokenType

from jentrow.core.errors import UnusableInput
from jentrow.core.samples.coltypes import TypeName, type_of_declaration
from jentrow.core.samples.view_texts import is_stand_in
from jentrow.core.sql.parser_failures import PARSER_FAILURES, said_of
from jentrow.core.sql.text import quoted_name

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


_PLAIN_NAME: Final = re.compile(r"[a-z_][a-z0-9_]*\Z", re.ASCII)
_RESERVED: Final = frozenset(
    [
        "add",
        "all",
        "alter",
        "and",
        "as",
        "autoincrement",
        "between",
        "case",
        "check",
        "collate",
        "column",
        "commit",
        "constraint",
        "create",
        "cross",
        "current_date",
        "current_time",
        "current_timestamp",
        "default",
        "deferrable",
        "delete",
        "desc",
        "distinct",
        "drop",
        "else",
        "end",
        "escape",
        "except",
        "exists",
        "foreign",
        "from",
        "full",
        "group",
        "having",
        "if",
        "in",
        "index",
        "inner",
        "insert",
        "intersect",
        "into",
        "is",
        "isnull",
        "join",
        "left",
        "limit",
        "natural",
        "not",
        "notnull",
        "null",
        "of",
        "offset",
        "on",
        "or",
        "order",
        "outer",
        "primary",
        "references",
        "right",
        "rows",
        "select",
        "set",
        "table",
        "then",
        "to",
        "transaction",
        "union",
        "unique",
        "update",
        "user",
        "using",
        "values",
        "view",
        "when",
        "where",
        "window",
        "with",
    ]
)


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
