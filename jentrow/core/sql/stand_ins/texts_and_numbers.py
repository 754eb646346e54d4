"""Where a dialect takes a text for a number, or a number for a text, and the stand-in does not."""

from __future__ import annotations

from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins import functions
from jentrow.core.sql.stand_ins.functions import is_text


def divisions_by_zero(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A division has its fraction, and by zero there is none."""
    for division in list(tree.find_all(exp.Div)):
        division.set("expression", functions.called("JENTROW_NONZERO", division.expression))
    return tree


def texts_added(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """``+`` joins two texts; of a text and a number it makes a sum, where that can be."""
    aliases = {one.alias.lower() for one in tree.find_all(exp.Alias)}
    for plus in list(tree.find_all(exp.Add))[::-1]:
        if is_text(plus.this, kinds) or is_text(plus.expression, kinds):
            if any(_is_number(one, kinds, aliases) for one in (plus.this, plus.expression)):
                notes.append("+ of a text and a number adds them, and the stand-in joins them.")
            plus.replace(exp.DPipe(this=plus.this, expression=plus.expression))
    return tree


_NUMBERS: Final = (exp.Sub, exp.Mul, exp.Div, exp.Count, exp.Sum, exp.Avg, exp.Length, exp.Neg)


def _is_number(node: exp.Expr, kinds: ColumnKinds, aliases: set[str]) -> bool:
    """Whether a value is surely no text: a column is where the texts are known, and it is no alias."""
    node = node.unnest()
    if isinstance(node, exp.Literal):
        return not node.is_string
    if isinstance(node, exp.Column):
        return bool(kinds.texts) and node.name.lower() not in kinds.texts | aliases
    return isinstance(node, _NUMBERS)


def nationals(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """N'…' is a text."""
    for national in list(tree.find_all(exp.National)):
        national.replace(exp.Literal.string(national.name))
    return tree


def mixed_columns(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """Texts and numbers in one column of a set operation become texts on the stand-in alone."""
    for operation in tree.find_all(exp.SetOperation):
        sides = (operation.left, operation.right)
        if not all(isinstance(one, exp.Query) for one in sides):
            continue
        for pair in zip(*(one.selects for one in sides), strict=False):
            values = [one.unalias() for one in pair]
            for text, number in (values, values[::-1]):
                if is_text(text, kinds) and _is_number(number, kinds, set()):
                    notes.append(
                        "A set operation of texts and numbers gives texts on the stand-in."
                    )
    return tree


def empty_texts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """Empty text is NULL."""
    for literal in list(tree.find_all(exp.Literal)):
        if literal.is_string and not literal.name:
            literal.replace(exp.Null())
    return tree


def joins_of_texts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """``||`` takes NULL for empty text."""
    for join in list(tree.find_all(exp.DPipe))[::-1]:
        join.replace(functions.called("JENTROW_JOIN", join.this, join.expression))
    return tree


def sized_casts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A cast to a text of a length cuts it off there, and the stand-in does not."""
    casts = (cast.to for cast in tree.find_all(exp.Cast))
    if any(to.is_type(*exp.DataType.TEXT_TYPES) and to.expressions for to in casts):
        notes.append("CAST to a text of a length is not cut off on the stand-in.")
    return tree
