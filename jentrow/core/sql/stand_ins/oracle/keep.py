"""KEEP, with which Oracle takes an aggregate of the first or the last rows of a group alone."""

from __future__ import annotations

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.functions import called


def first_and_last(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """``MAX(x) KEEP (DENSE_RANK LAST ORDER BY y)`` is the first x of the group, sorted so.

    By y, the other way round for LAST; then by x, so that of the rows that tie the largest comes
    first, or for MIN the smallest, and NULL last.
    """
    for keep in list(tree.find_all(exp.Window)):
        if keep.args.get("over") != "KEEP":
            continue
        aggregate = keep.this
        if not isinstance(aggregate, exp.Max | exp.Min):
            notes.append("KEEP is kept only for MAX and MIN.")
            continue
        keys = [key.copy() for key in keep.args["order"].expressions]
        if not keep.args.get("first"):
            for key in keys:
                key.set("desc", not key.args.get("desc"))
                key.set("nulls_first", not key.args.get("nulls_first"))
        value = aggregate.this
        largest = isinstance(aggregate, exp.Max)
        keys.append(exp.Ordered(this=value.copy(), desc=largest, nulls_first=False))
        keep.replace(called("first", exp.Order(this=value.copy(), expressions=keys)))
    return tree
