"""NOT where it should not be, or missing where it should."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "negation", "NOT", "A condition is negated that should not be, or not negated where it should."
)
CASES: Final = (
    (
        "SELECT name FROM huts WHERE hut_id NOT IN (SELECT hut_id FROM stays)",
        "SELECT name FROM huts WHERE hut_id IN (SELECT hut_id FROM stays)",
    ),
    (
        "SELECT name FROM huts h WHERE EXISTS (SELECT 1 FROM stays s WHERE s.hut_id = h.hut_id)",
        "SELECT name FROM huts h WHERE NOT EXISTS (SELECT 1 FROM stays s WHERE s.hut_id = h.hut_id)",
    ),
    ("SELECT guest FROM stays WHERE paid_on", "SELECT guest FROM stays WHERE NOT paid_on"),
    (
        "SELECT name FROM huts WHERE name LIKE 'S%'",
        "SELECT name FROM huts WHERE name NOT LIKE 'S%'",
    ),
)

_RANGES: Final = (exp.In, exp.Like, exp.ILike, exp.Between, exp.Glob)


def edits(draft: Draft) -> Iterator[Change]:
    """NOT taken away, and put before EXISTS, IN, LIKE, BETWEEN, or what stands in parentheses."""
    for node in draft.tree.find_all(exp.Not, exp.Like, exp.ILike):
        if isinstance(node.this, exp.Is):
            continue
        word = draft.word_in(node, "NOT")
        if word is not None:
            following = draft.after(word.end)
            end = following.start if following is not None else word.end
            yield Change(word.start, end, "", 0.5)
    for condition in draft.conditions:
        for part in draft.chain(condition.root):
            if isinstance(part, exp.Column) and draft.known(part):
                yield from draft.inserted(draft.span(part)[0], "NOT ", 0.4)
    for positive in draft.tree.find_all(exp.Exists, *_RANGES, exp.Paren):
        if isinstance(positive.parent, exp.Not) or not draft.known(positive):
            continue
        if isinstance(positive, exp.Paren):
            if isinstance(positive.this, exp.And | exp.Or):
                yield from draft.inserted(draft.span(positive)[0], "NOT ", 0.2)
        elif isinstance(positive, exp.Exists):
            yield from draft.inserted(draft.span(positive)[0], "NOT ", 0.5)
        else:
            word = draft.word_in(positive, "IN", "LIKE", "ILIKE", "BETWEEN", "GLOB")
            if word is not None and not draft.word_in(positive, "NOT"):
                yield from draft.inserted(word.start, "NOT ", 0.5)
