"""Which columns of a result have a name that a query's author gave them.

An alias or a plain column gives a name, however deep it stands under ``*``; what an engine calls an
expression, or a column of VALUES, is nobody's choice.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Final

from sqlglot import exp

from jentrow.core.sql.parsing import parsed
from jentrow.core.sql.scopes import TableColumns, cte_named, joins_of, table_columns
from jentrow.core.sql.tokens import name_of, tokens_of

_NO_NAMES: Final = frozenset(
    {"NULL", "TRUE", "FALSE", "CURRENT_DATE", "CURRENT_TIME", "CURRENT_TIMESTAMP"}
)
_DEEP: Final = 40
"""Nested queries that are followed at most."""


class _NotKnown(Exception):
    """Raised where the columns behind a ``*`` cannot be told from the text."""


def named_columns(
    sql: str,
    names: Sequence[str],
    columns: tuple[tuple[str, tuple[str, ...]], ...],
    dialect: str,
) -> tuple[bool, ...]:
    """For each column of a query's result, whether the query's text gives it its name.

    ``names`` are the result's; ``columns`` those of the sample's tables. A name that the engine
    made other than the text says (it numbers names that come twice) is its own.
    """
    tree = parsed(sql, dialect)
    try:
        written = None if tree is None else list(_names(tree, table_columns(columns), 0))
    except (_NotKnown, RecursionError):
        written = None
    if written is None or len(written) != len(names):
        given = _names_in_text(sql, dialect)
        return tuple(name.casefold() in given for name in names)
    return tuple(
        own is not None and own.casefold() == name.casefold()
        for own, name in zip(written, names, strict=True)
    )


def _names_in_text(sql: str, dialect: str) -> frozenset[str]:
    """Whatever stands in a text as a name: the last resort."""
    found = set()
    for token in tokens_of(sql, dialect):
        name = name_of(sql, token)
        if name is not None and token.word not in _NO_NAMES:
            found.add(name.casefold())
    return frozenset(found)


def _names(query: exp.Expr, columns: TableColumns, deep: int) -> Iterator[str | None]:
    """The name of each output column as the text gives it; None where it gives none."""
    if deep > _DEEP:
        raise _NotKnown
    while isinstance(query, exp.Subquery | exp.SetOperation):
        query = query.this
    if isinstance(query, exp.Values):
        first = query.expressions[0]
        yield from [None] * (len(first.expressions) if isinstance(first, exp.Tuple) else 1)
        return
    if not isinstance(query, exp.Select):
        raise _NotKnown
    for item in query.expressions:
        bare = item.unnest()
        if isinstance(item, exp.Alias):
            yield item.alias
        elif isinstance(bare, exp.Star):
            yield from _names_of_sources(query, columns, deep)
        elif isinstance(bare, exp.Column) and isinstance(bare.this, exp.Star):
            yield from _names_of_one(query, bare.table, columns, deep)
        elif isinstance(bare, exp.Column):
            yield bare.name
        else:
            yield None


def _sources(select: exp.Select) -> Iterator[tuple[exp.Expr, exp.Join | None]]:
    start = select.args.get("from_")
    if start is None:
        raise _NotKnown
    yield start.this, None
    for join in joins_of(select):
        yield join.this, join


def _names_of_sources(select: exp.Select, columns: TableColumns, deep: int) -> Iterator[str | None]:
    """What ``*`` stands for: all sources' columns, those that a join merges but once."""
    met: set[str] = set()
    for source, join in _sources(select):
        own = list(_names_of_source(source, columns, deep))
        merged: set[str] = set()
        if join is not None and join.method == "NATURAL":
            merged = met & {name.casefold() for name in own if name}
        elif join is not None:
            merged = {one.name.casefold() for one in join.args.get("using") or ()}
        for name in own:
            if name is None or name.casefold() not in merged:
                yield name
        met |= {name.casefold() for name in own if name}


def _names_of_one(
    select: exp.Select, table: str, columns: TableColumns, deep: int
) -> Iterator[str | None]:
    for source, _ in _sources(select):
        if source.alias_or_name.casefold() == table.casefold():
            yield from _names_of_source(source, columns, deep)
            return
    raise _NotKnown


def _names_of_source(source: exp.Expr, columns: TableColumns, deep: int) -> Iterator[str | None]:
    alias = source.args.get("alias")
    if alias is not None and alias.args.get("columns"):
        yield from (one.name for one in alias.args["columns"])
    elif source.args.get("joins"):
        raise _NotKnown  # a join in parentheses
    elif isinstance(source, exp.Table) and isinstance(source.this, exp.Identifier):
        body = cte_named(source)
        if body is not None:
            renamed = body.args["alias"].args.get("columns")
            if renamed:
                yield from (one.name for one in renamed)
            else:
                yield from _names(body.this, columns, deep + 1)
            return
        found = columns.get(source.name.lower())
        if found is None:
            raise _NotKnown
        yield from found
    elif isinstance(source, exp.Subquery | exp.Values):
        yield from _names(source, columns, deep + 1)
    else:
        raise _NotKnown
