"""The values at which a query's conditions turn over: 2000 in ``altitude_m >= 2000``."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from sqlglot import exp
from sqlglot.expressions import Expr

from jentrow.core.sql.parsing import parsed


@dataclass(frozen=True, slots=True)
class Boundary:
    """A column's value at which a condition turns over, as text; ``strict`` where it is left out."""

    table: str
    column: str
    value: str
    strict: bool


def boundaries_in(
    sql: str, columns: Sequence[tuple[str, Sequence[str]]], dialect: str
) -> list[Boundary]:
    """The boundaries in a query over tables with these columns; none where it cannot be read.

    Found are comparisons of one column with one literal, and BETWEEN two literals.
    """
    query = parsed(sql, dialect)
    if query is None:
        return []
    known = {
        table.lower(): (table, {name.lower(): name for name in names}) for table, names in columns
    }
    aliases = {
        (table.alias or table.name).lower(): table.name.lower()
        for table in query.find_all(exp.Table)
    }
    found: list[Boundary] = []
    for column, literal, strict in _comparisons(query):
        name = column.name.lower()
        among = [aliases.get(column.table.lower(), "")] if column.table else set(aliases.values())
        tables = [known[one] for one in among if one in known and name in known[one][1]]
        if len(tables) == 1:
            table, names = tables[0]
            boundary = Boundary(table, names[name], literal, strict)
            if boundary not in found:
                found.append(boundary)
    return found


def _comparisons(query: Expr) -> Iterator[tuple[exp.Column, str, bool]]:
    for one in query.find_all(exp.GT, exp.GTE, exp.LT, exp.LTE):
        for column, literal in ((one.left, one.right), (one.right, one.left)):
            text = _literal(literal)
            if isinstance(column, exp.Column) and text is not None:
                yield column, text, isinstance(one, exp.GT | exp.LT)
    for between in query.find_all(exp.Between):
        for part in ("low", "high"):
            text = _literal(between.args[part])
            if isinstance(between.this, exp.Column) and text is not None:
                yield between.this, text, False


def _literal(part: Expr) -> str | None:
    if isinstance(part, exp.Neg) and isinstance(part.this, exp.Literal):
        return f"-{part.this.this}"
    if isinstance(part, exp.Cast | exp.Date) and isinstance(part.this, exp.Literal):
        part = part.this
    return str(part.this) if isinstance(part, exp.Literal) else None
