"""A condition on rows in HAVING, or one on groups in WHERE."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.aggregates import aggregates_in
from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "having",
    "HAVING or WHERE",
    "A condition is asked of the groups that is meant for the single rows, or the other way round.",
)
CASES: Final = (
    (
        "SELECT hut_id, COUNT(*) FROM stays GROUP BY hut_id HAVING nights > 2",
        "SELECT hut_id, COUNT(*) FROM stays WHERE nights > 2 GROUP BY hut_id",
    ),
    (
        "SELECT hut_id, COUNT(*) FROM stays WHERE nights > 2 GROUP BY hut_id",
        "SELECT hut_id, COUNT(*) FROM stays GROUP BY hut_id HAVING nights > 2",
    ),
    (
        "SELECT hut_id, SUM(nights) FROM stays WHERE nights > 2 GROUP BY hut_id",
        "SELECT hut_id, SUM(nights) FROM stays GROUP BY hut_id HAVING SUM(nights) > 2",
    ),
)


def edits(draft: Draft) -> Iterator[Change]:
    """The condition of one clause moved to the other; of an aggregate's value to the aggregate."""
    for select in draft.selects:
        where, group, having = (select.args.get(one) for one in ("where", "group", "having"))
        if group is None or not draft.known(group):
            continue
        if draft.known(having) and having is not None and not any(aggregates_in(having.this)):
            begin, end = draft.span(group)[0], draft.span(having)[1]
            said = f"{draft.text(having.this)}"
            if where is None:
                new = f"WHERE {said} {draft.text(group)}"
                yield from draft.changed((begin, end), new, 0.5)
            elif draft.known(where, where.this) and not isinstance(where.this, exp.Or):
                middle = draft.sql[draft.span(where)[1] : draft.span(group)[1]]
                new = f" AND {said}{middle}"
                yield from draft.changed((draft.span(where)[1], end), new, 0.5)
        if draft.known(where) and where is not None and having is None:
            yield from _into_having(draft, select, where, group)


def _into_having(
    draft: Draft, select: exp.Select, where: exp.Expr, group: exp.Expr
) -> Iterator[Change]:
    parts = draft.chain(where.this) if not isinstance(where.this, exp.Or) else [where.this]
    if not draft.known(*parts):
        return
    begin, end = draft.span(where)[0], draft.span(group)[1]
    middle = draft.sql[draft.span(where)[1] : end].lstrip()
    for part in parts:
        rest = [draft.text(one) for one in parts if one is not part]
        kept = f"WHERE {' AND '.join(rest)} " if rest else ""
        said = draft.text(part)
        yield from draft.changed((begin, end), f"{kept}{middle} HAVING {said}", 0.4)
        value = part.this if isinstance(part, exp.Binary) else None
        for call in (one for item in select.expressions for one in aggregates_in(item)):
            if value is not None and call.this == value and draft.known(call, value, part):
                after = draft.sql[draft.span(value)[1] : draft.span(part)[1]]
                new = f"{kept}{middle} HAVING {draft.text(call)}{after}"
                yield from draft.changed((begin, end), new, 0.5)
