"""DISTINCT: rows that come several times."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "distinct",
    "DISTINCT",
    "Rows that come several times are kept where they should be one, or made one where each counts.",
)
CASES: Final = (
    ("SELECT region FROM huts", "SELECT DISTINCT region FROM huts"),
    ("SELECT DISTINCT region FROM huts", "SELECT region FROM huts"),
    ("SELECT SUM(nights) FROM stays", "SELECT SUM(DISTINCT nights) FROM stays"),
    ("SELECT COUNT(DISTINCT guest) FROM stays", "SELECT COUNT(guest) FROM stays"),
)


def edits(draft: Draft) -> Iterator[Change]:
    """DISTINCT of a SELECT and of an aggregate, added and taken away."""
    for select in draft.selects:
        word = draft.after(draft.span(select)[0])
        if word is None or word.word != "SELECT":
            continue
        following = draft.after(word.end)
        if select.args.get("distinct") is not None:
            if following is not None and following.word == "DISTINCT":
                further = draft.after(following.end)
                if further is not None and further.word != "ON":
                    yield Change(following.start, further.start, "", 0.7)
        elif following is not None:
            yield from draft.inserted(following.start, "DISTINCT ", 0.6)
    for call in draft.tree.find_all(exp.Count, exp.Sum, exp.Avg):
        inner = call.this
        if isinstance(call.parent, exp.Window) or not draft.known(call):
            continue
        word = draft.word_in(call, "(")
        if word is None:
            continue
        following = draft.after(word.end)
        if isinstance(inner, exp.Distinct) and following is not None:
            further = draft.after(following.end)
            if following.word == "DISTINCT" and further is not None:
                yield Change(following.start, further.start, "", 0.7)
        elif not isinstance(inner, exp.Star):
            yield from draft.inserted(word.end, "DISTINCT ", 0.6)
