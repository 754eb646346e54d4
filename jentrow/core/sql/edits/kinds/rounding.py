"""Rounding: where, to how many places, or not at all."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "rounding",
    "rounding",
    "A number is rounded that should not be, or not rounded, or rounded before it is reckoned with.",
    repeats=True,
)
CASES: Final = (
    ("SELECT ROUND(AVG(nights), 1) FROM stays", "SELECT AVG(ROUND(nights, 1)) FROM stays"),
    ("SELECT ROUND(AVG(nights), 1) FROM stays", "SELECT AVG(nights) FROM stays"),
    ("SELECT ROUND(AVG(nights), 1) FROM stays", "SELECT ROUND(AVG(nights), 2) FROM stays"),
    ("SELECT AVG(nights) FROM stays", "SELECT ROUND(AVG(nights), 2) FROM stays"),
    ("SELECT AVG(ROUND(nights, 1)) FROM stays", "SELECT ROUND(AVG(nights), 1) FROM stays"),
)
_PLACES: Final = ("", ", 1", ", 2")


def edits(draft: Draft) -> Iterator[Change]:
    """ROUND dropped, added, to other places, moved into an aggregate and out of it."""
    for call in draft.tree.find_all(exp.Round):
        inner, places = call.this, call.args.get("decimals")
        if not draft.known(call, inner):
            continue
        yield from draft.changed(call, draft.text(inner), 0.6)
        rest = (draft.span(inner)[1], draft.span(call)[1] - 1)
        for said in _PLACES:
            if said.strip(", ") != draft.text(places):
                yield from draft.changed(rest, said, 0.4)
        if isinstance(inner, exp.AggFunc) and draft.known(inner.this):
            opening = draft.sql[draft.span(inner)[0] : draft.span(inner.this)[0]]
            tail = draft.sql[rest[0] : rest[1]]
            new = f"{opening}ROUND({draft.text(inner.this)}{tail}))"
            yield from draft.changed(call, new, 0.6)
    for sum_ in draft.tree.find_all(exp.Avg, exp.Sum, exp.Div, exp.Mul):
        if not draft.known(sum_) or isinstance(sum_.parent, exp.Round | exp.Binary | exp.Window):
            continue
        for said in _PLACES:
            yield from draft.changed(sum_, f"ROUND({draft.text(sum_)}{said})", 0.4)
        value = sum_.this
        is_rounded = isinstance(sum_, exp.AggFunc) and isinstance(value, exp.Round)
        if is_rounded and draft.known(value, value.this):
            opening = draft.sql[draft.span(sum_)[0] : draft.span(value)[0]]
            tail = draft.sql[draft.span(value.this)[1] : draft.span(value)[1]]
            new = f"ROUND({opening}{draft.text(value.this)}){tail}"
            yield from draft.changed(sum_, new, 0.6)
