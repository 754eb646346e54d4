"""How long a text of T-SQL may become, told by the expression that gives it.

Source: the reference of Transact-SQL, ISNULL ("replacement_value can be truncated if
replacement_value is longer than check_expression").
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final, TypeAlias

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds

_AS_LONG: Final = (
    exp.Max,
    exp.Min,
    exp.Upper,
    exp.Lower,
    exp.Trim,
    exp.Nullif,
    exp.Paren,
    exp.Alias,
)
"""What takes as many letters as what is in it."""

UNBOUNDED: Final = frozenset({0})

NamedColumns: TypeAlias = Mapping[str, list[exp.Expr]]
"""What the queries within a query give, by the names that they give it, in small letters."""


def text_lengths(
    value: exp.Expr, kinds: ColumnKinds, named: NamedColumns, known: frozenset[int] = frozenset()
) -> frozenset[int]:
    """The most letters that a value of a query may have, 0 where no bound is known.

    Several where a name may be that of several columns; empty where there is no such column.
    ``known`` are the named columns that are being looked at.
    """
    if isinstance(value, _AS_LONG) or value.args.get("is_null"):
        return text_lengths(value.this, kinds, named, known)
    if isinstance(value, exp.Cast) and value.to.is_type(*exp.DataType.TEXT_TYPES):
        size = value.to.expressions[0].name if value.to.expressions else ""
        return frozenset({int(size)}) if size.isdecimal() else UNBOUNDED
    if isinstance(value, exp.Subquery):
        query = value.unnest()
        if isinstance(query, exp.Query) and query.selects:
            return text_lengths(query.selects[0], kinds, named, known)
    if not isinstance(value, exp.Column):
        return UNBOUNDED
    name = value.name.lower()
    found = {length for column, length in kinds.lengths if column == name}
    around = value.find_ancestor(exp.Select)
    for given in named.get(name, ()):
        # A query does not see the names that it gives itself.
        if id(given) not in known and given.find_ancestor(exp.Select) is not around:
            found |= text_lengths(given, kinds, named, known | {id(given)})
    return frozenset(found)


def named_columns_within(tree: exp.Expr) -> NamedColumns:
    """The columns of all queries within a query that have a name of their own there."""
    named: dict[str, list[exp.Expr]] = {}
    for query in tree.find_all(exp.Select):
        if query is not tree:
            for one in query.selects:
                if isinstance(one, exp.Alias):
                    named.setdefault(one.alias.lower(), []).append(one)
    for source in tree.find_all(exp.Subquery, exp.CTE):
        query = source.this.unnest()
        if source.alias and isinstance(query, exp.Query):
            for column, one in zip(source.args["alias"].columns, query.selects, strict=False):
                named.setdefault(column.name.lower(), []).append(one)
    return named
