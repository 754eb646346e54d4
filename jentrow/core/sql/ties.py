"""A reference answer rewritten so that the engine itself tells which rows tie.

The query is put into a common table expression without its ORDER BY and LIMIT, its sort keys added
as columns where they are not in the select list, and the engine numbers the rows by DENSE_RANK
over the same keys: ties are then as the engine sees them, collation and all. The rows that the
LIMIT passed over are there too.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

from sqlglot import exp

from jentrow.core.sql.shape import QueryShape

RANKED: Final = "jentrow_ranked"


@dataclass(frozen=True, slots=True)
class RankedQuery:
    """A query whose last column is the tie group, in whose order its rows come.

    Its other columns are the original's. ``offset`` is how many rows the original skips, as SQL.
    """

    sql: str
    offset: str


def ranked_queries(
    shape: QueryShape, names: tuple[str, ...], dialect: str
) -> Iterator[RankedQuery]:
    """Ways to write the query with its tie groups, the likeliest first.

    ``names`` are the result's column names. Yields nothing where the query cannot be taken apart.
    Which way is right, the engine decides: the rows must be the original's.
    """
    tree = shape.tree
    if tree is None or not (shape.ordered or shape.limited):
        return
    order = tree.args.get("order")
    keys: list[exp.Ordered] = list(order.expressions) if order is not None else []
    offset = tree.args.get("offset")
    offset_sql = offset.expression.sql(dialect) if offset is not None else "0"
    met: set[str] = set()
    for substitute in (False, True):
        try:
            sql = _ranked(tree, keys, names, dialect, substitute=substitute)
        except (_CannotTakeApart, RecursionError):
            continue
        if sql not in met:
            met.add(sql)
            yield RankedQuery(sql, offset_sql)


class _CannotTakeApart(Exception):
    """Raised where a sort key has no column that could stand for it."""


def _ranked(
    tree: exp.Query,
    keys: list[exp.Ordered],
    names: tuple[str, ...],
    dialect: str,
    *,
    substitute: bool,
) -> str:
    core = tree.copy()
    for part in ("order", "limit", "offset"):
        core.set(part, None)
    columns = [f"c{at}" for at in range(len(names))]
    terms = []
    for number, key in enumerate(keys):
        expression, collation = _without_collation(key.this)
        at = _column_of(expression, tree, names, dialect)
        if at is None:
            if not isinstance(core, exp.Select) or core.args.get("distinct"):
                raise _CannotTakeApart
            column = f"k{number}"
            if substitute:
                expression = _with_aliases_replaced(expression, tree)
            core.select(exp.alias_(expression.copy(), column), copy=False)
            columns.append(column)
        else:
            column = columns[at]
        term: exp.Expr = exp.column(column)
        if collation is not None:
            term = exp.Collate(this=term, expression=collation.copy())
        terms.append(_sort_term(term.sql(dialect), key))
    ranking = f"DENSE_RANK() OVER (ORDER BY {', '.join(terms)})" if terms else "1"
    shown = ", ".join(columns[: len(names)])
    return (
        f"WITH {RANKED}({', '.join(columns)}) AS ({core.sql(dialect)})\n"
        f"SELECT {shown}, {ranking} AS tie FROM {RANKED} ORDER BY tie"
    )


def _sort_term(column: str, key: exp.Ordered) -> str:
    direction = " DESC" if key.args.get("desc") else ""
    nulls = key.args.get("nulls_first")
    # The parser fills in the engine's default; saying it again does no harm.
    place = "" if nulls is None else (" NULLS FIRST" if nulls else " NULLS LAST")
    return f"{column}{direction}{place}"


def _without_collation(
    expression: exp.Expr,
) -> tuple[exp.Expr, exp.Expr | None]:
    while isinstance(expression, exp.Paren):
        expression = expression.this
    if isinstance(expression, exp.Collate):
        return expression.this, expression.expression
    return expression, None


def _column_of(key: exp.Expr, tree: exp.Query, names: tuple[str, ...], dialect: str) -> int | None:
    """The result column that a sort key names: by position, by alias, or by being written alike."""
    if isinstance(key, exp.Literal) and key.is_int:
        at = int(key.this) - 1
        if not 0 <= at < len(names):
            raise _CannotTakeApart
        return at
    operands = _operands(tree)
    lists = [operand.selects for operand in operands]
    starless = [items for items in lists if not any(item.is_star for item in items)]
    if isinstance(key, exp.Column) and not key.table:
        wanted = key.name.lower()
        for items in starless:
            for at, item in enumerate(items):
                if isinstance(item, exp.Alias) and item.alias.lower() == wanted:
                    return at
        if len(operands) > 1 or not starless:
            matching = [at for at, name in enumerate(names) if name.lower() == wanted]
            if len(matching) == 1 or (matching and len(operands) > 1):
                return matching[0]
    written = key.sql(dialect).lower()
    for items in starless:
        for at, item in enumerate(items):
            if item.unalias().sql(dialect).lower() == written:
                return at
    return None


def _operands(tree: exp.Query) -> list[exp.Query]:
    """The queries that a set operation combines, left to right; the query itself otherwise."""
    operands: list[exp.Query] = []
    waiting: list[exp.Expr] = [tree]
    while waiting:
        query = waiting.pop()
        if isinstance(query, exp.SetOperation):
            waiting += [query.expression, query.this]
        elif isinstance(query, exp.Subquery):
            waiting.append(query.this)
        elif isinstance(query, exp.Query):
            operands.append(query)
    return operands


def _with_aliases_replaced(expression: exp.Expr, tree: exp.Query) -> exp.Expr:
    aliases = {
        item.alias.lower(): item.this for item in tree.selects if isinstance(item, exp.Alias)
    }

    def replaced(node: exp.Expr) -> exp.Expr:
        if isinstance(node, exp.Column) and not node.table and node.name.lower() in aliases:
            return exp.paren(aliases[node.name.lower()].copy())
        return node

    return expression.copy().transform(replaced)
