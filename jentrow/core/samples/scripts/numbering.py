"""The numbers that a server gives to rows by itself, and the columns that an INSERT leaves unsaid."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Final

import sqlglot
from sqlglot import exp

from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.samples.scripts.calls import whole
from jentrow.core.sql.text import quoted_name

_NEVER_SAID: Final = ("tsql",)
"""Dialects in which an INSERT without names has no value for a column that is numbered."""


@dataclass(frozen=True, slots=True)
class _Numbering:
    """A column, its first number, and by how much it goes on.

    ``following`` is None where rows of a query were numbered: how many, only the table tells.
    """

    column: str
    start: int
    step: int
    following: int | None


@dataclass
class Numberings:
    """The columns of a script's tables that are numbered: in SQLite only a key is."""

    dialect: str
    _known: dict[str, _Numbering] = field(default_factory=dict)

    def add(self, table: str, column: str, said: exp.Expr) -> None:
        """Notes how a column of a table is numbered."""
        if not isinstance(said, exp.GeneratedAsIdentityColumnConstraint):
            return  # MySQL's numbered column is a key always
        start, step = (whole(said.args.get(name)) for name in ("start", "increment"))
        first = 1 if start is None else start
        self._known[table.lower()] = _Numbering(column, first, step or 1, first)

    def complete(self, statement: exp.Insert, table: TableSchema) -> None:
        """Writes into an INSERT the columns that it has values for, and the numbers of its rows."""
        numbering = self._known.get(table.name.lower())
        never_said = numbering.column if numbering and self.dialect in _NEVER_SAID else ""
        _leave_computed(statement, table)
        _name_columns(statement, table, never_said)
        into, rows = statement.this, statement.expression
        if numbering is None or not isinstance(into, exp.Schema):
            return
        names = [one.name.lower() for one in into.expressions]
        if numbering.column.lower() in names:
            if isinstance(rows, exp.Values):
                self._go_on(table, numbering, rows, names.index(numbering.column.lower()))
            return
        into.append("expressions", exp.to_identifier(numbering.column, quoted=True))
        if isinstance(rows, exp.Values) and numbering.following is not None:
            following = numbering.following
            for row in rows.expressions:
                row.append("expressions", exp.Literal.number(following))
                following += numbering.step
            self._known[table.name.lower()] = replace(numbering, following=following)
            return
        column, name = quoted_name(numbering.column), quoted_name(table.name)
        numbered = sqlglot.parse_one(
            f"SELECT q.*, (SELECT COALESCE(MAX({column}), {numbering.start - numbering.step}) FROM {name}) "
            f"+ {numbering.step} * ROW_NUMBER() OVER () FROM (SELECT 1) AS q",
            read="sqlite",
        )
        query = (
            exp.Select(expressions=[exp.Star()]).from_(rows)
            if isinstance(rows, exp.Values)
            else rows
        )
        source = exp.Subquery(this=query, alias=exp.TableAlias(this=exp.to_identifier("q")))
        numbered.set("from_", exp.From(this=source))
        statement.set("expression", numbered)
        self._known[table.name.lower()] = replace(numbering, following=None)

    def _go_on(self, table: TableSchema, numbering: _Numbering, rows: exp.Values, at: int) -> None:
        """Numbers that the script gives itself are not given again; DEFAULT is the next one."""
        following = numbering.following
        if following is None:
            return
        furthest = max if numbering.step > 0 else min
        for row in rows.expressions:
            cell = row.expressions[at] if at < len(row.expressions) else None
            if isinstance(cell, exp.Column | exp.Var) and cell.name.upper() == "DEFAULT":
                cell.replace(exp.Literal.number(following))
                following += numbering.step
            elif (given := whole(cell)) is not None:
                following = furthest(following, given + numbering.step)
        self._known[table.name.lower()] = replace(numbering, following=following)


def _leave_computed(statement: exp.Insert, table: TableSchema) -> None:
    """Takes values of computed columns out, which MariaDB's dumps write and no engine keeps."""
    rows, into = statement.expression, statement.this
    computed = {one.name.lower() for one in table.columns if one.generated is not None}
    if not computed or not isinstance(rows, exp.Values):
        return
    is_named = isinstance(into, exp.Schema)
    names = [one.name for one in (into.expressions if is_named else table.columns)]
    left = [at for at, name in enumerate(names) if name.lower() not in computed]
    tuples = [one for one in rows.expressions if isinstance(one, exp.Tuple)]
    if len(left) == len(names) or any(len(one.expressions) != len(names) for one in tuples):
        return
    for one in tuples:
        one.set("expressions", [one.expressions[at] for at in left])
    if is_named:
        into.set("expressions", [into.expressions[at] for at in left])


def _name_columns(statement: exp.Insert, table: TableSchema, never_said: str) -> None:
    """Names the columns of an INSERT that has a value for each: others may come after it."""
    rows = statement.expression
    if isinstance(statement.this, exp.Schema) or rows is None:
        return
    if isinstance(rows, exp.Values):
        counts = {len(one.expressions) for one in rows.expressions if isinstance(one, exp.Tuple)}
    else:
        counts = {len(rows.selects)} if isinstance(rows, exp.Query) else set()
    columns = [one.name for one in table.writable if one.name != never_said]
    if counts == {len(columns)}:
        names = [exp.to_identifier(one, quoted=True) for one in columns]
        statement.set("this", exp.Schema(this=statement.this, expressions=names))
