"""Arithmetic: another operator, or its two sides the wrong way round."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "arithmetic",
    "arithmetic",
    "Another operation is meant, or its two sides are the wrong way round.",
)
CASES: Final = (
    ("SELECT beds * 3 FROM huts", "SELECT beds + 3 FROM huts"),
    ("SELECT beds - altitude_m FROM huts", "SELECT altitude_m - beds FROM huts"),
    ("SELECT beds / 3 FROM huts", "SELECT beds * 3 FROM huts"),
    ("SELECT SUM(nights) / COUNT(*) FROM stays", "SELECT COUNT(*) / SUM(nights) FROM stays"),
)
_OTHERS: Final[dict[type[exp.Expr], tuple[tuple[str, float], ...]]] = {
    exp.Add: (("-", 0.5), ("*", 0.2)),
    exp.Sub: (("+", 0.5), ("/", 0.1)),
    exp.Mul: (("+", 0.3), ("/", 0.4)),
    exp.Div: (("*", 0.4), ("-", 0.1)),
    exp.Mod: (("/", 0.3),),
}


def edits(draft: Draft) -> Iterator[Change]:
    """Each operator as each other; the sides of - and / exchanged."""
    for node in draft.tree.find_all(*_OTHERS):
        words = draft.words_of(node) if isinstance(node, exp.Binary) else ()
        if len(words) != 1:
            continue
        for new, likelihood in _OTHERS[type(node)]:
            yield from draft.changed(words[0], new, likelihood)
        if isinstance(node, exp.Sub | exp.Div):
            (begin, left), (right, end) = draft.span(node.this), draft.span(node.expression)
            new = draft.sql[right:end] + draft.sql[left:right] + draft.sql[begin:left]
            yield from draft.changed((begin, end), new, 0.6)
