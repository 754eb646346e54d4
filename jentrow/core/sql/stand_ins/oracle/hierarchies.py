"""CONNECT BY, with which Oracle goes through a hierarchy: a query that calls itself on the stand-in."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.functions import called, failing
from jentrow.core.sql.stand_ins.limits import spelled_out

_TREE: Final = "jentrow_tree"
_UP: Final = "jentrow_up"
_LEVEL: Final = "level"
_ROWS: Final = "jentrow_rows"
_BELOW: Final = "jentrow_below"
_ORDER: Final = "jentrow_order"
_LEAF: Final = "CONNECT_BY_ISLEAF"
_AT: Final = "jentrow_at"
_WAY: Final = "jentrow_way"
"""The number of a row, and those of the rows on the way to it."""

CIRCLE: Final = "CONNECT BY goes in a circle"
"""What the stand-in says then."""

TIE: Final = "ORDER SIBLINGS BY leaves rows under the same one in any sequence: add a key"
"""What the stand-in says where it would have to choose."""

NOT_KEPT: Final = (
    "CONNECT BY is kept only over one table, without ROWNUM but over DUAL, subqueries in its condition, CONNECT_BY_ISLEAF beside "
    "NOCYCLE, and ORDER SIBLINGS BY beside groups and DISTINCT, or by LEVEL, PRIOR and places behind *."
)


def hierarchies(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A row and the rows below it, level by level, as Oracle finds them."""
    for select in list(tree.find_all(exp.Select))[::-1]:
        if select.args.get("connect") is None:
            continue
        if is_kept(select):
            for number in list(_rownums(select)):
                number.replace(exp.column(_LEVEL))
            _Hierarchy(select).write()
        else:
            notes.append(NOT_KEPT)
    return tree


def is_kept(select: exp.Select) -> bool:
    """Whether a query with CONNECT BY can be written as one that calls itself."""
    connect, start = select.args["connect"], select.args.get("from_")
    source = start.this if start is not None else None
    if not isinstance(source, exp.Table | exp.Subquery):
        return False
    if select.args.get("joins") or select.args.get("with_"):
        return False
    if _sorts_siblings(select) and not _can_sort_siblings(select):
        return False
    if any(_rownums(select)) and (source.name.upper() != "DUAL" or select.args.get("where")):
        return False  # of one row, rows are numbered as levels are
    names = {one.name.upper() for one in select.find_all(exp.Column, exp.Pseudocolumn)}
    if _LEAF in names and connect.args.get("nocycle"):
        return False
    return connect.args["connect"].find(exp.Query) is None


def _rownums(select: exp.Select) -> Iterator[exp.Expr]:
    for one in select.find_all(exp.Column, exp.Pseudocolumn):
        if one.name.upper() == "ROWNUM":
            yield one


def _can_sort_siblings(select: exp.Select) -> bool:
    if any(select.args.get(part) for part in ("distinct", "group")):
        return False
    order, items = select.args["order"], select.selects
    if order.find(exp.Prior, exp.ConnectByRoot) is not None or any(
        column.name.upper() == "LEVEL" for column in order.find_all(exp.Column)
    ):
        return False
    by_place = any(key.this.is_int for key in order.expressions)
    return not any(
        item.find(exp.AggFunc) is not None or (by_place and item.is_star) for item in items
    )


def _sorts_siblings(select: exp.Select) -> bool:
    order = select.args.get("order")
    return order is not None and bool(order.args.get("siblings"))


class _Hierarchy:
    """One query with CONNECT BY, being written anew."""

    def __init__(self, select: exp.Select) -> None:
        self._select = select
        self._connect: exp.Connect = select.args["connect"].pop()
        self._source: exp.Expr = select.args["from_"].this
        self._name = self._source.alias_or_name or _ROWS
        self._roots: list[exp.Expr] = [exp.alias_(exp.Literal.number(1), _LEVEL)]
        self._below: list[exp.Expr] = [exp.alias_(self._next_level(), _LEVEL)]
        self._conditions = [self._about_rows(self._connect.args["connect"])]
        self._may_circle = self._connect.args["connect"].find(exp.Prior) is not None
        if self._may_circle:
            self._find_circles()

    def write(self) -> None:
        """Puts the query that calls itself into FROM."""
        self._tell_leaves()
        self._carry_along()
        if _sorts_siblings(self._select):
            self._sort_siblings()
        source = self._numbered() if self._may_circle else self._source.copy()
        roots = exp.Select().select(self._all(), *self._roots).from_(source)
        if start := self._connect.args.get("start"):
            roots = roots.where(start.copy())
        up = exp.alias_(exp.to_table(_TREE), _UP, table=True)
        below = exp.Select().select(self._all(), *self._below).from_(source.copy())
        below = below.join(up, on=exp.and_(*self._conditions))
        whole = exp.union(roots, below, distinct=False)
        self._source.replace(exp.alias_(exp.to_table(_TREE), self._name, table=True))
        hidden = [exp.column(one.alias) for one in self._roots]
        hidden += [exp.column(_AT)] if self._may_circle else []
        for star in [one for item in self._select.selects for one in item.find_all(exp.Star)]:
            if not isinstance(star.parent, exp.Count):
                star.set("except_", hidden)
        self._select.with_(_TREE, as_=whole, recursive=True, copy=False)

    def _find_circles(self) -> None:
        """Oracle rejects rows that come below themselves, or leaves them out where NOCYCLE says so.

        The stand-in would go on and on.
        """
        way, at = exp.column(_WAY, table=_UP), exp.column(_AT, table=self._name)
        is_on_way = called("list_contains", way, at)
        if self._connect.args.get("nocycle"):
            self._conditions.append(exp.Not(this=is_on_way))
        else:
            level = exp.Case().when(is_on_way, called("error", CIRCLE)).else_(self._next_level())
            self._below = [exp.alias_(level, _LEVEL)]
        self._below.append(exp.alias_(called("list_append", way.copy(), at.copy()), _WAY))
        self._roots.append(exp.alias_(called("list_value", at.copy()), _WAY))

    def _tell_leaves(self) -> None:
        """A leaf has no row below it in the table, whatever of it is shown."""
        asked = [one for one in self._select.find_all(exp.Column) if one.name.upper() == _LEAF]
        for node in asked:
            below = self._source.copy()
            below.set("alias", exp.TableAlias(this=exp.to_identifier(_BELOW)))
            condition = self._between(self._connect.args["connect"], _BELOW, self._name)
            found = exp.Select().select(exp.Literal.number(1)).from_(below).where(condition)
            no, yes = exp.Literal.number(0), exp.Literal.number(1)
            told = exp.Case().when(exp.Exists(this=found), no).else_(yes)
            node.replace(exp.alias_(told, _LEAF) if node.parent is self._select else told)

    def _sort_siblings(self) -> None:
        """The rows under one row come in their order, each before those under it.

        A way of numbers sorts so: each row's among those of its level, behind that of the row above.
        """
        keys = [spelled_out(key, self._select) for key in self._select.args["order"].expressions]
        for made, above in ((self._roots, None), (self._below, _UP)):
            sorting = [self._about_rows(key) for key in keys]
            way = None if above is None else exp.column(_ORDER, table=above)
            alike = [key.find(exp.Ordered).this.copy() for key in sorting]  # type: ignore[union-attr]
            same = exp.Window(
                this=exp.Count(this=exp.Star()),
                partition_by=alike if way is None else [way.copy(), *alike],
            )
            number: exp.Expr = exp.Window(
                this=exp.RowNumber(),
                order=exp.Order(expressions=[key.unnest() for key in sorting]),
            )
            is_tie = exp.GT(this=same, expression=exp.Literal.number(1))
            number = exp.Case().when(is_tie, failing(TIE)).else_(number)
            longer = (
                called("list_value", number) if way is None else called("list_append", way, number)
            )
            made.append(exp.alias_(longer, _ORDER))
        self._select.set("order", exp.Order(expressions=[exp.column(_ORDER)]))

    def _numbered(self) -> exp.Expr:
        """The source with its rows numbered."""
        number = exp.alias_(exp.Window(this=exp.RowNumber()), _AT)
        inner = self._source.copy()
        return exp.Select().select(exp.Star(), number).from_(inner).subquery(self._name)

    def _carry_along(self) -> None:
        """What the text shows of the row above, of the first one, and of all on the way."""
        for node in list(self._select.find_all(exp.Prior, exp.ConnectByRoot, exp.Anonymous)):
            name = f"jentrow_{len(self._roots)}"
            first: exp.Expr
            then: exp.Expr
            match node:
                case exp.Prior():
                    # Nothing is above the first; of the type that the others have.
                    none = exp.Nullif(this=node.this.copy(), expression=node.this.copy())
                    first, then = none, self._about_rows(node)
                case exp.ConnectByRoot():
                    first, then = node.this.copy(), exp.column(name, table=_UP)
                case exp.Anonymous(this=str() as called) if called.upper() == "SYS_CONNECT_BY_PATH":
                    value, between = node.expressions
                    first = exp.DPipe(this=between.copy(), expression=value.copy())
                    way = exp.DPipe(this=exp.column(name, table=_UP), expression=between.copy())
                    then = exp.DPipe(this=way, expression=self._about_rows(value))
                case _:
                    continue
            self._roots.append(exp.alias_(first, name))
            self._below.append(exp.alias_(then, name))
            node.replace(exp.column(name))

    def _all(self) -> exp.Expr:
        return exp.Column(this=exp.Star(), table=exp.to_identifier(self._name))

    def _next_level(self, above: str = _UP) -> exp.Expr:
        level = exp.column(_LEVEL, table=above)
        return exp.paren(exp.Add(this=level, expression=exp.Literal.number(1)))

    def _about_rows(self, expression: exp.Expr) -> exp.Expr:
        return self._between(expression, self._name, _UP)

    def _between(self, expression: exp.Expr, row: str, above: str) -> exp.Expr:
        """A condition on a row and the one above it, which PRIOR means."""
        found = exp.paren(expression.copy())
        for column in list(found.find_all(exp.Column)):
            if column.find_ancestor(exp.Prior) is not None:
                column.set("table", exp.to_identifier(above))
            elif column.name.upper() == "LEVEL":
                column.replace(self._next_level(above))
            else:
                column.set("table", exp.to_identifier(row))
        for prior in list(found.find_all(exp.Prior)):
            prior.replace(exp.paren(prior.this.copy()))
        return found
