"""What a COUNT counts: rows, values, or different values."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "count",
    "what is counted",
    "COUNT counts rows where values are meant, or values where rows are meant.",
    repeats=True,
)
CASES: Final = (
    (
        "SELECT h.name, COUNT(*) FROM huts h LEFT JOIN stays s ON s.hut_id = h.hut_id GROUP BY h.hut_id",
        "SELECT h.name, COUNT(s.stay_id) FROM huts h LEFT JOIN stays s ON s.hut_id = h.hut_id GROUP BY h.hut_id",
    ),
    ("SELECT COUNT(paid_on) FROM stays", "SELECT COUNT(*) FROM stays"),
    ("SELECT COUNT(DISTINCT guest) FROM stays", "SELECT COUNT(*) FROM stays"),
    ("SELECT COUNT(*) FROM stays", "SELECT COUNT(DISTINCT hut_id) FROM stays"),
    (
        "SELECT COUNT(*) FROM (SELECT DISTINCT meal_plan FROM stays) q",
        "SELECT COUNT(meal_plan) FROM (SELECT DISTINCT meal_plan FROM stays) q",
    ),
)


def edits(draft: Draft) -> Iterator[Change]:
    """COUNT(*) as a count of each column, different values or not, and back."""
    for call in draft.tree.find_all(exp.Count):
        if not draft.known(call) or isinstance(call.parent, exp.Window):
            continue
        opened = draft.word_in(call, "(")
        select = draft.select_of(call)
        if opened is None or select is None:
            continue
        inside = (opened.end, draft.span(call)[1] - 1)
        is_star = isinstance(call.this, exp.Star)
        if not is_star:
            yield from draft.changed(inside, "*", 0.8)
        outer = {
            join.this for join in select.args.get("joins") or () if join.side in ("LEFT", "FULL")
        }
        for written, column, source in draft.in_scope(select):
            is_key = source.table is not None and column.name in source.table.primary_key
            counts = column.nullable or source.node in outer
            if is_star and counts:
                yield from draft.changed(inside, written, 0.7 if is_key or column.nullable else 0.4)
            refers = source.table is not None and any(
                column.name in key.columns for key in source.table.keys
            )
            if refers or column.family == "text" or is_key:
                yield from draft.changed(inside, f"DISTINCT {written}", 0.5 if refers else 0.3)
            if not is_star and not isinstance(call.this, exp.Distinct) and counts:
                yield from draft.changed(inside, written, 0.3)
