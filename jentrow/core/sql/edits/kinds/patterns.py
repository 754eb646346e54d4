"""LIKE and its wildcards."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind
from jentrow.core.sql.text import quoted_text

KIND: Final = EditKind(
    "pattern",
    "a pattern",
    "The pattern of a LIKE matches too much or too little, or = is used with a wildcard.",
)
CASES: Final = (
    (
        "SELECT name FROM huts WHERE name LIKE '%alp%'",
        "SELECT name FROM huts WHERE name LIKE '%alp'",
    ),
    ("SELECT name FROM huts WHERE name LIKE 'S%'", "SELECT name FROM huts WHERE name LIKE '%S%'"),
    ("SELECT name FROM huts WHERE name = 'S%'", "SELECT name FROM huts WHERE name LIKE 'S%'"),
)


def edits(draft: Draft) -> Iterator[Change]:
    """Wildcards at either end added and taken away; ``_`` and ``%``; = for LIKE and back."""
    for node in draft.tree.find_all(exp.Like, exp.ILike):
        pattern = node.expression
        if not draft.known(node.this, pattern) or not isinstance(pattern, exp.Literal):
            continue
        for text, likelihood in _others(pattern.name):
            yield from draft.changed(pattern, quoted_text(text), likelihood)
        between = draft.tokens(draft.span(node.this)[1], draft.span(pattern)[0])
        if len(between) == 1:
            yield from draft.changed(between[0], "=", 0.4)
    for node in draft.tree.find_all(exp.EQ, exp.NEQ):
        words = draft.words_of(node) if isinstance(node, exp.Binary) else ()
        value = node.expression
        is_text = isinstance(value, exp.Literal) and value.is_string
        if len(words) == 1 and is_text and {"%", "_"} & set(value.name):
            new = "LIKE" if isinstance(node, exp.EQ) else "NOT LIKE"
            yield from draft.changed(words[0], new, 0.9)


def _others(pattern: str) -> Iterator[tuple[str, float]]:
    inner = pattern.strip("%")
    for text, likelihood in (
        (f"%{inner}%", 0.6), (f"{inner}%", 0.6), (f"%{inner}", 0.5), (inner, 0.3),
    ):  # fmt: skip
        if text != pattern and text:
            yield text, likelihood
    if "_" in pattern:
        yield pattern.replace("_", "%"), 0.4
        yield pattern.replace("_", "", 1), 0.4
    yield pattern.replace("%", "_%", 1) if pattern.startswith("%") else f"_{pattern}", 0.2
