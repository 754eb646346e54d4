"""A condition left out of WHERE, HAVING or ON."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "condition too many", "a condition", "There is a condition that the task does not ask for."
)
CASES: Final = (
    (
        "SELECT name FROM huts WHERE beds < 20 AND region = 'North'",
        "SELECT name FROM huts WHERE region = 'North'",
    ),
    (
        "SELECT name FROM huts WHERE beds < 20 AND region = 'North'",
        "SELECT name FROM huts WHERE beds < 20",
    ),
    ("SELECT name FROM huts WHERE beds < 20", "SELECT name FROM huts"),
    (
        "SELECT hut_id FROM stays GROUP BY hut_id HAVING COUNT(*) > 1",
        "SELECT hut_id FROM stays GROUP BY hut_id",
    ),
)


def edits(draft: Draft) -> Iterator[Change]:
    """Each part of a chain left out; a whole WHERE or HAVING."""
    for condition in draft.conditions:
        yield from parts_dropped(draft, condition.root, 0.7)
        if condition.clause != "on":
            yield from draft.dropped(*draft.span(condition.holder), 0.6)
    for paren in draft.tree.find_all(exp.Paren):
        if isinstance(paren.this, exp.And | exp.Or):
            yield from parts_dropped(draft, paren.this, 0.5)


def parts_dropped(draft: Draft, chain: exp.Expr, likelihood: float) -> Iterator[Change]:
    """Each part of a chain left out, with the AND or OR that it hangs on."""
    parts = draft.chain(chain)
    if len(parts) < 2 or not draft.known(*parts):
        return
    for at, part in enumerate(parts):
        begin, end = draft.span(part)
        if at:
            yield from draft.dropped(draft.span(parts[at - 1])[1], end, likelihood)
        else:
            yield Change(begin, draft.span(parts[1])[0], "", likelihood)
        # In a chain of OR within one of AND the parts are chains themselves.
        if isinstance(part, exp.And | exp.Or):
            yield from parts_dropped(draft, part, likelihood)
