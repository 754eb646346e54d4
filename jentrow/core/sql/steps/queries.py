"""The queries of steps: parts of a query's tree, taken out of it and put together anew."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.scopes import sources_of

BESIDE: Final = "jentrow_beside"
"""The name of the column that a step's rows have beside their own."""


def reads_itself(cte: exp.CTE) -> bool:
    """Whether a common table expression reads its own rows."""
    # A copy has no With around it, so that its name is looked for in the text alone.
    return any(table.name.lower() == cte.alias.lower() for table in cte.this.find_all(exp.Table))


def operands_in(query: exp.SetOperation) -> Iterator[tuple[str, exp.Query, exp.Query]]:
    """Each operand, left to right, with the keyword before it and everything up to it."""
    left = query.this
    if isinstance(left, exp.SetOperation):
        yield from operands_in(left)
    else:
        yield "", left, left
    keyword = type(query).__name__.upper() + ("" if query.args.get("distinct") else " ALL")
    yield keyword, query.expression, query


def only_clauses(select: exp.Select, *parts: str) -> exp.Select:
    """A SELECT of which only some clauses are kept."""
    kept = exp.Select()
    for part in parts:
        value = select.args.get(part)
        if value is not None:
            kept.set(
                part, [one.copy() for one in value] if isinstance(value, list) else value.copy()
            )
    return kept


def without_order(query: exp.Query) -> exp.Query:
    """A copy without ORDER BY and LIMIT."""
    bare = query.copy()
    for part in ("order", "limit", "offset"):
        bare.set(part, None)
    return bare


def truth_of(condition: exp.Expr) -> exp.Expr:
    """1 where a condition is true, 0 where it is false, NULL where it is unknown."""
    whole = exp.paren(condition.copy())
    return (
        exp.Case()
        .when(whole, exp.Literal.number(1))
        .when(exp.not_(whole.copy()), exp.Literal.number(0))
    )


def readings_of(condition: exp.Expr, select: exp.Select) -> Iterator[exp.Expr]:
    """A condition as written, and with the select list's aliases replaced by what they stand for."""
    yield condition
    replaced = with_aliases_replaced(condition, select)
    if replaced != condition:
        yield replaced


def group_key(key: exp.Expr, select: exp.Select) -> exp.Expr:
    """A key of GROUP BY; one given by its position is the column there."""
    if isinstance(key, exp.Literal) and key.is_int and 1 <= int(key.this) <= len(select.selects):
        return select.selects[int(key.this) - 1].unalias()
    return key


def ordered_by(key: exp.Expr) -> exp.Expr:
    """A sort key that rises, with NULL first."""
    return exp.Ordered(this=key, desc=False, nulls_first=True)


def with_aliases_replaced(expression: exp.Expr, tree: exp.Query) -> exp.Expr:
    """An expression with the aliases of a select list replaced by what they stand for."""
    aliases = {
        item.alias.lower(): item.this for item in tree.selects if isinstance(item, exp.Alias)
    }

    def replaced(node: exp.Expr) -> exp.Expr:
        if isinstance(node, exp.Column) and not node.table and node.name.lower() in aliases:
            return exp.paren(aliases[node.name.lower()].copy())
        return node

    return expression.copy().transform(replaced)


def with_rounds(cte: exp.CTE) -> exp.CTE | None:
    """A recursive expression that counts its rounds; None where that would change its rows."""
    body = cte.this
    if not isinstance(body, exp.Union) or body.args.get("distinct"):
        return None  # with another column, rows that were the same would not be any more
    counted = cte.copy()
    anchor, again = counted.this.this, counted.this.expression
    if not (isinstance(anchor, exp.Select) and isinstance(again, exp.Select)):
        return None
    own = [one for one in sources_of(again) if one.name.lower() == cte.alias.lower()]
    if len(own) != 1:
        return None
    before = exp.column(BESIDE, table=own[0].alias_or_name)
    anchor.select(exp.alias_(exp.Literal.number(0), BESIDE), copy=False)
    again.select(exp.Add(this=before, expression=exp.Literal.number(1)), copy=False)
    alias = counted.args["alias"]
    if alias.args.get("columns"):
        alias.append("columns", exp.to_identifier(BESIDE))
    return counted
