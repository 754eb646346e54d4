"""How long a text of T-SQL may become, told by the expression that gives it.

Source: the reference of Transact-SQL, ISNULL ("replacement_value can be truncated if
replacement_value is longer than check_expression").
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import partial, reduce
from itertools import product
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
    parts = _parts_of(value)
    if parts is not None:
        joined, among = parts
        each = (text_lengths(one, kinds, named, known) or UNBOUNDED for one in among)
        return reduce(partial(_together, joined), each)
    if isinstance(value, exp.Left | exp.Right | exp.Substring):
        taken = value.args["length" if isinstance(value, exp.Substring) else "expression"]
        if isinstance(taken, exp.Literal) and taken.is_int:
            whole = text_lengths(value.this, kinds, named, known) or UNBOUNDED
            return frozenset(min(one or int(taken.name), int(taken.name)) for one in whole)
    if isinstance(value, exp.National) or (isinstance(value, exp.Literal) and value.is_string):
        return frozenset({len(value.name) or 1})
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


def _together(
    joined: Callable[[Sequence[int]], int], one: frozenset[int], other: frozenset[int]
) -> frozenset[int]:
    # Of what has no bound, nothing that it is a part of has one.
    return frozenset(0 if 0 in pair else joined(pair) for pair in product(one, other))


def _parts_of(value: exp.Expr) -> tuple[Callable[[Sequence[int]], int], list[exp.Expr]] | None:
    """The values that a value is put together of, or is one of, and how long that makes it."""
    if isinstance(value, exp.Add | exp.DPipe):
        return sum, [value.left, value.right]
    if isinstance(value, exp.Case):
        results = [one.args["true"] for one in value.args["ifs"]]
        results += [value.args["default"]] if value.args.get("default") is not None else []
    elif isinstance(value, exp.If):
        results = [value.args["true"], value.args.get("false") or exp.Null()]
    elif isinstance(value, exp.Coalesce):
        results = [value.this, *value.expressions]
    else:
        return None
    return max, [one for one in results if not isinstance(one, exp.Null)] or [exp.Null()]


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
