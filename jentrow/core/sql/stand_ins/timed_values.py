"""Which values of a query are dates and moments, as far as its columns tell; and days counted on from them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.functions import called, cast_to
from jentrow.core.sql.stand_ins.whole_numbers import numbers_in

MICROSECONDS_OF_A_DAY: Final = 86_400_000_000


def kinds_in(tree: exp.Expr, kinds: ColumnKinds) -> ColumnKinds:
    """What names mean in a query: it may call something else by a column's name, or a date by another."""
    given = [(one.alias.lower(), one.this) for one in tree.find_all(exp.Alias)]
    given = [(name, value) for name, value in given if _name(value) != name]
    listed = list(_in_lists(tree))
    named = {name for name, _ in given}
    named |= {name.lower() for one in tree.find_all(exp.TableAlias) for name in _column_names(one)}
    known = replace(
        kinds,
        dates=kinds.dates - named,
        moments=kinds.moments - named,
        floats=kinds.floats - named,
        truths=kinds.truths - named,
        wholes=kinds.wholes - named,
        decimals=kinds.decimals - named,
    )
    dates = {name for name, value in given if is_date(value, known)}
    moments = {name for name, value in given if is_moment(value, known)}
    others = {name for name, value in given if not is_timed(value, known)}
    known = replace(
        known,
        dates=known.dates | (dates - moments - others),
        moments=known.moments | (moments - dates - others),
    )
    united = [
        (name, _of_its_kind(name, known) if _name(value) == name else value)
        for name, value in _in_set_operations(tree)
    ]
    mixed = {name for name, _ in united}
    known = replace(known, wholes=known.wholes - mixed, decimals=known.decimals - mixed)
    called = [*given, *listed, *united]
    # A name that a table's column has as well may stand for that one.
    columns = {name for name, _ in called} & kinds.names
    return numbers_in([*called, *((name, _of_its_kind(name, kinds)) for name in columns)], known)


def _name(value: exp.Expr) -> str:
    return value.name.lower() if isinstance(value, exp.Column) else ""


def _column_names(alias: exp.TableAlias) -> list[str]:
    return [one.name for one in alias.args.get("columns") or ()]


def _in_lists(tree: exp.Expr) -> Iterator[tuple[str, exp.Expr]]:
    """The names of columns that stand behind a table's, each with every value that it is given."""
    for alias in tree.find_all(exp.TableAlias):
        names, table = _column_names(alias), alias.parent
        if names and table is not None:
            for row in _rows_of(table if isinstance(table, exp.Values) else table.this):
                yield from ((name.lower(), value) for name, value in zip(names, row, strict=False))


def _in_set_operations(tree: exp.Expr) -> Iterator[tuple[str, exp.Expr]]:
    """The names of a set operation's columns that are of other values, too, each with all of them."""
    for operation in tree.find_all(exp.SetOperation):
        if isinstance(operation.parent, exp.SetOperation):
            continue
        rows = list(_rows_of(operation))
        left: exp.Expr = operation
        while isinstance(left, exp.SetOperation | exp.Subquery):
            left = left.this
        names = (
            [one.output_name.lower() for one in left.selects]
            if isinstance(left, exp.Select)
            else []
        )
        for at, name in enumerate(names):
            values = [row[at] for row in rows if at < len(row)]
            if name and any(_name(value) != name for value in values):
                yield from ((name, value) for value in values)


def _of_its_kind(name: str, kinds: ColumnKinds) -> exp.Expr:
    """A number as those of a table's column are, which may mean another thing from here on."""
    if name in kinds.wholes:
        return exp.Literal.number(1)
    return exp.Literal.number("1.5") if name in kinds.decimals else exp.Var(this=name)


def _rows_of(query: exp.Expr) -> Iterator[list[exp.Expr]]:
    match query:
        case exp.SetOperation():
            yield from _rows_of(query.left)
            yield from _rows_of(query.right)
        case exp.Select():
            yield [one.unalias() for one in query.selects]
        case exp.Subquery():
            yield from _rows_of(query.this)
        case exp.Values():
            yield from (row.expressions for row in query.expressions)


def is_date(node: exp.Expr, kinds: ColumnKinds) -> bool:
    """Whether a value is surely a date without a time of day."""
    match node.unnest():
        case exp.Column() as column:
            return column.name.lower() in kinds.dates
        case exp.Cast() as cast:
            return bool(cast.to.is_type("DATE"))
        case (
            exp.CurrentDate()
            | exp.StrToDate()
            | exp.TsOrDsToDate()
            | exp.LastDay()
            | exp.DateStrToDate()
            | exp.Date()
        ):
            return True
        case exp.Min() | exp.Max() | exp.Coalesce() as call:
            return is_date(call.this, kinds)
    return False


def is_moment(node: exp.Expr, kinds: ColumnKinds) -> bool:
    """Whether a value is surely a date with its time of day."""
    match node.unnest():
        case exp.Column() as column:
            return column.name.lower() in kinds.moments
        case exp.Cast() as cast:
            return bool(cast.to.is_type("TIMESTAMP", "DATETIME", "DATETIME2"))
        case exp.Min() | exp.Max() | exp.Coalesce() as call:
            return is_moment(call.this, kinds)
        case exp.CurrentTimestamp():
            return True
        case exp.Add() | exp.Sub() as sum:
            return isinstance(sum.expression, exp.Anonymous) and sum.expression.name == _COUNTED_ON
    return False


def is_timed(node: exp.Expr, kinds: ColumnKinds) -> bool:
    """Whether a value is surely either."""
    return is_date(node, kinds) or is_moment(node, kinds)


def is_number(node: exp.Expr, kinds: ColumnKinds) -> bool:
    """Whether a value is surely a number, by how it is written."""
    match node.unnest():
        case exp.Literal() as literal:
            return not literal.is_string
        case exp.Column() as column:
            return is_float(column, kinds)
        case exp.Neg() as minus:
            return is_number(minus.this, kinds)
        case exp.Mul() | exp.Div() as product:
            return is_number(product.this, kinds) or is_number(product.expression, kinds)
        case exp.Count() | exp.Length():
            return True
    return False


def is_float(node: exp.Expr, kinds: ColumnKinds) -> bool:
    """Whether a value is surely an approximate number: a column's, or what comes of one."""
    match node.unnest():
        case exp.Column() as column:
            return column.name.lower() in kinds.floats
        case exp.Cast() as cast:
            return bool(cast.to.is_type("FLOAT", "DOUBLE"))
        case exp.Min() | exp.Max() | exp.Sum() | exp.Avg() | exp.Round() as call:
            return is_float(call.this, kinds)
    return False


_COUNTED_ON: Final = "TO_MICROSECONDS"


def count_days_on(sum: exp.Expr) -> None:
    """Makes ``moment + number`` count days on, with their fraction."""
    micros = exp.Mul(
        this=exp.paren(sum.expression), expression=exp.Literal.number(MICROSECONDS_OF_A_DAY)
    )
    sum.set("expression", called(_COUNTED_ON, cast_to(called("ROUND", micros), "BIGINT")))
