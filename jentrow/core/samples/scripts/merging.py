"""MERGE, as the changes that SQLite knows: an UPDATE or a DELETE of what matches, an INSERT of the rest."""

from __future__ import annotations

from sqlglot import exp

from jentrow.core.samples.scripts.row_changes import name_values

Change = exp.Update | exp.Delete | exp.Insert


def changes_of(merge: exp.Merge) -> list[Change]:
    """The statements that do what a MERGE does, in their order; none where they would do another thing.

    They come one after the other, and a MERGE looks at its tables once: what one of its changes
    would hide from another, or show to it, is left.
    """
    whens = merge.args["whens"].expressions
    matched = [one for one in whens if one.args["matched"]]
    others = [one for one in whens if not one.args["matched"]]
    if len(matched) > 1 or len(others) > 1 or any(one.args.get("source") for one in others):
        return []
    changes: list[Change] = []
    for when in matched:
        change = _changed(merge, when)
        if change is None or (isinstance(change, exp.Delete) and others):
            return []
        changes.append(change)
    for when in others:
        if not isinstance(when.args["then"], exp.Insert):
            return []
        changes.append(_inserted(merge, when))
    for change in changes:
        name_values(change)
    return changes


def _condition(merge: exp.Merge, when: exp.When, *more: exp.Expr | None) -> exp.Expr:
    given = (merge.args["on"], when.args.get("condition"), *more)
    return exp.and_(*(one.copy() for one in given if one is not None))


def _changed(merge: exp.Merge, when: exp.When) -> Change | None:
    """What becomes of rows that match."""
    target, source, then = merge.this, merge.args["using"], when.args["then"]
    if isinstance(then, exp.Update):
        settings = [one.copy() for one in then.expressions]
        if not all(
            isinstance(one, exp.EQ) and isinstance(one.this, exp.Column) for one in settings
        ):
            return None
        set_anew = {one.this.name.lower() for one in settings}
        if any(column.name.lower() in set_anew for column in _of_target(merge)):
            return None
        for one in settings:
            one.this.set("table", None)
        where = then.args.get("where")
        condition = _condition(merge, when, where.this if where else None)
        return exp.Update(
            this=target.copy(),
            expressions=settings,
            from_=exp.From(this=source.copy()),
            where=exp.Where(this=condition),
        )
    if isinstance(then, exp.Var) and then.name.upper() == "DELETE":
        rows = exp.select(exp.column("rowid", table=target.alias_or_name)).from_(target.copy())
        rows = rows.join(source.copy(), on=_condition(merge, when))
        is_one = exp.In(this=exp.column("rowid"), query=rows.subquery())
        return exp.Delete(this=exp.to_table(target.name), where=exp.Where(this=is_one))
    return None


def _of_target(merge: exp.Merge) -> list[exp.Column]:
    """The columns that decide what matches, but those that are surely the source's."""
    source = merge.args["using"].alias_or_name.lower()
    return [one for one in merge.args["on"].find_all(exp.Column) if one.table.lower() != source]


def _inserted(merge: exp.Merge, when: exp.When) -> exp.Insert:
    """What becomes of rows that match none."""
    target, source, then = merge.this, merge.args["using"], when.args["then"]
    there = exp.select("1").from_(target.copy()).where(merge.args["on"].copy())
    rows = exp.select(*(one.copy() for one in then.expression.expressions)).from_(source.copy())
    rows = rows.where(exp.not_(exp.Exists(this=there)))
    if when.args.get("condition") is not None:
        rows = rows.where(when.args["condition"].copy())
    into: exp.Expr = exp.to_table(target.name)
    if then.this is not None:
        names = [exp.to_identifier(one.name, quoted=True) for one in then.this.expressions]
        into = exp.Schema(this=into, expressions=names)
    return exp.Insert(this=into, expression=rows)
