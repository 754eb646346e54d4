"""A condition that is missing in WHERE, HAVING or ON."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final, Literal

from sqlglot import exp

from jentrow.core.sql.edits.borrowing import borrowed_text
from jentrow.core.sql.edits.draft import Condition, Draft
from jentrow.core.sql.edits.edit import Change, EditKind
from jentrow.core.sql.edits.insertion import condition_added

KIND: Final = EditKind(
    "condition missing",
    "a condition",
    "A condition that the task asks for is missing, or is another one.",
)
CASES: Final = (
    (
        "SELECT h.name FROM huts h",
        "SELECT h.name FROM huts h WHERE h.beds > 20",
        "SELECT name FROM huts WHERE beds > 20",
    ),
    (
        "SELECT name FROM huts WHERE beds > 20 OR beds < 3",
        "SELECT name FROM huts WHERE (beds > 20 OR beds < 3) AND region = 'North'",
        "SELECT h.name FROM huts h WHERE (beds > 20 OR beds < 3) AND h.region = 'North'",
    ),
    (
        "SELECT hut_id FROM stays GROUP BY hut_id HAVING COUNT(*) > 1",
        "SELECT hut_id FROM stays GROUP BY hut_id HAVING SUM(nights) > 1",
        "SELECT hut_id FROM stays GROUP BY hut_id HAVING SUM(nights) > 1",
    ),
    (
        "SELECT hut_id FROM stays GROUP BY hut_id",
        "SELECT hut_id FROM stays GROUP BY hut_id HAVING COUNT(*) > 1",
        "SELECT hut_id FROM stays GROUP BY hut_id HAVING COUNT(*) > 1",
    ),
)


def edits(draft: Draft) -> Iterator[Change]:
    """Each condition of another text, put where its columns mean the same."""
    own = {draft.text(part) for one in draft.conditions for part in draft.chain(one.root)}
    for other in draft.others:
        for condition in other.conditions:
            for part in _parts(other, condition):
                for select in draft.selects:
                    yield from _put_in(draft, other, part, condition, select, own)


def _parts(other: Draft, condition: Condition) -> Iterator[exp.Expr]:
    parts = other.chain(condition.root)
    yield from parts
    if len(parts) > 1:
        yield condition.root
    for part in parts:
        if isinstance(part, exp.Paren):
            yield from other.chain(part.this)


def _put_in(
    draft: Draft,
    other: Draft,
    part: exp.Expr,
    condition: Condition,
    select: exp.Select,
    own: set[str],
) -> Iterator[Change]:
    said = borrowed_text(other, part, draft, select)
    if said is None or said in own:
        return
    clause: Literal["where", "having"] = "having" if condition.clause == "having" else "where"
    if clause == "having" and select.args.get("group") is None:
        return
    for own_condition in draft.conditions:
        alike = (own_condition.clause == "having") == (clause == "having")
        if alike and own_condition.select is select:
            for own_part in draft.chain(own_condition.root):
                yield from draft.changed(own_part, said, 0.3, borrows=True)
    for word, likelihood in (("AND", 0.7), ("OR", 0.3)):
        yield from condition_added(
            draft, select, clause, said, word, likelihood, borrows=True,
            is_chain=isinstance(part, exp.Or if word == "AND" else exp.And),
        )  # fmt: skip
    for join in select.args.get("joins") or () if clause == "where" else ():
        on = join.args.get("on")
        if draft.known(on) and join.side:
            yield from draft.inserted(draft.span(on)[1], f" AND {said}", 0.5, borrows=True)
