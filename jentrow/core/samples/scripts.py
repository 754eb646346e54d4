"""Scripts in other dialects, read as far as the parser can: tables, rows, and what was left out."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Final

import sqlglot
from sqlglot import exp
from sqlglot.errors import ErrorLevel
from sqlglot.expressions import Expr

from jentrow.core.samples.schema import ColumnSchema, ForeignKey, TableSchema
from jentrow.core.samples.script_views import ScriptView
from jentrow.core.samples.scriptcalls import Sequences, inserts_of, worked_out
from jentrow.core.samples.scriptdivision import divide_fractions, fractional_columns
from jentrow.core.samples.scriptstatements import CANNOT_BE_READ, beginning, statements
from jentrow.core.samples.scripttypes import ScriptTypes, simpler_types
from jentrow.core.samples.scriptvalues import plain_value, written_for_sqlite
from jentrow.core.samples.tablenotes import MOST as LONGEST_NOTE
from jentrow.core.samples.view_texts import author_of, kept, without_kept_texts
from jentrow.core.sql.parser_failures import PARSER_FAILURES, said_of

DIALECTS: Final = ("sqlite", "postgres", "mysql", "tsql", "oracle", "duckdb")
PARSED_BYTES: Final = 32 << 20
"""How long a script may be that is not SQLite's own: the parser holds all of it in memory."""

_SQLITE: Final[dict[str, Any]] = {"dialect": "sqlite", "unsupported_level": ErrorLevel.IGNORE}

_HINTS: Final = (
    ("mysql", re.compile(r"`\w+`|\bENGINE\s*=|\bAUTO_INCREMENT\b|\bUNSIGNED\b", re.IGNORECASE)),
    (
        "tsql",
        re.compile(
            r"^[ \t]*GO[ \t\r]*$|\bIDENTITY\s*\(|\[dbo\]|\bNVARCHAR\b|\bUNIQUEIDENTIFIER\b|\bDATETIME(?:2|OFFSET)\b",
            re.IGNORECASE | re.M,
        ),
    ),
    ("oracle", re.compile(r"\bVARCHAR2\b|\bNUMBER\s*\(|\bSYSDATE\b|\bTO_DATE\s*\(", re.IGNORECASE)),
    (
        "duckdb",
        re.compile(
            r"\bHUGEINT\b|\bU(?:BIG|SMALL|TINY)INT\b|\bUINTEGER\b|\bTIMESTAMP_(?:S|MS|NS)\b|"
            r"\bSTRUCT\s*\(|\bMAP\s*[({]|\bFROM\s+range\s*\(",
            re.IGNORECASE,
        ),
    ),
    (
        "postgres",
        re.compile(
            r"\b(?:BIG|SMALL)?SERIAL\b|\bFROM\s+stdin\b|::\s*\w|\bCHARACTER VARYING\b|"
            r"\bGENERATED\s+(?:ALWAYS|BY\s+DEFAULT)\s+AS\s+IDENTITY\b|\bnow\s*\(\s*\)|"
            r"\bJSONB\b|\bTIMESTAMPTZ\b|\bBYTEA\b|\bAS\s+ENUM\s*\(|\bCREATE\s+DOMAIN\b|\w\[\]",
            re.IGNORECASE,
        ),
    ),
)


@dataclass(frozen=True, slots=True)
class LeftOut:
    """Something of a script that was not taken over: its line, its beginning, and why."""

    line: int
    text: str
    why: str


@dataclass
class ReadScript:
    """What a script came to: tables, statements for SQLite in their order, what was left out."""

    dialect: str
    tables: list[TableSchema] = field(default_factory=list)
    statements: list[tuple[int, str]] = field(default_factory=list)
    indexes: list[tuple[int, str]] = field(default_factory=list)
    views: list[ScriptView] = field(default_factory=list)
    left_out: list[LeftOut] = field(default_factory=list)
    sequences: Sequences = field(default_factory=Sequences)
    types: ScriptTypes = field(init=False)

    def __post_init__(self) -> None:
        self.types = ScriptTypes(self.dialect)

    def leave_out(self, line: int, text: str, why: str) -> None:
        """Notes what is not taken over."""
        self.left_out.append(LeftOut(line, beginning(text), why))

    def table(self, name: str) -> TableSchema | None:
        """The table of this name, in whatever letters; None where the script made none."""
        return next((one for one in self.tables if one.name.lower() == name.lower()), None)


def guess_dialect(script: str) -> str:
    """The dialect that a script is written in, by words that only one has; else SQLite's."""
    # The first 200,000 characters tell: what follows is mostly rows.
    head = without_kept_texts(script[:200_000])
    return next((name for name, pattern in _HINTS if pattern.search(head)), "sqlite")


def read_script(script: str, dialect: str) -> ReadScript:
    """Reads a script statement by statement; one that cannot be read is left out, the rest kept."""
    read = ReadScript(dialect)
    for line, text in statements(script, dialect, read.leave_out):
        read_one(read, line, text)
    return read


def read_one(read: ReadScript, line: int, text: str) -> None:
    """Reads one statement of a script, which stands in a line of it."""
    try:
        _Taking(read, line, text).take(_parsed(text, read.dialect))
    except PARSER_FAILURES as problem:
        read.leave_out(line, text, CANNOT_BE_READ.format(why=said_of(problem)))


def _parsed(text: str, dialect: str) -> Expr:
    try:
        return sqlglot.parse_one(text, read=dialect)
    except PARSER_FAILURES:
        if not _TABLE.match(text):
            raise
        return sqlglot.parse_one(simpler_types(text), read=dialect)


_TABLE: Final = re.compile(r"\s*(?:CREATE|ALTER)\s[\w\s]*?\bTABLE\b", re.IGNORECASE)


NOT_TAKEN: Final = (
    "it makes no",
    "it is not a statement",
    "it cannot be read",
    "it sets up",
    "there is no table",
)
"""How it begins why a whole statement was left out."""

_QUIET: Final = (exp.Set, exp.Use, exp.Transaction, exp.Commit, exp.Pragma)
"""Statements that set the stage for another server, and change no table."""


_PLACES: Final = re.compile(r"DECIMAL\(\d+,(\d+)\)\Z")
"""The places behind the point that a column declares."""

_OF_OTHERS: Final = (exp.LikeProperty, exp.InheritsProperty, exp.PartitionedOfProperty)


class _Taking:
    """Takes one statement over."""

    def __init__(self, read: ReadScript, line: int, text: str) -> None:
        self._read, self._line, self._text = read, line, text
        self._dialect = read.dialect
        self._fractional: frozenset[str] = frozenset()

    def take(self, statement: Expr | None) -> None:
        if self._read.types.add(self._text):
            return
        match statement:
            case exp.Create(kind="TABLE") if isinstance(
                statement.this, exp.Schema
            ) or statement.find(*_OF_OTHERS):
                self._table(statement)
            case exp.Create(kind="VIEW"):
                self._view(statement)
            case exp.Create(kind="INDEX"):
                unqualified(statement)
                statement.set("replace", None)
                sql = _INDEX_OPTIONS.sub("", statement.sql(**_SQLITE))
                self._read.indexes.append((self._line, sql))
            case exp.Create(kind="SEQUENCE"):
                self._read.sequences.made(statement)
                self._leave("it is not a statement that makes tables or rows")
            case exp.Insert():
                self._insert(statement)
            case exp.MultitableInserts() if rows := inserts_of(statement):
                for row in rows:
                    self._insert(row)
            case exp.Alter():
                self._alter(statement)
            case exp.Update() | exp.Delete():
                unqualified(statement)
                divide_fractions(statement, fractional_columns(self._read.tables))
                self._read.statements.append((self._line, statement.sql(**_SQLITE)))
            case exp.Comment() if self._noted(statement):
                pass
            case exp.Drop() | exp.Select() | exp.Comment() | None:
                self._leave("it makes no table and no row")
            case _ if isinstance(statement, _QUIET):
                self._leave("it sets up the server it was written for")
            case _:
                self._leave("it is not a statement that makes tables or rows")

    def _leave(self, why: str, text: str = "") -> None:
        self._read.left_out.append(LeftOut(self._line, beginning(text or self._text), why))

    def _noted(self, statement: exp.Comment) -> bool:
        """Takes over what is noted on a table or a column; false where there is no such."""
        text = statement.expression.name.strip()[:LONGEST_NOTE]
        if statement.args.get("kind") not in ("TABLE", "COLUMN"):
            return False
        is_table = statement.args["kind"] == "TABLE"
        table = self._read.table(statement.this.name if is_table else statement.this.table)
        if table is None:
            return False
        if is_table:
            self._read.tables[self._read.tables.index(table)] = replace(table, note=text)
            return True
        columns = tuple(
            replace(one, note=text) if one.name.lower() == statement.this.name.lower() else one
            for one in table.columns
        )
        self._read.tables[self._read.tables.index(table)] = replace(table, columns=columns)
        return columns != table.columns

    def _view(self, statement: exp.Create) -> None:
        """Takes a view over as SQLite may read it, with its author's words."""
        whole = statement.this
        name = whole.this.name if isinstance(whole, exp.Schema) else whole.name
        if author_of(self._text):
            self._read.views.append(ScriptView(self._line, name, self._text))
            return
        options = statement.args.get("properties")
        # Who owns it on a server, and how it is worked out there, is not of the sample.
        statement.set("properties", None)
        is_plain = not (unqualified(statement) or options or statement.args.get("replace"))
        statement.set("replace", None)
        written = self._text if is_plain else statement.sql(self._dialect, comments=False)
        divide_fractions(statement, fractional_columns(self._read.tables))
        ddl = statement.sql(**_SQLITE)
        if self._dialect != "sqlite":
            ddl = kept(ddl, self._dialect, written)
        self._read.views = [one for one in self._read.views if one.name.lower() != name.lower()]
        self._read.views.append(ScriptView(self._line, name, ddl))

    def _insert(self, statement: exp.Insert) -> None:
        worked_out(statement, self._read.sequences, self._dialect)
        unqualified(statement)
        written_for_sqlite(statement, self._read.table(_target(statement)), self._dialect)
        if not isinstance(statement.expression, exp.Values):
            divide_fractions(statement, fractional_columns(self._read.tables))
        self._read.statements.append((self._line, statement.sql(**_SQLITE)))

    def _table(self, statement: exp.Create) -> None:
        whole = statement.this
        name = whole.this.name if isinstance(whole, exp.Schema) else whole.name
        table = self._of_others(TableSchema(name, ()), statement)
        parts = whole.expressions if isinstance(whole, exp.Schema) else []
        self._fractional = self._fractions_in(parts)
        for part in parts:
            if isinstance(part, exp.ColumnDef):
                table = self._column(table, part)
            elif not isinstance(part, _OF_OTHERS):
                table = self._constraint(table, part)
        if not table.columns:
            self._leave("it is not a statement that makes tables with columns")
            return
        self._read.tables.append(table)
        for each in statement.args.get("properties") or ():
            if isinstance(each, _OF_OTHERS):
                continue
            if isinstance(each, exp.SchemaCommentProperty):
                self._read.tables[-1] = replace(table, note=each.this.name[:LONGEST_NOTE])
                continue
            self._leave(
                f"a setting of the table {name} for another engine", each.sql(self._dialect)
            )

    def _of_others(self, table: TableSchema, statement: exp.Create) -> TableSchema:
        """A table with what it has of others: LIKE another one, inheriting, or a part of one."""
        for one in statement.find_all(*_OF_OTHERS):
            for source in one.expressions if isinstance(one, exp.InheritsProperty) else [one.this]:
                if other := self._read.table(source.name):
                    table = replace(
                        table,
                        columns=(*table.columns, *other.columns),
                        primary_key=other.primary_key,
                        uniques=other.uniques,
                        checks=other.checks,
                    )
        return table

    def _alter(self, statement: exp.Alter) -> None:
        name = statement.this.name
        names = [table.name.lower() for table in self._read.tables]
        if name.lower() not in names:
            self._leave(f"there is no table {name} before it")
            return
        at = names.index(name.lower())
        table = self._read.tables[at]
        for action in statement.args.get("actions") or ():
            if isinstance(action, exp.AddConstraint):
                for part in action.expressions:
                    table = self._constraint(table, part)
            elif isinstance(action, exp.ColumnDef):
                table = self._column(table, action)
            elif isinstance(action, exp.RenameColumn):
                table = _renamed(table, action.this.name, action.args["to"].name)
            else:
                self._leave(f"a change of the table {name} that rows do not depend on")
        self._read.tables[at] = table

    def _column(self, table: TableSchema, part: exp.ColumnDef) -> TableSchema:
        name = part.name
        declared = self._read.types.declared(part.args.get("kind"), name)
        if not declared.known:
            self._leave(
                f"the type of {name}, read as {declared.type}", part.args["kind"].sql(self._dialect)
            )
        column = ColumnSchema(name, declared.type, declared.not_null, declared.default)
        checks = list(declared.checks)
        uniques: list[tuple[str, ...]] = []
        keys: list[ForeignKey] = []
        primary: tuple[str, ...] = ()
        for constraint in part.args.get("constraints") or ():
            kind = constraint.kind
            match kind:
                case exp.NotNullColumnConstraint():
                    column = replace(column, not_null=not kind.args.get("allow_null"))
                case exp.DefaultColumnConstraint():
                    column = replace(column, default=self._default(column, kind))
                case exp.PrimaryKeyColumnConstraint():
                    primary = (name,)
                case exp.UniqueColumnConstraint():
                    uniques.append((name,))
                case exp.CheckColumnConstraint():
                    checks.append(self._written(kind.this))
                case exp.Reference():
                    keys.append(_foreign_key((name,), kind))
                case exp.CommentColumnConstraint():
                    column = replace(column, note=kind.this.name.strip()[:LONGEST_NOTE])
                case exp.ComputedColumnConstraint():
                    column = replace(column, generated=self._computed(kind.this, column))
                case exp.GeneratedAsIdentityColumnConstraint(args={"expression": exp.Expr() as of}):
                    # What the parser takes a computed column for that does not say STORED.
                    column = replace(column, generated=self._computed(of, column))
                case (
                    exp.AutoIncrementColumnConstraint() | exp.GeneratedAsIdentityColumnConstraint()
                ):
                    # An integer primary key numbers its rows by itself; a decimal would not.
                    column = replace(column, type="INTEGER")
                case _:
                    self._leave(f"said of {table.name}.{name}, of no effect here", kind.sql())
        return replace(
            table,
            columns=(*table.columns, column),
            primary_key=primary or table.primary_key,
            uniques=(*table.uniques, *uniques),
            foreign_keys=(*table.foreign_keys, *keys),
            checks=(*table.checks, *checks),
        )

    def _fractions_in(self, parts: Sequence[Expr]) -> frozenset[str]:
        """The columns with fractions among the parts of a table that is being read."""
        found = (one for one in parts if isinstance(one, exp.ColumnDef))
        columns = (
            ColumnSchema(one.name, self._read.types.declared(one.args.get("kind"), one.name).type)
            for one in found
        )
        return fractional_columns([TableSchema("", tuple(columns))])

    def _written(self, expression: Expr) -> str:
        """An expression about the table that is being read, for SQLite."""
        divide_fractions(expression, self._fractional)
        return str(expression.sql(**_SQLITE))

    def _computed(self, expression: Expr, column: ColumnSchema) -> str:
        """What a column is computed from, with no more places than its type has."""
        written = self._written(expression)
        places = _PLACES.search(column.type)
        return f"ROUND({written}, {places[1]})" if places else written

    def _default(self, column: ColumnSchema, kind: exp.DefaultColumnConstraint) -> str | None:
        value = plain_value(kind.this, column, self._dialect)
        if value.find(exp.Anonymous, exp.Uuid):
            self._leave(
                f"the default of {column.name} calls a function of another engine", kind.sql()
            )
            return None
        return str(value.sql(**_SQLITE))

    def _constraint(self, table: TableSchema, part: Expr) -> TableSchema:
        match part:
            case exp.Constraint():
                for inner in part.expressions:
                    table = self._constraint(table, inner)
            case exp.PrimaryKey():
                table = replace(table, primary_key=_names(part.expressions))
            case exp.UniqueColumnConstraint():
                inside = part.this.expressions if isinstance(part.this, exp.Schema) else []
                table = replace(table, uniques=(*table.uniques, _names(inside)))
            case exp.ForeignKey():
                key = _foreign_key(_names(part.expressions), part.args["reference"], part)
                table = replace(table, foreign_keys=(*table.foreign_keys, key))
            case exp.CheckColumnConstraint():
                table = replace(table, checks=(*table.checks, self._written(part.this)))
            case _:
                self._leave(f"said of the table {table.name}, of no effect on rows", part.sql())
        return table


def _renamed(table: TableSchema, before: str, after: str) -> TableSchema:
    """A table in which a column has another name."""

    def names(those: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(after if one.lower() == before.lower() else one for one in those)

    return replace(
        table,
        columns=tuple(replace(one, name=names((one.name,))[0]) for one in table.columns),
        primary_key=names(table.primary_key),
        uniques=tuple(map(names, table.uniques)),
        foreign_keys=tuple(replace(one, columns=names(one.columns)) for one in table.foreign_keys),
    )


def _target(statement: exp.Insert) -> str:
    into = statement.this
    return str(into.this.name if isinstance(into, exp.Schema) else into.name)


def _names(parts: list[Expr]) -> tuple[str, ...]:
    found = []
    for part in parts:
        inner = part.this if isinstance(part, exp.Ordered) else part
        found.append(inner.name)
    return tuple(found)


_INDEX_OPTIONS: Final = re.compile(
    r"\bUSING\s+\w+(?=\s*\()|\s+NULLS\s+(?:FIRST|LAST)\b", re.IGNORECASE
)
_ACTION: Final = re.compile(
    r"ON\s+(DELETE|UPDATE)\s+(CASCADE|RESTRICT|NO\s+ACTION|SET\s+NULL|SET\s+DEFAULT)", re.IGNORECASE
)


def _foreign_key(
    columns: tuple[str, ...], reference: Expr, whole: Expr | None = None
) -> ForeignKey:
    target = reference.this
    to: tuple[str, ...] = ()
    if isinstance(target, exp.Schema):
        to, target = _names(target.expressions), target.this
    said = (whole or reference).sql()
    actions = {what.upper(): " ".join(how.upper().split()) for what, how in _ACTION.findall(said)}
    return ForeignKey(
        columns,
        target.name,
        to,
        actions.get("DELETE", "NO ACTION"),
        actions.get("UPDATE", "NO ACTION"),
    )


def unqualified(statement: Expr) -> bool:
    """Takes away the schemas that tables are named with; whether there were any."""
    found = [one for one in statement.find_all(exp.Table) if one.args.get("db")]
    for one in found:
        one.set("db", None)
        one.set("catalog", None)
    return bool(found)


def with_parent_keys(tables: list[TableSchema]) -> list[TableSchema]:
    """Foreign keys that name no columns mean the parent's primary key: it is put in."""
    keys = {table.name.lower(): table.primary_key for table in tables}
    return [
        replace(
            table,
            foreign_keys=tuple(
                key if key.to else replace(key, to=keys.get(key.table.lower(), ()))
                for key in table.foreign_keys
            ),
        )
        for table in tables
    ]
