"""AND where OR is meant, and the other way round."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "connective",
    "AND or OR",
    "Two conditions are joined by AND where OR is meant, or the other way round.",
)
CASES: Final = (
    (
        "SELECT name FROM huts WHERE beds < 20 AND region = 'North'",
        "SELECT name FROM huts WHERE beds < 20 OR region = 'North'",
    ),
    (
        "SELECT name FROM huts WHERE altitude_m > 9 AND (beds < 20 OR region = 'North')",
        "SELECT name FROM huts WHERE altitude_m > 9 AND (beds < 20 AND region = 'North')",
    ),
    (
        "SELECT name FROM huts WHERE altitude_m > 9 AND beds < 20 AND region = 'North'",
        "SELECT name FROM huts WHERE altitude_m > 9 AND (beds < 20 OR region = 'North')",
    ),
)


def edits(draft: Draft) -> Iterator[Change]:
    """Each connective as the other; in parentheses too, where it would bind otherwise."""
    for node in draft.tree.find_all(exp.And, exp.Or):
        words = draft.words_of(node)
        if len(words) != 1:
            continue
        other = "OR" if isinstance(node, exp.And) else "AND"
        yield from draft.changed(words[0], other, 0.6)
        left = node.this
        if other == "OR" and isinstance(left, exp.And) and draft.known(left.expression):
            begin, end = draft.span(left.expression)[0], draft.span(node)[1]
            said = draft.sql[begin : words[0].start] + "OR" + draft.sql[words[0].end : end]
            yield from draft.changed((begin, end), f"({said})", 0.5)
