"""Values that become texts: by a cast, in a list, or joined to a text.

What a number or a moment looks like as a text is each engine's own. On the stand-in a function of
ours makes such texts (see :mod:`jentrow.core.engines.dialects.loader`); of a
value whose text nobody can tell it says so, and then there is no verdict.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.functions import TEXT_OF, called, is_text

_OWN_TEXTS: Final = {"JENTROW_DIV": "jentrow_div_text", "JENTROW_AVG": "jentrow_avg_text"}
"""What gives whole numbers of whole numbers, and what gives the same as a text."""


def value_texts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """What is no text for sure becomes one as its engine has it."""
    for value in list(_becoming_texts(tree)):
        inner = value.unnest()
        is_whole = isinstance(inner, exp.Literal) and inner.is_int
        if not (is_text(value, kinds) or is_whole or isinstance(inner, exp.Null | exp.Distinct)):
            own = _OWN_TEXTS.get(inner.name) if isinstance(inner, exp.Anonymous) else None
            made = called(own, *inner.expressions) if own else called(TEXT_OF, value.copy())
            value.replace(made)
    return tree


def _becoming_texts(tree: exp.Expr) -> Iterator[exp.Expr]:
    """The values that become texts, the innermost first."""
    for node in list(tree.walk())[::-1]:
        match node:
            case exp.Cast() if node.to.is_type(*exp.DataType.TEXT_TYPES):
                yield node.this
            case exp.ToChar() if node.args.get("format") is None:
                yield node.this
            case exp.GroupConcat():
                yield node.this.this if isinstance(node.this, exp.Order) else node.this
            case exp.Pad() | exp.Substring():
                yield node.this
            case exp.DPipe():
                yield from (node.this, node.expression)
            case exp.Concat():
                yield from node.expressions
            case exp.ConcatWs():
                yield from node.expressions[1:]
