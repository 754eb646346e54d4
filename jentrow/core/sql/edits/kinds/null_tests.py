"""Comparisons with NULL, and tests for it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "null test",
    "a test for NULL",
    "A missing value is tested in the wrong way: NULL equals nothing, and only IS NULL finds it.",
)
CASES: Final = (
    (
        "SELECT guest FROM stays WHERE paid_on = NULL",
        "SELECT guest FROM stays WHERE paid_on IS NULL",
    ),
    (
        "SELECT guest FROM stays WHERE paid_on IS NULL",
        "SELECT guest FROM stays WHERE paid_on IS NOT NULL",
    ),
    (
        "SELECT guest FROM stays WHERE paid_on IS NOT NULL",
        "SELECT guest FROM stays WHERE paid_on <> NULL",
    ),
    (
        "SELECT guest FROM stays WHERE meal_plan = ''",
        "SELECT guest FROM stays WHERE meal_plan IS NULL",
    ),
)


def edits(draft: Draft) -> Iterator[Change]:
    """IS NULL for = NULL and for a comparison with nothing; the opposite of each test."""
    for node in draft.tree.find_all(exp.EQ, exp.NEQ):
        equal = isinstance(node, exp.EQ)
        if not draft.known(node, node.this, node.expression):
            continue
        place = (draft.span(node.this)[1], draft.span(node)[1])
        test = " IS NULL" if equal else " IS NOT NULL"
        if isinstance(node.expression, exp.Null):
            yield from draft.changed(place, test, 0.95)
        elif draft.text(node.expression) in ("''", "0", "'NULL'", "'null'"):
            yield from draft.changed(place, test, 0.7)
    for node in draft.tree.find_all(exp.Is):
        if not draft.known(node, node.this) or not isinstance(node.expression, exp.Null):
            continue
        whole = node.parent if isinstance(node.parent, exp.Not) else node
        if draft.word_in(whole, "NOT") and draft.span(whole)[0] == draft.span(node)[0]:
            place = (draft.span(node.this)[1], draft.span(whole)[1])
            others = ((" IS NULL", 0.5), (" <> NULL", 0.8))
            empty = " <> ''"
        elif not draft.word_in(node, "NOT", "ISNULL", "NOTNULL"):
            place = (draft.span(node.this)[1], draft.span(node)[1])
            others = ((" IS NOT NULL", 0.5), (" = NULL", 0.9))
            empty = " = ''"
        else:
            continue
        for new, likelihood in others:
            yield from draft.changed(place, new, likelihood)
        if draft.family(node.this) == "text":
            yield from draft.changed(place, empty, 0.5)
