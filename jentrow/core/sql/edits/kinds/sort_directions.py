"""Rising or falling order."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "sort direction", "rising or falling order", "Rows are sorted in the opposite direction."
)
CASES: Final = (
    ("SELECT name FROM huts ORDER BY beds DESC", "SELECT name FROM huts ORDER BY beds"),
    ("SELECT name FROM huts ORDER BY beds, name", "SELECT name FROM huts ORDER BY beds DESC, name"),
)


def edits(draft: Draft) -> Iterator[Change]:
    """Each sort key in the other direction."""
    for key in draft.tree.find_all(exp.Ordered):
        if not draft.known(key, key.this):
            continue
        word = draft.word_in(key, "ASC", "DESC")
        if word is None:
            yield from draft.inserted(draft.span(key.this)[1], " DESC", 0.7)
        elif word.word == "ASC":
            yield from draft.changed(word, "DESC", 0.7)
        else:
            yield from draft.dropped(draft.span(key.this)[1], word.end, 0.7)
