"""The bounds of a range: taken or left out, or the wrong way round."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "range bounds",
    "the bounds of a range",
    "The bounds of a range are taken in where they should not be, or left out.",
)
CASES: Final = (
    (
        "SELECT name FROM huts WHERE beds BETWEEN 20 AND 60",
        "SELECT name FROM huts WHERE beds > 20 AND beds < 60",
    ),
    (
        "SELECT name FROM huts WHERE beds BETWEEN 20 AND 60",
        "SELECT name FROM huts WHERE beds BETWEEN 60 AND 20",
    ),
    (
        "SELECT name FROM huts WHERE beds > 20 AND beds < 60",
        "SELECT name FROM huts WHERE beds BETWEEN 20 AND 60",
    ),
)


def edits(draft: Draft) -> Iterator[Change]:
    """BETWEEN with either bound left out; two comparisons as one BETWEEN."""
    for node in draft.tree.find_all(exp.Between):
        low, high = node.args["low"], node.args["high"]
        if not draft.known(node, node.this, low, high) or draft.word_in(node, "SYMMETRIC", "NOT"):
            continue
        what, least, most = draft.text(node.this), draft.text(low), draft.text(high)
        wrapped = isinstance(node.parent, exp.Not)
        for lower, upper, likelihood in ((">", "<", 0.7), (">=", "<", 0.6), (">", "<=", 0.5)):
            said = f"{what} {lower} {least} AND {what} {upper} {most}"
            yield from draft.changed(node, f"({said})" if wrapped else said, likelihood)
        yield from draft.changed(
            (draft.span(low)[0], draft.span(high)[1]), f"{most} AND {least}", 0.3
        )
    for both in draft.tree.find_all(exp.And):
        yield from _as_between(draft, both)


def _as_between(draft: Draft, node: exp.And) -> Iterator[Change]:
    left, right = node.this, node.expression
    left = left.expression if isinstance(left, exp.And) else left
    lower = left if isinstance(left, exp.GT | exp.GTE) else right
    upper = right if lower is left else left
    if not (isinstance(lower, exp.GT | exp.GTE) and isinstance(upper, exp.LT | exp.LTE)):
        return
    if not draft.known(left, right) or lower.this != upper.this:
        return
    if isinstance(lower, exp.GT) and isinstance(upper, exp.LT):
        begin, end = draft.span(left)[0], draft.span(right)[1]
        what, least, most = map(draft.text, (lower.this, lower.expression, upper.expression))
        yield from draft.changed((begin, end), f"{what} BETWEEN {least} AND {most}", 0.6)
