"""Numbers and texts in a query: one more, one less, another one of the data or of the task."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal, InvalidOperation
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "constant",
    "a constant",
    "A value that is written in the query is not the one that is meant.",
    repeats=True,
)
CASES: Final = (
    ("SELECT name FROM huts WHERE beds > 20", "SELECT name FROM huts WHERE beds > 21"),
    ("SELECT name FROM huts WHERE beds * 0.5 > 3", "SELECT name FROM huts WHERE beds * 0.6 > 3"),
    (
        "SELECT name FROM huts WHERE region = 'North'",
        "SELECT name FROM huts WHERE region = 'South'",
    ),
    (
        "SELECT name FROM huts WHERE beds > 20",
        "SELECT name FROM huts WHERE beds > 35",
        "SELECT name FROM huts WHERE beds > 35",
    ),
)
_MOST: Final = 5


def edits(draft: Draft) -> Iterator[Change]:
    """Each literal with its neighbours, with others that its column holds, and with borrowed ones."""
    borrowed = list(_constants_of(draft))
    for node in draft.tree.find_all(exp.Literal):
        if not draft.known(node) or isinstance(node.parent, exp.Ordered | exp.Limit | exp.Offset):
            continue
        written = draft.text(node)
        seen = {written}
        if not node.is_string:
            for new, likelihood in _neighbours(written):
                yield from draft.changed(node, new, likelihood)
        for is_string, new in borrowed:
            if is_string == node.is_string and new not in seen:
                seen.add(new)
                yield from draft.changed(node, new, 0.5, borrows=True)
        for new in _held_beside(draft, node)[:_MOST]:
            if new not in seen:
                yield from draft.changed(node, new, 0.3)


def _neighbours(written: str) -> Iterator[tuple[str, float]]:
    try:
        number = Decimal(written)
    except InvalidOperation:
        return
    exponent = number.as_tuple().exponent
    step = Decimal(1).scaleb(exponent) if isinstance(exponent, int) and exponent < 0 else Decimal(1)
    yield str(number + step), 0.5
    if number >= step:
        yield str(number - step), 0.5


def _constants_of(draft: Draft) -> Iterator[tuple[bool, str]]:
    for other in draft.others:
        for node in other.tree.find_all(exp.Literal):
            if other.known(node):
                yield bool(node.is_string), other.text(node)


def _held_beside(draft: Draft, node: exp.Expr) -> tuple[str, ...]:
    """What the column holds that a text is compared with."""
    above = node.parent
    if not node.is_string or not isinstance(above, exp.EQ | exp.NEQ | exp.In):
        return ()
    found = draft.meaning(above.this if above.this is not node else above.expression)
    return found[1].values if found else ()
