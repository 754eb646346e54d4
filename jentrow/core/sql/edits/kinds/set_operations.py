"""UNION, INTERSECT, EXCEPT: which one, ALL or not, and which side comes first."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "set operation",
    "a set operation",
    "Two results are combined in the wrong way: another operation, repeated rows, or the sides the wrong way round.",
)
CASES: Final = (
    (
        "SELECT hut_id FROM stays UNION SELECT hut_id FROM wardens",
        "SELECT hut_id FROM stays UNION ALL SELECT hut_id FROM wardens",
    ),
    (
        "SELECT hut_id FROM stays EXCEPT SELECT hut_id FROM wardens",
        "SELECT hut_id FROM stays INTERSECT SELECT hut_id FROM wardens",
    ),
    (
        "SELECT hut_id FROM stays EXCEPT SELECT hut_id FROM wardens",
        "SELECT hut_id FROM wardens EXCEPT SELECT hut_id FROM stays",
    ),
)
_OTHERS: Final = {
    "UNION": (("INTERSECT", 0.4), ("EXCEPT", 0.3)),
    "INTERSECT": (("UNION", 0.5), ("EXCEPT", 0.4)),
    "EXCEPT": (("INTERSECT", 0.4), ("UNION", 0.3)),
}


def edits(draft: Draft) -> Iterator[Change]:
    """Each operation as each other; ALL added and taken away; the two sides exchanged."""
    for node in draft.tree.find_all(exp.SetOperation):
        left, right = node.this, node.expression
        if not draft.known(left, right):
            continue
        words = draft.tokens(draft.span(left)[1], draft.span(right)[0])
        word = next((one for one in words if one.word in _OTHERS), None)
        if word is None:
            continue
        every = next((one for one in words if one.word == "ALL"), None)
        if every is None:
            if word.word == "UNION" or draft.dialect != "sqlite":
                yield from draft.inserted(word.end, " ALL", 0.8)
        else:
            yield from draft.dropped(word.end, every.end, 0.8)
        whole = (word.start, every.end if every else word.end)
        for new, likelihood in _OTHERS[word.word]:
            yield from draft.changed(whole, new, likelihood)
        begin, end = draft.span(left)[0], draft.span(right)[1]
        if word.word == "EXCEPT" and isinstance(left, exp.Select | exp.Subquery):
            middle = draft.sql[draft.span(left)[1] : draft.span(right)[0]]
            new = draft.text(right) + middle + draft.text(left)
            yield from draft.changed((begin, end), new, 0.6)
