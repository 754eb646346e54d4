"""Letter case and blanks of texts."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind
from jentrow.core.sql.text import quoted_text

KIND: Final = EditKind(
    "text form",
    "the letters of a text",
    "A text is compared in other letters or with other blanks than the data has.",
)
CASES: Final = (
    (
        "SELECT name FROM huts WHERE region = 'north'",
        "SELECT name FROM huts WHERE region = 'North'",
    ),
    (
        "SELECT name FROM huts WHERE region = 'North'",
        "SELECT name FROM huts WHERE LOWER(region) = 'north'",
    ),
    (
        "SELECT name FROM huts WHERE LOWER(region) = 'north'",
        "SELECT name FROM huts WHERE region = 'north'",
    ),
)


def edits(draft: Draft) -> Iterator[Change]:
    """A text in other letters; LOWER, UPPER and TRIM taken away, or put around a column."""
    for node in draft.tree.find_all(exp.EQ, exp.NEQ, exp.In, exp.Like):
        for value in (
            (node.expression, *node.expressions) if isinstance(node, exp.In) else (node.expression,)
        ):
            if not (isinstance(value, exp.Literal) and value.is_string and draft.known(value)):
                continue
            text = value.name
            for other in dict.fromkeys(
                (text.capitalize(), text.title(), text.lower(), text.upper(), text.strip())
            ):
                yield from draft.changed(value, quoted_text(other), 0.5)
        column, value = node.this, node.expression
        if (
            isinstance(node, exp.EQ)
            and isinstance(column, exp.Column)
            and isinstance(value, exp.Literal)
            and value.is_string
            and draft.known(node, column, value)
        ):
            text = value.name.lower().replace("'", "''")
            between = draft.sql[draft.span(column)[1] : draft.span(value)[0]]
            yield from draft.changed(node, f"LOWER({draft.text(column)}){between}'{text}'", 0.4)
    for call in draft.tree.find_all(exp.Lower, exp.Upper, exp.Trim):
        if draft.known(call, call.this):
            yield from draft.changed(call, draft.text(call.this), 0.4)
