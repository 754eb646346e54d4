"""The tables of a script: columns, keys and conditions, as a sample's own declarations have them."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace
from typing import Any, Final

import sqlglot
from sqlglot import exp
from sqlglot.errors import ErrorLevel
from sqlglot.expressions import Expr

from jentrow.core.samples.schema.tables import ColumnSchema, ForeignKey, TableSchema
from jentrow.core.samples.scripts.division import divide_fractions, fractional_columns
from jentrow.core.samples.scripts.reasons import OF_A_SERVER, OF_NO_DATA
from jentrow.core.samples.scripts.script import ReadScript
from jentrow.core.samples.scripts.values import plain_value, with_plain_texts
from jentrow.core.samples.tablenotes import MOST as LONGEST_NOTE
from jentrow.core.sql.parsing import dialect_named
from jentrow.core.sql.text import quoted_name

SQLITE: Final[dict[str, Any]] = {"dialect": "sqlite", "unsupported_level": ErrorLevel.IGNORE}
"""How the parser writes what SQLite is to take."""

_PLACES: Final = re.compile(r"DECIMAL\(\d+,(\d+)\)\Z")
"""The places behind the point that a column declares."""

OF_OTHERS: Final = (exp.LikeProperty, exp.InheritsProperty, exp.PartitionedOfProperty)

_ANY: Final = r"(?P<{}>(?:\w+|\"[^\"]+\"|\[[^\]]+\]|`[^`]+`))"
_DEFAULT_FOR: Final = re.compile(
    rf"\bADD\s+(?:CONSTRAINT\s+{_ANY.format('name')}\s+)?DEFAULT\b(?P<value>.+)\bFOR\s+"
    rf"{_ANY.format('column')}(?:\s+WITH\s+VALUES)?\s*\Z",
    re.IGNORECASE | re.DOTALL,
)
"""T-SQL's way of giving a column a default afterwards."""
_MODIFIED: Final = re.compile(
    r"\b(?:MODIFY(?:\s+COLUMN)?|ALTER\s+COLUMN)\s*(?P<what>(?!.*\b(?:SET|DROP|RESTART)\b).+)\Z",
    re.IGNORECASE | re.DOTALL,
)
_TABLE_NAME: Final = re.compile(
    rf"\s*ALTER\s+TABLE\s+(?:ONLY\s+)?(?:{_ANY.format('schema')}\s*\.\s*)*{_ANY.format('table')}",
    re.IGNORECASE,
)


_OF_NO_DATA: Final = re.compile(
    r"\s(?:(?:NO)?CHECK\s+CONSTRAINT|(?:EN|DIS)ABLE|REBUILD|SET|LOGGING|NOLOGGING|CACHE|NOCACHE)\b",
    re.IGNORECASE,
)
"""What T-SQL and Oracle change of a table beside its columns and keys."""


class TableReader:
    """Reads one statement of a script that makes or changes a table."""

    def __init__(self, read: ReadScript, line: int, text: str) -> None:
        self._read, self._line, self._text = read, line, text
        self._dialect = read.dialect
        self._fractional: frozenset[str] = frozenset()

    def _leave(self, why: str, text: str = "") -> None:
        self._read.leave_out(self._line, text or self._text, why)

    def make(self, statement: exp.Create) -> None:
        """Takes over a CREATE TABLE that names its columns."""
        whole = statement.this
        name = whole.this.name if isinstance(whole, exp.Schema) else whole.name
        table = self._of_others(TableSchema(name, ()), statement)
        parts = whole.expressions if isinstance(whole, exp.Schema) else []
        declared = [TableSchema("", self._declared_in(parts))]
        self._fractional = fractional_columns(declared)
        for part in parts:
            with_plain_texts(part, self._dialect, declared)
            if isinstance(part, exp.ColumnDef):
                table = self._column(table, part)
            elif not isinstance(part, OF_OTHERS):
                table = self._constraint(table, part)
        if not table.columns:
            self._leave("it is not a statement that names the columns of a table")
            return
        self._read.tables.append(table)
        for each in statement.args.get("properties") or ():
            if isinstance(each, OF_OTHERS):
                continue
            if isinstance(each, exp.SchemaCommentProperty):
                self._read.tables[-1] = replace(table, note=each.this.name[:LONGEST_NOTE])
                continue
            self._leave(OF_A_SERVER, each.sql(self._dialect))

    def _of_others(self, table: TableSchema, statement: exp.Create) -> TableSchema:
        """A table with what it has of others: LIKE another one, inheriting, or a part of one."""
        for one in statement.find_all(*OF_OTHERS):
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

    def alter(self, statement: exp.Alter) -> None:
        """Takes over an ALTER TABLE, as far as rows depend on it."""
        at = self._known(statement.this.name)
        if at is None:
            return
        table = self._read.tables[at]
        for action in statement.args.get("actions") or ():
            match action:
                case exp.AddConstraint():
                    for part in action.expressions:
                        table = self._constraint(table, part)
                case exp.ColumnDef():
                    table = self._column(table, action)
                case exp.RenameColumn():
                    table = _renamed(table, action.this.name, action.args["to"].name)
                case exp.Drop(args={"kind": "COLUMN"}):
                    self._drop(table, [one.name for one in action.args["tables"]])
                case exp.AlterColumn(args={"dtype": exp.DataType() as kind}):
                    if self._dialect == "tsql":  # says whether it may be NULL, too
                        table = self._declared_anew(table)
                    else:
                        part = exp.ColumnDef(this=action.this.copy(), kind=kind.copy())
                        table = self._modified(table, part)
                case exp.ModifyColumn():
                    table = self._modified(table, action.this)
                case _:
                    self._leave(OF_NO_DATA)
        self._read.tables[at] = table

    def note(self, name: str, column: str, text: str) -> bool:
        """Takes over what is noted on a table, or on a column; false where there is no such."""
        table, text = self._read.table(name), text.strip()[:LONGEST_NOTE]
        if table is None:
            return False
        columns = tuple(
            replace(one, note=text) if one.name.lower() == column.lower() else one
            for one in table.columns
        )
        if column and columns == table.columns:
            return False
        noted = replace(table, columns=columns) if column else replace(table, note=text)
        self._read.tables[self._read.tables.index(table)] = noted
        return True

    def alter_unread(self) -> bool:
        """The same for what the parser has no tree of; false where it is nothing that is known."""
        named = _TABLE_NAME.match(self._text)
        if named and _OF_NO_DATA.search(self._text, named.end()):
            self._leave(OF_NO_DATA)
            return True
        default, modified = _DEFAULT_FOR.search(self._text), _MODIFIED.search(self._text)
        if named is None or not (default or modified):
            return False
        at = self._known(named["table"].strip('"[]`'))
        if at is None:
            return True
        table = self._read.tables[at]
        if default is None:
            self._read.tables[at] = self._declared_anew(table)
            return True
        value = sqlglot.parse_one(default["value"], read=dialect_named(self._dialect))
        said = exp.DefaultColumnConstraint(this=value)
        called = default["column"].strip('"[]`').lower()
        self._read.tables[at] = replace(
            table,
            columns=tuple(
                replace(one, default=self._default(one, said))
                if one.name.lower() == called
                else one
                for one in table.columns
            ),
        )
        return True

    def _known(self, name: str) -> int | None:
        """Where a table is among those read so far; none such is told of."""
        names = [table.name.lower() for table in self._read.tables]
        if name.lower() not in names:
            self._leave(f"there is no table {name} before it")
            return None
        return names.index(name.lower())

    def _declared_anew(self, table: TableSchema) -> TableSchema:
        """A table in which the statement declares columns anew."""
        found = _MODIFIED.search(self._text)
        if found is None:
            return table
        said = found["what"].strip()
        if said.startswith("(") and said.endswith(")"):
            said = said[1:-1]
        declared = sqlglot.parse_one(f"CREATE TABLE t ({said})", read=dialect_named(self._dialect))
        for part in declared.find_all(exp.ColumnDef):
            table = self._modified(table, part)
        return table

    def _modified(self, table: TableSchema, part: exp.ColumnDef) -> TableSchema:
        """A table in which a column is declared anew: what is not said stays as it was."""
        (column,) = self._column(TableSchema(table.name, ()), part).columns
        says_null = any(
            isinstance(one.kind, exp.NotNullColumnConstraint)
            for one in part.args.get("constraints") or ()
        )

        def changed(known: ColumnSchema) -> ColumnSchema:
            if known.name.lower() != part.name.lower():
                return known
            return replace(
                known,
                type=column.type or known.type,
                default=known.default if column.default is None else column.default,
                not_null=column.not_null if says_null else known.not_null,
            )

        return replace(table, columns=tuple(map(changed, table.columns)))

    def _drop(self, table: TableSchema, names: Sequence[str]) -> None:
        """Columns go where the statement stands: rows before it have them."""
        for name in names:
            sql = f"ALTER TABLE {quoted_name(table.name)} DROP COLUMN {quoted_name(name)}"
            self._read.statements.append((self._line, sql))

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
                    self._read.numberings.add(table.name, name, kind)
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

    def _declared_in(self, parts: Sequence[Expr]) -> tuple[ColumnSchema, ...]:
        """The columns among the parts of a table that is being read, by their types alone."""
        return tuple(
            ColumnSchema(one.name, self._read.types.declared(one.args.get("kind"), one.name).type)
            for one in parts
            if isinstance(one, exp.ColumnDef)
        )

    def _written(self, expression: Expr) -> str:
        """An expression about the table that is being read, for SQLite."""
        divide_fractions(expression, self._fractional)
        return str(expression.sql(**SQLITE))

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
        return str(value.sql(**SQLITE))

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


def _names(parts: list[Expr]) -> tuple[str, ...]:
    found = []
    for part in parts:
        inner = part.this if isinstance(part, exp.Ordered) else part
        found.append(inner.name)
    return tuple(found)


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
