"""ANY and ALL, and a single value where a list is compared."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "quantifier",
    "what a subquery is compared by",
    "A value is compared with all values of a subquery where any is meant, or with one of them only.",
)
CASES: Final = (
    (
        "SELECT name FROM huts WHERE hut_id = (SELECT hut_id FROM stays)",
        "SELECT name FROM huts WHERE hut_id IN (SELECT hut_id FROM stays)",
    ),
    (
        "SELECT name FROM huts WHERE hut_id <> (SELECT hut_id FROM stays)",
        "SELECT name FROM huts WHERE hut_id NOT IN (SELECT hut_id FROM stays)",
    ),
)


def edits(draft: Draft) -> Iterator[Change]:
    """ANY for ALL and back; = with a subquery as IN."""
    for node in draft.tree.find_all(exp.Any, exp.All):
        if draft.known(node):
            word = draft.after(draft.span(node)[0])
            if word is not None and word.word in ("ANY", "SOME", "ALL"):
                yield from draft.changed(word, "ANY" if word.word == "ALL" else "ALL", 0.7)
    for equal in draft.tree.find_all(exp.EQ, exp.NEQ):
        words = draft.words_of(equal) if isinstance(equal, exp.Binary) else ()
        if len(words) == 1 and isinstance(equal.expression, exp.Subquery):
            query = equal.expression.unnest()
            items = query.selects if isinstance(query, exp.Select) else []
            if len(items) == 1 and not items[0].find(exp.AggFunc):
                new = "IN" if isinstance(equal, exp.EQ) else "NOT IN"
                yield from draft.changed(words[0], new, 0.7)
