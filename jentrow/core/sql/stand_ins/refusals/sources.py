"""Tables, queries and joins in FROM that a dialect's own engine does not take, though the stand-in would.

They are told by the syntax tree. Sources as in :mod:`jentrow.core.sql.stand_ins.refusals.forms`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.scopes import sources_of


def foreign_sources(tree: exp.Query, dialect: str) -> Iterator[str]:
    """What a query takes its rows from that the dialect has not; each as the end of a sentence."""
    for look in _LOOKS:
        yield from look(tree, dialect)


_OF_DUCKDB: Final = frozenset({"SEMI", "ANTI", "ASOF", "POSITIONAL"})
_OTHER_JOINS: Final = {
    "tsql": _OF_DUCKDB | {"NATURAL"},
    "oracle": _OF_DUCKDB,
    "db2": _OF_DUCKDB | {"NATURAL"},
}
"""Kinds of joins that the dialects have not."""


def _joins(tree: exp.Query, dialect: str) -> Iterator[str]:
    for join in tree.find_all(exp.Join):
        named = {join.kind, join.method} & _OTHER_JOINS[dialect]
        yield from (f"has no {name} JOIN." for name in named)
        if dialect == "tsql" and join.args.get("using"):
            yield "has no USING: a join says ON."
    if dialect == "oracle":
        yield from _qualified_join_columns(tree)
    if dialect != "tsql":
        return
    if any(
        not isinstance(one.parent, exp.Lateral) and _is_lateral(one)
        for one in tree.find_all(exp.Lateral)
    ):
        yield "has no LATERAL: CROSS APPLY does that."


def _is_lateral(node: exp.Lateral) -> bool:
    return node.args.get("cross_apply") is None


def _qualified_join_columns(tree: exp.Query) -> Iterator[str]:
    for select in tree.find_all(exp.Select):
        used = {
            name.name.lower()
            for join in select.args.get("joins") or ()
            for name in join.args.get("using") or ()
        }
        for column in select.find_all(exp.Column) if used else ():
            is_named = column.table and column.name.lower() in used
            if is_named and column.find_ancestor(exp.Select) is select:
                yield f"names no table before {column.name}, which USING joins by."


def _sideways(tree: exp.Query, dialect: str) -> Iterator[str]:
    """A query in FROM that looks at the tables beside it, as DuckDB lets every one."""
    for query in tree.find_all(exp.Subquery):
        select = query.find_ancestor(exp.Select)
        if not isinstance(query.parent, exp.From | exp.Join) or select is None:
            continue
        beside = _called(select) - {query.alias.lower()}
        inside = {name for part in query.find_all(exp.Select) for name in _called(part)}
        if any(column.table.lower() in beside - inside for column in query.find_all(exp.Column)):
            how = {"tsql": "APPLY", "db2": "LATERAL"}.get(dialect, "LATERAL and APPLY")
            yield f"lets a query in FROM look at the tables beside it behind {how} alone."


def _called(select: exp.Select) -> set[str]:
    """What the tables and queries in a query's FROM are called, in small letters."""
    return {source.alias_or_name.lower() for source in sources_of(select) if source.alias_or_name}


def _sources(tree: exp.Query, dialect: str) -> Iterator[str]:
    for select in tree.find_all(exp.Select):
        if dialect in ("oracle", "db2") and select.args.get("from_") is None:
            yield "wants FROM in every query: DUAL, or SYSIBM.SYSDUMMY1, is a table of one row."
        stars = [one for one in select.expressions if isinstance(one, exp.Star)]
        if dialect in ("oracle", "db2") and stars and len(select.expressions) > 1:
            yield "takes * alone: with other columns beside it, a table's name and a dot stand before it."
    yield from _columns_of_sources(tree, dialect)
    for subquery in tree.find_all(exp.Subquery):
        in_from = isinstance(subquery.parent, exp.From | exp.Join)
        if dialect == "tsql" and in_from and not subquery.alias:
            yield "wants a name for a query in FROM."
    for tuple_ in tree.find_all(exp.Tuple):
        if dialect == "tsql" and isinstance(tuple_.parent, exp.In | exp.EQ):
            yield "compares no rows of several values."
        beside = tuple_.parent.args.get("expression") if tuple_.parent is not None else None
        if (
            dialect == "oracle"
            and isinstance(tuple_.parent, exp.EQ)
            and isinstance(beside, exp.Tuple)
        ):
            yield "compares rows of several values with a query, or by IN."


def _columns_of_sources(tree: exp.Query, dialect: str) -> Iterator[str]:
    """What a query in FROM, or before the query, has to call its columns."""
    for holder in tree.find_all(exp.Subquery, exp.CTE):
        is_source = isinstance(holder, exp.CTE) or isinstance(holder.parent, exp.From | exp.Join)
        inner = holder.this
        if not is_source or holder.alias_column_names or not isinstance(inner, exp.Query):
            continue
        names = [item.output_name.lower() for item in inner.selects if not item.is_star]
        strict = dialect == "tsql" or (dialect == "db2" and isinstance(holder, exp.CTE))
        if strict and "" in names:
            yield "wants a name for each column of a query in FROM or WITH."
        named = [name for name in names if name]
        if (strict or dialect == "oracle") and len(set(named)) < len(named):
            yield "wants different names for the columns of a query in FROM or WITH."


_LOOKS: Final[tuple[Callable[[exp.Query, str], Iterator[str]], ...]] = (
    _joins,
    _sideways,
    _sources,
)
