"""Divisions of a script's expressions, as SQLite has to be told to make them.

A decimal that happens to be whole is a whole number in a sample's file, and SQLite cuts off what is
left over when it divides two of them: 250.0 / 1000 would be 0.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Final

from sqlglot import exp

from jentrow.core.samples.schema.tables import TableSchema

_FRACTIONAL: Final = frozenset({"decimal", "float"})
_WHOLE_TYPES: Final = frozenset(exp.DataType.INTEGER_TYPES)


def fractional_columns(tables: Sequence[TableSchema]) -> frozenset[str]:
    """The columns that hold numbers with fractions, by their names in small letters."""
    return frozenset(
        column.name.lower()
        for table in tables
        for column in table.columns
        if column.type_name in _FRACTIONAL
    )


def divide_fractions(expression: exp.Expr, fractional: Collection[str]) -> None:
    """Changes divisions with an operand that has fractions into ones that give them in SQLite.

    ``fractional`` has columns as :func:`fractional_columns` gives them.
    """
    for node in list(expression.find_all(exp.Div)):
        # Where a dialect never cuts off, the parser sees to it itself.
        if node.args.get("typed") and any(
            _has_fraction(one, fractional) for one in (node.this, node.expression)
        ):
            node.this.replace(exp.cast(node.this.copy(), exp.DataType.Type.DOUBLE))


def _has_fraction(operand: exp.Expr, fractional: Collection[str]) -> bool:
    match operand:
        case exp.Literal():
            return not operand.is_string and not operand.is_int
        case exp.Column():
            return operand.name.lower() in fractional
        case exp.Cast():
            kind = operand.to.this
            return kind in exp.DataType.NUMERIC_TYPES and kind not in _WHOLE_TYPES
        case exp.Avg() | exp.Sqrt() | exp.Pow():
            return True
        case exp.Count() | exp.Length():
            return False
    return any(_has_fraction(one, fractional) for one in operand.iter_expressions())
