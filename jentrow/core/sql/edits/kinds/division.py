"""Division of whole numbers, which drops what is left over."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "whole division",
    "a division",
    "Whole numbers are divided, and what is left over is dropped, or is kept where it should be dropped.",
    repeats=True,
)
CASES: Final = (
    ("SELECT beds / 3 FROM huts", "SELECT beds * 1.0 / 3 FROM huts"),
    ("SELECT beds * 1.0 / 3 FROM huts", "SELECT beds / 3 FROM huts"),
    ("SELECT CAST(beds AS REAL) / 3 FROM huts", "SELECT beds / 3 FROM huts"),
)


def edits(draft: Draft) -> Iterator[Change]:
    """``* 1.0`` put before a division and taken away; a CAST of a side taken away."""
    for node in draft.tree.find_all(exp.Div):
        left = node.this
        if not draft.known(node, left):
            continue
        yield from draft.inserted(draft.span(left)[1], " * 1.0", 0.7)
        if isinstance(left, exp.Mul) and draft.known(left.this, left.expression):
            for factor, other in ((left.expression, left.this), (left.this, left.expression)):
                if draft.text(factor) in ("1.0", "1."):
                    yield from draft.changed(left, draft.text(other), 0.7)
    for cast in draft.tree.find_all(exp.Cast):
        if draft.known(cast, cast.this):
            yield from draft.changed(cast, draft.text(cast.this), 0.5)
    for call in draft.tree.find_all(exp.Avg, exp.Sum):
        if draft.known(call.this) and not isinstance(call.this, exp.Distinct):
            yield from draft.inserted(draft.span(call.this)[1], " * 1.0", 0.3)
