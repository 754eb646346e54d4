"""ROWNUM, by which Oracle numbers rows as they come."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.limits import spelled_out


def first_rows(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """ROWNUM beside a number in WHERE takes the first rows, as they come; any other use is not kept.

    Before a sorted query in FROM, ROWNUM is the place of a row in that order.
    """
    for select in list(tree.find_all(exp.Select)):
        _number_rows(select)
        where = select.args.get("where")
        if where is None or not list(_rownums(where)):
            continue
        rest, bound = [], None
        for part in where.this.flatten() if isinstance(where.this, exp.And) else [where.this]:
            found = _bound(part)
            if found is None:
                rest.append(part)
            else:
                bound = found if bound is None else min(bound, found)
        plain = not any(select.args.get(name) for name in ("order", "group", "distinct", "limit"))
        # The rows are counted before anything is worked out over them.
        plain = plain and not any(item.find(exp.AggFunc, exp.Window) for item in select.selects)
        if bound is None or not plain:
            continue
        inner = _ordered_source(select)
        if inner is not None and not rest:  # the first of an order
            select.set("where", None)
            inner.set("limit", exp.Limit(expression=exp.Literal.number(bound)))
            continue
        select.set("where", exp.Where(this=exp.and_(*rest)) if rest else None)
        select.set("limit", exp.Limit(expression=exp.Literal.number(bound)))
    if list(_rownums(tree)):
        notes.append(
            "ROWNUM is kept only beside a number in WHERE of a query without ORDER BY and without "
            "aggregates, and before a sorted query in FROM."
        )
    return tree


_PLACE: Final = "jentrow_rownum"


def _number_rows(select: exp.Select) -> None:
    """ROWNUM in a select list is the place in the order of the sorted query in FROM, where there is one."""
    numbered = [
        node
        for item in select.selects
        for node in _rownums(item)
        if node.find_ancestor(exp.Select) is select
    ]
    inner = _ordered_source(select)
    if not numbered or inner is None or not _counts_all_rows(select):
        return
    if any(inner.args.get(part) for part in ("distinct", "offset")):
        return
    keys = [spelled_out(key, inner) for key in inner.args["order"].expressions]
    place = exp.Window(this=exp.RowNumber(), order=exp.Order(expressions=keys))
    for star in [star for one in select.selects if one.is_star for star in one.find_all(exp.Star)]:
        star.set("except_", [exp.column(_PLACE)])
    inner.append("expressions", exp.alias_(place, _PLACE))
    for node in numbered:
        column = exp.column(_PLACE)
        is_whole = node.parent is select
        node.replace(exp.alias_(column, node.name, quoted=False) if is_whole else column)


def _counts_all_rows(select: exp.Select) -> bool:
    """Whether each row of FROM is counted: no condition but one on ROWNUM, and no groups."""
    where = select.args.get("where")
    if where is not None and _bound(where.this) is None:
        return False
    parts = ("joins", "group", "distinct", "having")
    is_grouped = any(item.find(exp.AggFunc) for item in select.selects)
    return not is_grouped and not any(select.args.get(one) for one in parts)


def _ordered_source(select: exp.Select) -> exp.Select | None:
    """The query in FROM whose order a query takes over: its only source, sorted and not limited."""
    start = select.args.get("from_")
    source = start.this if start is not None and not select.args.get("joins") else None
    inner = source.this if isinstance(source, exp.Subquery) else None
    if isinstance(inner, exp.Select) and inner.args.get("order") and not inner.args.get("limit"):
        return inner
    return None


def _rownums(tree: exp.Expr) -> Iterator[exp.Expr]:
    for node in tree.walk():
        if _is_rownum(node):
            yield node


def _bound(condition: exp.Expr) -> int | None:
    """How many rows a condition on ROWNUM takes; None for any other condition.

    The first row that is not taken is not counted: what begins with a later one than the first has
    no rows at all.
    """
    if isinstance(condition, exp.Between):
        low, high = (_whole(condition.args[name]) for name in ("low", "high"))
        if low is None or high is None or not _is_rownum(condition.this):
            return None
        return max(0, high) if low <= 1 else 0
    turned = _TURNED.get(type(condition))
    if turned is None:
        return None
    kind, number, rownum = type(condition), condition.expression, condition.this
    if not _is_rownum(rownum):
        kind, number, rownum = turned, rownum, number
    count = _whole(number)
    if count is None or not _is_rownum(rownum):
        return None
    if kind in (exp.LTE, exp.LT):
        return max(0, count - (kind is exp.LT))
    if kind is exp.EQ:
        return int(count == 1)
    return 0 if count > (0 if kind is exp.GT else 1) else _ALL


_TURNED: Final[dict[type[exp.Expr], type[exp.Expr]]] = {
    exp.LT: exp.GT, exp.LTE: exp.GTE, exp.GT: exp.LT, exp.GTE: exp.LTE, exp.EQ: exp.EQ,
}  # fmt: skip
"""Comparisons, and what they are with their sides changed."""

_ALL: Final = 2**31 - 1


def _is_rownum(value: exp.Expr) -> bool:
    is_name = isinstance(value, exp.Pseudocolumn | exp.Column)
    return is_name and value.name.upper() == "ROWNUM"


def _whole(value: exp.Expr) -> int | None:
    return int(value.name) if isinstance(value, exp.Literal) and value.is_int else None
