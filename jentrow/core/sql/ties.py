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

import sqlglot
from sqlglot import exp
from sqlglot.tokenizer_core import TokenType

from jentrow.core.sql.shape import QueryShape

RANKED: Final = "jentrow_ranked"
TIED: Final = "jentrow_tied"
_IN_ORDER: Final = " ORDER BY tie"
_TAIL: Final = frozenset(
    {TokenType.ORDER_BY, TokenType.LIMIT, TokenType.OFFSET, TokenType.FETCH, TokenType.SEMICOLON}
)


@dataclass(frozen=True, slots=True)
class RankedQuery:
    """A query whose last column is the tie group, in whose order its rows come.

    Its other columns are the original's. ``offset`` is how many rows the original skips, as SQL.
    """

    sql: str
    offset: str

    def up_to(self, last: int) -> str:
        """The query without the tie groups after the one of its row ``last``, counted from 1."""
        return (
            f"{self.sql.removesuffix(_IN_ORDER)}\nWHERE tie <= (SELECT tie FROM {TIED} ORDER BY tie "
            f"LIMIT 1 OFFSET {last - 1}){_IN_ORDER}"
        )


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
    for core_with in (_core_text, _core_tree):
        for substitute in (False, True):
            try:
                ranking = _ranking(tree, keys, names, dialect, substitute=substitute)
                core = core_with(shape, ranking.added, dialect)
            except (_CannotTakeApart, RecursionError):
                continue
            sql = ranking.over(core, len(names))
            if sql not in met:
                met.add(sql)
                yield RankedQuery(sql, offset_sql)


class _CannotTakeApart(Exception):
    """Raised where a sort key has no column that could stand for it."""


@dataclass(frozen=True, slots=True)
class _Ranking:
    """The columns of the common table expression, its sort terms, and the keys added to it."""

    columns: list[str]
    terms: list[str]
    added: list[tuple[str, exp.Expr]]

    def over(self, core: str, shown: int) -> str:
        """The whole query, with the core as the common table expression."""
        ranking = f"DENSE_RANK() OVER (ORDER BY {', '.join(self.terms)})" if self.terms else "1"
        return (
            f"WITH {RANKED}({', '.join(self.columns)}) AS ({core}\n),\n"
            f"{TIED} AS (SELECT {', '.join(self.columns[:shown])}, {ranking} AS tie FROM {RANKED})\n"
            f"SELECT * FROM {TIED}{_IN_ORDER}"
        )


def _ranking(
    tree: exp.Query,
    keys: list[exp.Ordered],
    names: tuple[str, ...],
    dialect: str,
    *,
    substitute: bool,
) -> _Ranking:
    columns = [f"c{at}" for at in range(len(names))]
    ranking = _Ranking(columns, [], [])
    for number, key in enumerate(keys):
        expression, collation = _without_collation(key.this)
        at = _column_of(expression, tree, names, dialect)
        if at is not None:
            column = columns[at]
        else:
            if not isinstance(tree, exp.Select) or tree.args.get("distinct"):
                raise _CannotTakeApart
            column = f"k{number}"
            if substitute:
                expression = with_aliases_replaced(expression, tree)
            ranking.added.append((column, expression))
            columns.append(column)
        term: exp.Expr = exp.column(column)
        if collation is not None:
            term = exp.Collate(this=term, expression=collation.copy())
        ranking.terms.append(_sort_term(term.sql(dialect), key))
    return ranking


def _core_text(shape: QueryShape, added: list[tuple[str, exp.Expr]], dialect: str) -> str:
    """The query as its author wrote it, cut before ORDER BY and LIMIT, the keys put before FROM."""
    depth = 0
    start_of_from = None
    end = len(shape.sql)
    for token in sqlglot.tokenize(shape.sql, read=dialect):
        kind = token.token_type
        depth += (kind == TokenType.L_PAREN) - (kind == TokenType.R_PAREN)
        if depth:
            continue
        if kind == TokenType.FROM and start_of_from is None:
            start_of_from = token.start
        if kind in _TAIL:
            end = token.start
            break
    if not added:
        return shape.sql[:end]
    if start_of_from is None:
        raise _CannotTakeApart
    keys = "".join(f", {key.sql(dialect)} AS {column}" for column, key in added)
    return f"{shape.sql[:start_of_from]}\n{keys}\n{shape.sql[start_of_from:end]}"


def _core_tree(shape: QueryShape, added: list[tuple[str, exp.Expr]], dialect: str) -> str:
    """The query as the parser writes it: for what cannot be cut as text."""
    assert shape.tree is not None
    core = shape.tree.copy()
    for part in ("order", "limit", "offset"):
        core.set(part, None)
    for column, key in added:
        assert isinstance(core, exp.Select)
        core.select(exp.alias_(key.copy(), column), copy=False)
    return core.sql(dialect)


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
