"""What a query's text holds, for telling which causes of a difference it bears out."""

from __future__ import annotations

from functools import lru_cache
from itertools import pairwise
from typing import Final

from sqlglot import exp

from jentrow.core.comparison.causes import TextFact, TextFacts
from jentrow.core.sql.aggregates import has_aggregate
from jentrow.core.sql.null_guards import COMPARISONS, null_reaches
from jentrow.core.sql.parsing import parsed
from jentrow.core.sql.scopes import cte_named, joins_of, sources_of
from jentrow.core.sql.shape import shape_of
from jentrow.core.sql.tokens import tokens_of

SLASH_DIVIDES_WHOLE: Final = frozenset({"sqlite", "postgres", "tsql", "db2"})
"""Dialects in which a / b of whole numbers is a whole number; elsewhere it has its fraction."""

_ROUNDING: Final = frozenset(
    {"ROUND", "CAST", "FORMAT", "PRINTF", "CEIL", "CEILING", "FLOOR", "TRUNC"}
)


@lru_cache(maxsize=512)
def text_facts(sql: str, dialect: str) -> TextFacts:
    """The facts of a text. Where it cannot be read, only what its words alone tell."""
    words = {token.word for token in tokens_of(sql, dialect) if token.kind == "word"}
    known: set[TextFact] = {"order_by" if shape_of(sql, dialect).ordered else "no_order_by"}
    if words & _ROUNDING:
        known.add("rounding")
    if _divides_whole(sql, dialect):
        known.add("division")
    if not words & {"DISTINCT", "GROUP", "UNION", "EXCEPT", "INTERSECT"}:
        known.add("keeps_repeats")
    tree = parsed(sql, dialect)
    if tree is None:
        return TextFacts(frozenset(known))
    known |= _repeats(tree)
    for select in tree.find_all(exp.Select):
        if len(sources_of(select)) > 1:
            known.add("several_sources")
        if any(_is_inner(join) for join in joins_of(select)):
            known.add("inner_join")
    return TextFacts(frozenset(known), _compared(tree), _product(tree))


def _divides_whole(sql: str, dialect: str) -> bool:
    """Whether a text has an operator that drops the fraction where both sides are whole numbers."""
    words = [token.word for token in tokens_of(sql, dialect)]
    if dialect in SLASH_DIVIDES_WHOLE:
        return "/" in words
    return "DIV" in words if dialect == "mysql" else ("/", "/") in pairwise(words)


def _repeats(tree: exp.Query) -> set[TextFact]:
    """What the outermost query does with repeated rows."""
    known: set[TextFact] = set()
    waiting: list[exp.Expr] = [tree]
    while waiting:
        query = waiting.pop()
        if isinstance(query, exp.SetOperation):
            removes = query.args.get("distinct") or not isinstance(query, exp.Union)
            known.add("combined" if removes else "union_all")
            waiting += [query.this, query.expression]
        elif isinstance(query, exp.Subquery):
            waiting.append(query.this)
        elif isinstance(query, exp.Select):
            if query.args.get("distinct") is not None:
                known.add("distinct")
            if query.args.get("group") is not None:
                known.add("group_by")
    if not known & {"distinct", "group_by", "combined"}:
        known.add("keeps_repeats")
    return known


def _is_inner(join: exp.Join) -> bool:
    return not join.side and _is_tied(join)


def _is_tied(join: exp.Join) -> bool:
    on = join.args.get("on")
    given = on is not None and not isinstance(on, exp.Boolean)
    return given or bool(join.args.get("using") or join.method == "NATURAL")


def _compared(tree: exp.Query) -> frozenset[str]:
    found = set()
    for kind in (exp.Where, exp.Having, exp.Join):
        for clause in tree.find_all(kind):
            condition = clause.args.get("on") if isinstance(clause, exp.Join) else clause.this
            for comparison in condition.find_all(*COMPARISONS) if condition is not None else ():
                found |= {
                    column.name.casefold()
                    for column in comparison.find_all(exp.Column)
                    if null_reaches(column, comparison)
                }
    return frozenset(found)


def _product(tree: exp.Query) -> tuple[str, ...]:
    """The tables of a query that gives every row of each with every row of the others."""
    kept = ("where", "group", "having", "distinct", "limit", "offset")
    if not isinstance(tree, exp.Select) or any(tree.args.get(part) for part in kept):
        return ()
    if has_aggregate(tree):
        return ()
    if any(_is_tied(join) for join in joins_of(tree)):
        return ()
    sources = sources_of(tree)
    if len(sources) < 2:
        return ()
    if not all(isinstance(one, exp.Table) and cte_named(one) is None for one in sources):
        return ()
    return tuple(source.name for source in sources)
