"""UPDATE and DELETE over joined tables, and rows counted out by CONNECT BY, as SQLite takes them."""

from __future__ import annotations

from sqlglot import exp

_COUNTED = "counted"


def change_one_table(statement: exp.Update | exp.Delete) -> None:
    """Changes T-SQL's and MySQL's forms: ``UPDATE h … FROM huts h JOIN …``, ``DELETE h FROM huts h JOIN …``.

    What SQLite has no way to say stays as it is, so that it is told of.
    """
    if isinstance(statement, exp.Delete):
        _delete(statement)
    else:
        _update(statement)


def _delete(statement: exp.Delete) -> None:
    targets = statement.args.get("tables") or []
    if len(targets) != 1:
        return
    target, source = targets[0], statement.this
    statement.set("tables", None)
    if not source:
        statement.set("this", target)
        return
    found = _table_called(source, target.name)
    if found is None:
        return
    chosen = exp.select(exp.column("rowid", table=found.alias_or_name)).from_(source.copy())
    where = statement.args.get("where")
    if where is not None:
        chosen = chosen.where(where.this.copy())
    statement.set("this", exp.to_table(found.name))
    statement.set(
        "where", exp.Where(this=exp.In(this=exp.column("rowid"), query=chosen.subquery()))
    )


def _update(statement: exp.Update) -> None:
    from_ = statement.args.get("from_")
    if from_ is None or not isinstance(statement.this, exp.Table):
        return
    source = from_.this
    if not isinstance(source, exp.Table) or source.alias_or_name != statement.this.name:
        return
    joins = source.args.get("joins") or []
    if any(one.side or one.args.get("using") for one in joins):
        return
    source.set("joins", None)
    statement.set("this", source)
    statement.set("from_", exp.From(this=joins[0].this) if joins else None)
    if joins:
        joins[0].this.set("joins", joins[1:] or None)
        condition = joins[0].args.get("on")
        where = statement.args.get("where")
        both = [one for one in (condition, where.this if where else None) if one is not None]
        statement.set("where", exp.Where(this=exp.and_(*both)) if both else None)
    for one in statement.expressions:
        if isinstance(one, exp.EQ) and isinstance(one.this, exp.Column):
            one.this.set("table", None)


def _table_called(source: exp.Expr, name: str) -> exp.Table | None:
    """The table of a FROM that is called so there."""
    tables = [source, *(one.this for one in source.args.get("joins") or ())]
    for one in tables:
        if isinstance(one, exp.Table) and one.alias_or_name.lower() == name.lower():
            return one
    return None


def count_out(statement: exp.Expr) -> None:
    """Changes ``SELECT LEVEL … FROM DUAL CONNECT BY LEVEL <= 3`` into rows that SQLite counts."""
    for select in list(statement.find_all(exp.Select)):
        connect = select.args.get("connect")
        if connect is None or connect.args.get("start") or select.args.get("joins"):
            continue
        most = _most(connect.args["connect"])
        from_ = select.args.get("from_")
        if most is None or (from_ is not None and from_.this.name.lower() != "dual"):
            continue
        following = exp.column("n", table=_COUNTED) + 1
        counted = exp.union(
            exp.select(exp.alias_(exp.Literal.number(1), "n")),
            exp.select(following).from_(_COUNTED).where(exp.column("n", table=_COUNTED) < most),
            distinct=False,
        )
        select.set("connect", None)
        select.from_(_COUNTED, copy=False)
        for column in list(select.find_all(exp.Column)):
            if column.name.upper() == "LEVEL" and not column.table:
                column.replace(exp.column("n", table=_COUNTED))
        select.with_(_COUNTED, as_=counted, recursive=True, copy=False)


def name_values(statement: exp.Expr) -> None:
    """Changes rows that are written out in a FROM: ``(VALUES (1), (2)) AS v (n)`` has no names in SQLite."""
    for values in list(statement.find_all(exp.Values)):
        alias = values.args.get("alias")
        if alias is None or not isinstance(values.parent, exp.From | exp.Join):
            continue
        names = [one.name for one in alias.args.get("columns") or ()]
        if not names:
            continue
        rows = [
            exp.select(*(exp.alias_(cell, name) for cell, name in zip(row, names, strict=False)))
            for row in (one.expressions for one in values.expressions)
        ]
        query: exp.Query = rows[0]
        for row in rows[1:]:
            query = exp.union(query, row, distinct=False)
        values.replace(query.subquery(alias.name))


def _most(condition: exp.Expr) -> exp.Expr | None:
    """How many rows LEVEL <= 3 counts out; None for any other condition."""
    if not isinstance(condition, exp.LTE | exp.LT) or not isinstance(condition.this, exp.Column):
        return None
    if condition.this.name.upper() != "LEVEL" or not isinstance(condition.expression, exp.Literal):
        return None
    most = int(condition.expression.name) - isinstance(condition, exp.LT)
    return exp.Literal.number(most)
