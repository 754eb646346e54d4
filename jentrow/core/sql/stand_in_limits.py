"""TOP and FETCH FIRST with more than a number, on the stand-in: it has LIMIT, and QUALIFY."""

from __future__ import annotations

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds


def limits(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """WITH TIES takes the rows whose rank is not above the number; PERCENT has no counterpart."""
    for limit in list(tree.find_all(exp.Limit, exp.Fetch)):
        options = limit.args.get("limit_options")
        if options is None:
            continue
        if options.args.get("percent"):
            notes.append("PERCENT behind TOP or FETCH FIRST is not kept.")
        elif options.args.get("with_ties") and not _ranked(limit):
            notes.append("WITH TIES is kept only in a query of one SELECT with ORDER BY.")
    return tree


def _ranked(limit: exp.Expr) -> bool:
    """Puts the condition on the rank in place of a limit; whether that means the same."""
    select = limit.parent
    # FETCH FIRST ROW is one.
    count = limit.args.get("count") or limit.args.get("expression") or exp.Literal.number(1)
    if not isinstance(select, exp.Select):
        return False
    order = select.args.get("order")
    # What is distinct is so after ranks are given; OFFSET counts rows, and not ranks.
    if order is None or any(select.args.get(one) for one in ("distinct", "offset", "qualify")):
        return False
    keys = [spelled_out(key, select) for key in order.expressions]
    rank = exp.Window(this=exp.Anonymous(this="RANK"), order=exp.Order(expressions=keys))
    select.set("qualify", exp.Qualify(this=exp.LTE(this=rank, expression=count.copy())))
    select.set("limit", None)
    return True


def spelled_out(key: exp.Expr, select: exp.Select) -> exp.Expr:
    """A sort key without names and places of the select list, which no window knows."""
    made = key.copy()
    value = made.this if isinstance(made, exp.Ordered) else made
    shown = {one.alias.lower(): one.unalias() for one in select.selects if one.alias}
    if isinstance(value, exp.Literal) and value.is_int:
        at = int(value.name) - 1
        if 0 <= at < len(select.selects):
            value.replace(select.selects[at].unalias().copy())
    elif isinstance(value, exp.Column) and not value.table and value.name.lower() in shown:
        value.replace(shown[value.name.lower()].copy())
    return made
