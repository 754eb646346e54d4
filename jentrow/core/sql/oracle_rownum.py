"""ROWNUM, by which Oracle numbers rows as they come."""

from __future__ import annotations

from collections.abc import Iterator

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds


def first_rows(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """``ROWNUM <= n`` in WHERE takes the first rows, as they come; any other use is not kept."""
    for select in list(tree.find_all(exp.Select)):
        where = select.args.get("where")
        if where is None or not list(_rownums(where)):
            continue
        rest, bound = [], None
        for part in where.this.flatten() if isinstance(where.this, exp.And) else [where.this]:
            found = _bound(part)
            if found is None or bound is not None:
                rest.append(part)
            else:
                bound = found
        plain = not any(select.args.get(name) for name in ("order", "group", "distinct", "limit"))
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
        notes.append("ROWNUM is kept only as ROWNUM <= n in WHERE of a query without ORDER BY.")
    return tree


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
        if isinstance(node, exp.Pseudocolumn | exp.Column) and node.name.upper() == "ROWNUM":
            yield node


def _bound(condition: exp.Expr) -> int | None:
    """How many rows ``ROWNUM <= n`` or ``ROWNUM < n`` takes; None for any other condition."""
    if not isinstance(condition, exp.LTE | exp.LT) or not isinstance(
        condition.expression, exp.Literal
    ):
        return None
    if condition.this.name.upper() != "ROWNUM" or not condition.expression.is_int:
        return None
    return int(condition.expression.name) - isinstance(condition, exp.LT)
