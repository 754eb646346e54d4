"""The sign (+), with which Oracle's older texts write outer joins: LEFT JOIN on the stand-in.

Source: outer joins in the reference of Oracle Database 19c
(https://docs.oracle.com/en/database/oracle/oracle-database/19/sqlrf/Joins.html).
"""

from __future__ import annotations

from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds

NOT_KEPT: Final = (
    "The sign (+) is kept only in conditions that AND joins, where each column has its table's name before it, and "
    "beside no JOIN."
)


def outer_joins(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A table whose columns have the sign is joined to the others, and is NULL where nothing fits."""
    signed = (one for one in tree.find_all(exp.Column) if one.args.get("join_mark"))
    # By the node: two queries of the same words are two.
    selects = {id(one): one for sign in signed if (one := sign.find_ancestor(exp.Select))}
    for select in selects.values():
        if not _is_written_anew(select):
            return _left_alone(tree, notes)
    return tree


def _left_alone(tree: exp.Expr, notes: list[str]) -> exp.Expr:
    notes.append(NOT_KEPT)
    for column in tree.find_all(exp.Column):
        column.set("join_mark", False)
    return tree


def _is_written_anew(select: exp.Select) -> bool:
    """Puts LEFT JOIN in place of the signs; false, and nothing done, where that is not the same."""
    where, sources = select.args.get("where"), _sources(select)
    if where is None or sources is None:
        return False
    signed: dict[str, list[exp.Expr]] = {}
    rest: list[exp.Expr] = []
    for part in where.this.flatten() if isinstance(where.this, exp.And) else [where.this]:
        tables = {column.table.lower() for column in _signed(part, select)}
        if not tables:
            rest.append(part)
        elif len(tables) == 1 and _is_plain(part, sources):
            signed.setdefault(tables.pop(), []).append(part)
        else:
            return False
    if len(_signed(select, select)) != len(_signed(where, select)):
        return False
    joined = [name for name in sources if name not in signed]
    order = _in_turn(joined, signed)
    if not joined or len(order) != len(sources):
        return False
    _join(select, sources, order, signed)
    select.set("where", exp.Where(this=exp.and_(*rest, copy=False)) if rest else None)
    return True


def _sources(select: exp.Select) -> dict[str, exp.Expr] | None:
    """The tables of FROM by their names, in their order; None where there are joins, or others."""
    start = select.args.get("from_")
    joins = select.args.get("joins") or []
    if start is None or any(
        join.args.get(part) for join in joins for part in ("on", "using", "side", "kind", "method")
    ):
        return None
    found = [start.this, *(join.this for join in joins)]
    if not all(isinstance(one, exp.Table | exp.Subquery) and one.alias_or_name for one in found):
        return None
    named = {one.alias_or_name.lower(): one for one in found}
    return named if len(named) == len(found) else None


def _signed(tree: exp.Expr, select: exp.Select) -> list[exp.Column]:
    """The columns with the sign that belong to a query itself, and to none inside of it."""
    return [
        column
        for column in tree.find_all(exp.Column)
        if column.args.get("join_mark") and column.find_ancestor(exp.Select) is select
    ]


def _is_plain(condition: exp.Expr, sources: dict[str, exp.Expr]) -> bool:
    """Whether it is known of which tables a condition is, and it may have the sign."""
    if condition.find(exp.Or, exp.Query, exp.In) is not None:
        return False
    return all(column.table.lower() in sources for column in condition.find_all(exp.Column))


def _in_turn(joined: list[str], signed: dict[str, list[exp.Expr]]) -> list[str]:
    """The tables in an order in which each comes behind those that its conditions name.

    Those that wait for each other are left out.
    """
    order = list(joined)
    while ready := [
        name
        for name, conditions in signed.items()
        if name not in order and _named(conditions) - {name} <= set(order)
    ]:
        order += ready
    return order


def _named(conditions: list[exp.Expr]) -> set[str]:
    return {column.table.lower() for one in conditions for column in one.find_all(exp.Column)}


def _join(
    select: exp.Select,
    sources: dict[str, exp.Expr],
    order: list[str],
    signed: dict[str, list[exp.Expr]],
) -> None:
    shown: list[exp.Expr] = []
    for item in select.selects:  # * shows the columns as FROM has the tables
        stars = [exp.Column(this=exp.Star(), table=exp.to_identifier(name)) for name in sources]
        shown += stars if isinstance(item, exp.Star) else [item]
    select.set("expressions", shown)
    for column in _signed(select, select):
        column.set("join_mark", False)
    first, *others = order
    select.set("from_", exp.From(this=sources[first].copy()))
    joins: list[exp.Expr] = []
    for name in others:
        conditions = signed.get(name)
        if conditions is None:
            joins.append(exp.Join(this=sources[name].copy(), kind="CROSS"))
        else:
            on = exp.and_(*(one.copy() for one in conditions))
            joins.append(exp.Join(this=sources[name].copy(), side="LEFT", on=on))
    select.set("joins", joins)
