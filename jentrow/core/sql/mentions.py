"""What a query's text says of the columns that it reads: the values beside them, and one another.

Rows that tell two queries apart are sought among these values and their neighbours.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Final, TypeAlias

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.values import Value

ColumnName: TypeAlias = tuple[str, str]
"""A table and one of its columns, both in small letters."""

_COMPARISONS: Final[dict[type[exp.Expr], str]] = {
    exp.EQ: "=", exp.NEQ: "<>", exp.LT: "<", exp.LTE: "<=", exp.GT: ">", exp.GTE: ">=",
}  # fmt: skip
_MOST: Final = 60
_LARGEST_THRESHOLD: Final = 12


@dataclass(frozen=True, slots=True)
class SimpleCondition:
    """A column compared with one value. ``operator`` is SQL's; ``is null`` and ``like`` are too."""

    column: ColumnName
    operator: str
    value: Value


@dataclass(slots=True)
class Mentions:
    """What texts mention.

    ``beside`` are values that are compared with a column, ``loose`` those that nobody knows the
    column of. ``alike`` are pairs of columns that are compared with one another. ``thresholds``
    are whole numbers that may be numbers of rows.
    """

    beside: dict[ColumnName, list[Value]] = field(default_factory=dict)
    loose: list[Value] = field(default_factory=list)
    conditions: list[SimpleCondition] = field(default_factory=list)
    alike: list[tuple[ColumnName, ColumnName]] = field(default_factory=list)
    thresholds: list[int] = field(default_factory=list)
    tables: set[str] = field(default_factory=set)

    def add(self, draft: Draft) -> None:
        """Takes in what a text mentions."""
        self.tables |= {one.name.lower() for one in draft.tree.find_all(exp.Table)}
        known: set[int] = set()
        for test in draft.tree.find_all(*_COMPARISONS, exp.Between, exp.In, exp.Like, exp.Is):
            known |= self._add_condition(draft, test)
        for node in draft.tree.find_all(exp.Literal):
            value = _value_of(node)
            if id(node) not in known and len(self.loose) < _MOST:
                self.loose.append(value)
            if isinstance(value, int) and 0 < value <= _LARGEST_THRESHOLD:
                self.thresholds.append(value)

    def _add_condition(self, draft: Draft, node: exp.Expr) -> set[int]:
        """Takes in a condition; tells which literals (by ``id``) stand beside a column."""
        sides = _sides(node)
        columns = [(draft_column(draft, side), side) for side in sides]
        named = [column for column, _ in columns if column is not None]
        literals = [
            literal
            for column, side in columns
            if column is None and not isinstance(side, exp.Subquery)
            for literal in side.find_all(exp.Literal)
        ]
        values = [_value_of(literal) for literal in literals]
        for one in named:
            self.beside.setdefault(one, []).extend(values)
        for one in named[1:]:
            self.alike.append((named[0], one))
        if len(named) == 1:
            self.conditions += _conditions(named[0], node, columns[0][0] is None)
        return {id(literal) for literal in literals} if named else set()


def _sides(node: exp.Expr) -> list[exp.Expr]:
    if isinstance(node, exp.Between):
        return [node.this, node.args["low"], node.args["high"]]
    if isinstance(node, exp.In):
        query = node.args.get("query")
        shown = query.unnest().selects if query is not None else []
        return [node.this, *node.expressions, *shown[:1]]
    return [node.this, node.expression]


def draft_column(draft: Draft, node: exp.Expr) -> ColumnName | None:
    """The column of the sample that an expression is, or is made of alone; None for all else."""
    columns = [node] if isinstance(node, exp.Column) else list(node.find_all(exp.Column))
    if len(columns) != 1 or isinstance(node, exp.Subquery):
        return None
    found = draft.meaning(columns[0])
    if found is None or found[0].table is None:
        return None
    return found[0].table.name.lower(), found[1].name.lower()


def _conditions(column: ColumnName, node: exp.Expr, mirrored: bool) -> Iterator[SimpleCondition]:
    if type(node) in _COMPARISONS:
        value = node.this if mirrored else node.expression
        operator = _COMPARISONS[type(node)]
        if mirrored:
            operator = operator.translate(str.maketrans("<>", "><")) if operator != "<>" else "<>"
        if isinstance(value, exp.Literal):
            yield SimpleCondition(column, operator, _value_of(value))
    elif isinstance(node, exp.Between):
        low, high = node.args["low"], node.args["high"]
        if isinstance(low, exp.Literal) and isinstance(high, exp.Literal):
            yield SimpleCondition(column, ">=", _value_of(low))
            yield SimpleCondition(column, "<=", _value_of(high))
    elif isinstance(node, exp.In):
        for value in node.expressions:
            if isinstance(value, exp.Literal):
                yield SimpleCondition(column, "=", _value_of(value))
    elif isinstance(node, exp.Like) and isinstance(node.expression, exp.Literal):
        yield SimpleCondition(column, "like", node.expression.name)
    elif isinstance(node, exp.Is) and isinstance(node.expression, exp.Null):
        is_negated = bool(node.args.get("negate")) or isinstance(node.parent, exp.Not)
        operator = "not null" if is_negated else "null"
        yield SimpleCondition(column, operator, None)


def _value_of(node: exp.Expr) -> Value:
    if node.is_string:
        return str(node.name)
    try:
        number = float(node.name)
    except ValueError:
        return str(node.name)
    negative = isinstance(node.parent, exp.Neg)
    number = -number if negative else number
    return int(number) if node.is_int else number
