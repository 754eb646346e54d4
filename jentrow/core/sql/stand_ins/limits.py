"""TOP and FETCH FIRST with more than a number, on the stand-in: it has LIMIT, and QUALIFY."""

from __future__ import annotations

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds


def limits(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """WITH TIES takes the rows whose rank is not above the number; PERCENT counts all rows first."""
    # From the innermost outwards: what is counted is written anew already.
    for limit in list(tree.find_all(exp.Limit, exp.Fetch))[::-1]:
        options = limit.args.get("limit_options")
        if options is None:
            continue
        # FETCH FIRST ROW is one.
        count = limit.args.get("count") or limit.args.get("expression") or exp.Literal.number(1)
        query = limit.parent
        if options.args.get("percent"):
            if not isinstance(query, exp.Select) or not _stands_alone(query):
                notes.append(
                    "PERCENT behind TOP or FETCH FIRST is kept only in a query of one SELECT that is "
                    "no part of an expression."
                )
                continue
            count = _share_of_rows(query, count)
            query.set("limit", exp.Limit(expression=count))
        if options.args.get("with_ties") and not _ranked(query, count):
            notes.append("WITH TIES is kept only in a query of one SELECT with ORDER BY.")
    return tree


def _stands_alone(query: exp.Select) -> bool:
    """Whether a query reads nothing of another one around it: it is the whole, or a table of it."""
    holder = query.parent
    if isinstance(holder, exp.Subquery):
        return isinstance(holder.parent, exp.From | exp.Join)
    return holder is None or isinstance(holder, exp.CTE)


def _share_of_rows(query: exp.Select, percent: exp.Expr) -> exp.Expr:
    """A query for how many rows so many percent are: part of a row counts as one."""
    all_rows = query.copy()
    for part in ("order", "limit", "offset", "with_"):
        all_rows.set(part, None)
    share = exp.Div(
        this=exp.Mul(this=exp.Count(this=exp.Star()), expression=exp.paren(percent.copy())),
        expression=exp.Literal.number(100),
    )
    rows = exp.cast(exp.Ceil(this=share), exp.DataType.Type.BIGINT)
    return exp.Select().select(rows).from_(all_rows.subquery("jentrow_rows")).subquery()


def _ranked(select: exp.Expr | None, count: exp.Expr) -> bool:
    """Puts the condition on the rank in place of a limit; whether that means the same."""
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
