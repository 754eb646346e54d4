"""The values of IN: one missing, one too many."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.borrowing import borrowable
from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind
from jentrow.core.sql.edits.lists import item_dropped

KIND: Final = EditKind(
    "value list", "the values of IN", "A value is missing in a list, or one is too many."
)
CASES: Final = (
    (
        "SELECT name FROM huts WHERE region IN ('North', 'East')",
        "SELECT name FROM huts WHERE region IN ('North')",
    ),
    (
        "SELECT name FROM huts WHERE region IN ('North')",
        "SELECT name FROM huts WHERE region IN ('North', 'East')",
        "SELECT name FROM huts WHERE region IN ('North', 'East')",
    ),
    (
        "SELECT name FROM huts WHERE region = 'North'",
        "SELECT name FROM huts WHERE (region = 'North' OR region = 'East')",
        "SELECT name FROM huts WHERE region IN ('North', 'East')",
    ),
)
_LONGEST: Final = 12


def edits(draft: Draft) -> Iterator[Change]:
    """Each value left out; a value of another text taken in, also beside a single comparison."""
    borrowed = list(
        dict.fromkeys(
            (bool(node.is_string), other.text(node))
            for other, node in borrowable(draft, exp.Literal)
        )
    )[:_LONGEST]
    for node in draft.tree.find_all(exp.In):
        values = node.expressions
        if not values or len(values) > _LONGEST or not draft.known(*values):
            continue
        written = {draft.text(value) for value in values}
        for at in range(len(values)):
            yield from item_dropped(draft, values, at, 0.5)
        is_text = isinstance(values[0], exp.Literal) and values[0].is_string
        for string, said in borrowed:
            if string == is_text and said not in written:
                yield from draft.inserted(draft.span(values[-1])[1], f", {said}", 0.4, borrows=True)
    for equal in draft.tree.find_all(exp.EQ):
        value = equal.expression
        if not isinstance(value, exp.Literal) or not draft.known(equal, equal.this, value):
            continue
        for string, said in borrowed:
            if string == value.is_string and said != draft.text(value):
                own = draft.text(equal)
                new = f"({own} OR {draft.text(equal.this)} = {said})"
                yield from draft.changed(equal, new, 0.3, borrows=True)
