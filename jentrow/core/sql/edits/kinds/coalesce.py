"""COALESCE: what stands for a missing value."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "default for null",
    "a value for NULL",
    "A missing value is left NULL where another should stand for it, or the other way round.",
    repeats=True,
)
CASES: Final = (
    ("SELECT COALESCE(SUM(nights), 0) FROM stays", "SELECT SUM(nights) FROM stays"),
    ("SELECT SUM(nights) FROM stays", "SELECT COALESCE(SUM(nights), 0) FROM stays"),
    ("SELECT COALESCE(AVG(nights), 0) FROM stays", "SELECT AVG(COALESCE(nights, 0)) FROM stays"),
    (
        "SELECT h.name, q.n FROM huts h LEFT JOIN (SELECT hut_id, COUNT(*) AS n FROM stays "
        "GROUP BY hut_id) q ON q.hut_id = h.hut_id",
        "SELECT h.name, COALESCE(q.n, 0) FROM huts h LEFT JOIN (SELECT hut_id, COUNT(*) AS n "
        "FROM stays GROUP BY hut_id) q ON q.hut_id = h.hut_id",
    ),
    ("SELECT AVG(COALESCE(nights, 0)) FROM stays", "SELECT COALESCE(AVG(nights), 0) FROM stays"),
)


def edits(draft: Draft) -> Iterator[Change]:
    """COALESCE dropped, put around a sum or a column, moved into an aggregate and out of it."""
    for call in draft.tree.find_all(exp.Coalesce):
        if not draft.known(call, call.this):
            continue
        yield from draft.changed(call, draft.text(call.this), 0.7)
        yield from _moved_in(draft, call)
    for value in draft.tree.find_all(exp.Sum, exp.Avg, exp.Min, exp.Max):
        if not draft.known(value) or isinstance(value.parent, exp.Coalesce | exp.Window):
            continue
        said = draft.text(value)
        yield from draft.changed(value, f"COALESCE({said}, 0)", 0.6)
        inner = value.this
        if isinstance(inner, exp.Coalesce) and draft.known(inner, inner.this):
            rest = draft.sql[draft.span(inner.this)[1] : draft.span(inner)[1]]
            name = draft.sql[draft.span(value)[0] : draft.span(inner)[0]]
            moved = f"COALESCE({name}{draft.text(inner.this)}){rest}"
            yield from draft.changed(value, moved, 0.5)
    yield from _around_columns(draft)


def _moved_in(draft: Draft, call: exp.Expr) -> Iterator[Change]:
    """``COALESCE(AVG(x), 0)`` as ``AVG(COALESCE(x, 0))``."""
    inner = call.this
    if not isinstance(inner, exp.AggFunc) or isinstance(inner, exp.Count):
        return
    value = inner.this
    if not draft.known(inner, value) or isinstance(value, exp.Distinct | exp.Star):
        return
    opening = draft.sql[draft.span(inner)[0] : draft.span(value)[0]]
    rest = draft.sql[draft.span(inner)[1] : draft.span(call)[1]]
    yield from draft.changed(call, f"{opening}COALESCE({draft.text(value)}{rest})", 0.5)


def _around_columns(draft: Draft) -> Iterator[Change]:
    outer = {
        join.this
        for select in draft.selects
        for join in select.args.get("joins") or ()
        if join.side
    }
    derived = {
        source.called
        for select in draft.selects
        for source in draft.sources(select)
        if source.node in outer and source.table is None
    }
    for column in draft.tree.find_all(exp.Column):
        found = draft.meaning(column)
        if not draft.known(column) or isinstance(column.this, exp.Star):
            continue
        if found is None:
            if column.table in derived:
                yield from draft.changed(column, f"COALESCE({draft.text(column)}, 0)", 0.3)
            continue
        if isinstance(column.parent, exp.Is | exp.Coalesce | exp.Ordered | exp.Group | exp.Count):
            continue
        if found[1].nullable or found[0].node in outer:
            default = "0" if found[1].family == "number" else "''"
            if found[1].family in ("number", "text"):
                said = f"COALESCE({draft.text(column)}, {default})"
                yield from draft.changed(column, said, 0.3)
