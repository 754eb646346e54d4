"""Lists with commas: an item left out, two exchanged."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change


def item_dropped(
    draft: Draft, items: Sequence[exp.Expr], at: int, likelihood: float
) -> Iterator[Change]:
    """The item at a place left out, with its comma; nothing where it is the only one."""
    if len(items) < 2 or not draft.known(*items):
        return
    begin, end = draft.span(items[at])
    if at:
        yield Change(draft.span(items[at - 1])[1], end, "", likelihood)
    else:
        yield Change(begin, draft.span(items[1])[0], "", likelihood)


def items_exchanged(
    draft: Draft, items: Sequence[exp.Expr], at: int, likelihood: float
) -> Iterator[Change]:
    """The item at a place and the next one in each other's place."""
    if not draft.known(items[at], items[at + 1]):
        return
    (begin, left), (right, end) = draft.span(items[at]), draft.span(items[at + 1])
    new = draft.sql[right:end] + draft.sql[left:right] + draft.sql[begin:left]
    yield from draft.changed((begin, end), new, likelihood)
