"""A condition in ON or in WHERE: with an outer join they differ."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "filter place",
    "a condition in ON or in WHERE",
    "A condition stands in WHERE that belongs to the ON of an outer join, or the other way round: "
    "WHERE throws out the rows without a partner again.",
)
CASES: Final = (
    (
        "SELECT h.name FROM huts h LEFT JOIN stays s ON s.hut_id = h.hut_id WHERE s.nights > 2",
        "SELECT h.name FROM huts h LEFT JOIN stays s ON s.hut_id = h.hut_id AND s.nights > 2",
    ),
    (
        "SELECT h.name FROM huts h LEFT JOIN stays s ON s.hut_id = h.hut_id AND s.nights > 2",
        "SELECT h.name FROM huts h LEFT JOIN stays s ON s.hut_id = h.hut_id WHERE s.nights > 2",
    ),
)


def edits(draft: Draft) -> Iterator[Change]:
    """Each part of WHERE moved into the ON of an outer join, and back."""
    for select in draft.selects:
        where = select.args.get("where")
        for join in select.args.get("joins") or ():
            on = join.args.get("on")
            if not join.side or not draft.known(on):
                continue
            if where is not None and draft.known(where, where.this):
                yield from _into_on(draft, on, where)
            yield from _into_where(draft, select, on, where)


def _into_on(draft: Draft, on: exp.Expr, where: exp.Expr) -> Iterator[Change]:
    parts = draft.chain(where.this) if not isinstance(where.this, exp.Or) else [where.this]
    at, end = draft.span(on)[1], draft.span(where)[1]
    if not draft.known(*parts):
        return
    for part in parts:
        said = draft.text(part)
        said = f"({said})" if isinstance(part, exp.Or) else said
        rest = [draft.text(one) for one in parts if one is not part]
        between = draft.sql[at : draft.span(where)[0]]
        new = f" AND {said}{between}"
        new = f"{new}WHERE {' AND '.join(rest)}" if rest else new.rstrip()
        yield from draft.changed((at, end), new, 0.7)


def _into_where(
    draft: Draft, select: exp.Select, on: exp.Expr, where: exp.Expr | None
) -> Iterator[Change]:
    parts = draft.chain(on) if isinstance(on, exp.And) else []
    if not draft.known(*parts):
        return
    for place, part in enumerate(parts):
        if place == 0:
            continue
        begin, end = draft.span(parts[place - 1])[1], draft.span(part)[1]
        if where is None:
            stop = draft.end_before(select)
            new = draft.sql[end:stop] + f" WHERE {draft.text(part)}"
        else:
            if isinstance(where.this, exp.Or):
                continue
            stop = draft.span(where)[1]
            new = draft.sql[end:stop] + f" AND {draft.text(part)}"
        yield from draft.changed((begin, stop), new, 0.7)
