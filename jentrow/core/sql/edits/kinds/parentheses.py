"""Parentheses that decide what belongs together."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "parentheses",
    "parentheses",
    "Parentheses are missing or stand wrongly: AND binds before OR, and * and / before + and -.",
)
CASES: Final = (
    (
        "SELECT name FROM huts WHERE beds < 20 AND (region = 'North' OR region = 'East')",
        "SELECT name FROM huts WHERE beds < 20 AND region = 'North' OR region = 'East'",
    ),
    (
        "SELECT name FROM huts WHERE region = 'North' OR region = 'East' AND beds < 20",
        "SELECT name FROM huts WHERE (region = 'North' OR region = 'East') AND beds < 20",
    ),
    ("SELECT beds + altitude_m * 2 FROM huts", "SELECT (beds + altitude_m) * 2 FROM huts"),
    ("SELECT (beds - 3) * 2 FROM huts", "SELECT beds - 3 * 2 FROM huts"),
)

_WEAK: Final = (exp.Add, exp.Sub)
_STRONG: Final = (exp.Mul, exp.Div, exp.Mod)


def edits(draft: Draft) -> Iterator[Change]:
    """Parentheses taken away, and set around the weaker operator."""
    for paren in draft.tree.find_all(exp.Paren):
        inside, around = paren.this, paren.parent
        if not draft.known(inside):
            continue
        binds = isinstance(inside, exp.Or) and isinstance(around, exp.And | exp.Not)
        binds = binds or (isinstance(inside, exp.And) and isinstance(around, exp.Not))
        if binds or (isinstance(inside, _WEAK) and isinstance(around, (*_STRONG, exp.Sub))):
            yield from draft.changed(paren, draft.text(inside), 0.8)
    for node in draft.tree.find_all(exp.Or, *_WEAK):
        strong: tuple[type[exp.Expr], ...] = (exp.And,) if isinstance(node, exp.Or) else _STRONG
        yield from _around(draft, node, strong)


def _around(draft: Draft, node: exp.Expr, strong: tuple[type[exp.Expr], ...]) -> Iterator[Change]:
    """``a + b * c`` as ``(a + b) * c``, and its mirror."""
    left, right = node.this, node.expression
    if not draft.known(left, right):
        return
    if isinstance(right, strong):
        first = right
        while isinstance(first.this, strong):
            first = first.this
        yield from _wrapped(draft, draft.span(left)[0], draft.span(first.this)[1])
    if isinstance(left, strong) and draft.known(left.expression):
        yield from _wrapped(draft, draft.span(left.expression)[0], draft.span(right)[1])


def _wrapped(draft: Draft, begin: int, end: int) -> Iterator[Change]:
    yield from draft.changed((begin, end), f"({draft.sql[begin:end]})", 0.7)
