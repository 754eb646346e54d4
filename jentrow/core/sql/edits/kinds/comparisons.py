"""Comparison operators: the boundary taken or left out, the wrong side, the opposite."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "comparison",
    "a comparison",
    "A comparison goes the wrong way, or treats the value on the boundary itself wrongly.",
)
CASES: Final = (
    ("SELECT name FROM huts WHERE beds < 20", "SELECT name FROM huts WHERE beds <= 20"),
    ("SELECT name FROM huts WHERE beds > 20", "SELECT name FROM huts WHERE beds < 20"),
    ("SELECT name FROM huts WHERE beds = 20", "SELECT name FROM huts WHERE beds <> 20"),
)

_OTHERS: Final[dict[type[exp.Expr], tuple[tuple[str, float], ...]]] = {
    exp.LT: (("<=", 0.9), (">", 0.5), (">=", 0.4)),
    exp.LTE: (("<", 0.9), (">=", 0.5), (">", 0.4)),
    exp.GT: ((">=", 0.9), ("<", 0.5), ("<=", 0.4)),
    exp.GTE: ((">", 0.9), ("<=", 0.5), ("<", 0.4)),
    exp.EQ: (("<>", 0.35), (">=", 0.3), ("<=", 0.3), (">", 0.2), ("<", 0.2)),
    exp.NEQ: (("=", 0.4), ("<", 0.3), (">", 0.3), ("<=", 0.15), (">=", 0.15)),
}


def edits(draft: Draft) -> Iterator[Change]:
    """Each comparison with each other operator."""
    for node in draft.tree.find_all(*_OTHERS):
        words = draft.words_of(node) if isinstance(node, exp.Binary) else ()
        if len(words) == 1:
            for new, likelihood in _OTHERS[type(node)]:
                yield from draft.changed(words[0], new, likelihood)
