"""Kinds of join: rows without a partner kept or lost."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "join kind",
    "the kind of a join",
    "A join loses rows that have no partner, or keeps them where it should not.",
)
CASES: Final = (
    (
        "SELECT h.name FROM huts h JOIN stays s ON s.hut_id = h.hut_id",
        "SELECT h.name FROM huts h LEFT JOIN stays s ON s.hut_id = h.hut_id",
    ),
    (
        "SELECT h.name FROM huts h LEFT OUTER JOIN stays s ON s.hut_id = h.hut_id",
        "SELECT h.name FROM huts h JOIN stays s ON s.hut_id = h.hut_id",
    ),
    (
        "SELECT h.name FROM huts h INNER JOIN stays s USING (hut_id)",
        "SELECT h.name FROM huts h LEFT JOIN stays s USING (hut_id)",
    ),
)
_OTHERS: Final = {
    "": (("LEFT JOIN", 0.9), ("RIGHT JOIN", 0.4), ("FULL JOIN", 0.3)),
    "LEFT": (("JOIN", 0.9), ("RIGHT JOIN", 0.5), ("FULL JOIN", 0.4)),
    "RIGHT": (("JOIN", 0.8), ("LEFT JOIN", 0.6), ("FULL JOIN", 0.4)),
    "FULL": (("JOIN", 0.6), ("LEFT JOIN", 0.7), ("RIGHT JOIN", 0.6)),
}


def edits(draft: Draft) -> Iterator[Change]:
    """Each join with a condition as each other kind."""
    for select in draft.selects:
        for join in select.args.get("joins") or ():
            has_condition = join.args.get("on") is not None or join.args.get("using")
            if not draft.known(join, join.this) or not has_condition or join.kind == "CROSS":
                continue
            begin, end = draft.span(join)[0], draft.span(join.this)[0]
            words = [one for one in draft.tokens(begin, end) if one.word != "("]
            if not words or words[-1].word != "JOIN":
                continue
            for new, likelihood in _OTHERS.get(join.side, ()):
                if new == "FULL JOIN" and draft.dialect == "mysql":
                    continue
                yield from draft.changed((begin, words[-1].end), new, likelihood)
