"""Names of output columns, where they count."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "column name",
    "the name of a column",
    "A column of the result has another name than is asked for.",
)
CASES: Final = (
    (
        "SELECT name, beds FROM huts",
        "SELECT name, beds AS places FROM huts",
        "SELECT name, beds AS places FROM huts",
    ),
    (
        "SELECT name AS places, beds AS hut FROM huts",
        "SELECT name AS hut, beds AS places FROM huts",
    ),
    (
        "SELECT name, beds AS room FROM huts",
        "SELECT name, beds AS places FROM huts",
        "SELECT name, beds AS places FROM huts",
    ),
    ("SELECT name, beds AS room FROM huts", "SELECT name, beds FROM huts"),
)


def edits(draft: Draft) -> Iterator[Change]:
    """An alias dropped, exchanged with the next one, and borrowed for the column at its place."""
    tree = _first(draft.tree)
    items = tree.expressions if tree is not None else []
    if not items or not draft.known(*items):
        return
    for at, item in enumerate(items):
        following = items[at + 1] if at + 1 < len(items) else None
        if isinstance(item, exp.Alias) and draft.known(item.this):
            yield from draft.changed(_alias(draft, item), "", 0.2)
            if isinstance(following, exp.Alias) and draft.known(following.this):
                begin, end = draft.span(item)[1] - len(_name(draft, item)), draft.span(following)[1]
                own, other = _name(draft, item), _name(draft, following)
                middle = draft.sql[draft.span(item)[1] : end - len(other)]
                yield from draft.changed((begin, end), other + middle + own, 0.3)
        for there in draft.others:
            first = _first(there.tree)
            theirs = first.expressions if first is not None else []
            if at < len(theirs) and isinstance(theirs[at], exp.Alias) and there.known(theirs[at]):
                name = _name(there, theirs[at])
                begin, end = _alias(draft, item)
                yield from draft.changed((begin, end), f" AS {name}", 0.4, borrows=True)


def _first(tree: exp.Expr) -> exp.Select | None:
    """The SELECT whose columns name the result's."""
    while isinstance(tree, exp.SetOperation | exp.Subquery):
        tree = tree.this
    return tree if isinstance(tree, exp.Select) else None


def _alias(draft: Draft, item: exp.Expr) -> tuple[int, int]:
    """Where the alias of an item stands, with its AS; where it would stand if it has none."""
    end = draft.span(item)[1]
    return (draft.span(item.this)[1] if isinstance(item, exp.Alias) else end), end


def _name(draft: Draft, item: exp.Expr) -> str:
    """An alias as it is written, quotes included."""
    end = draft.span(item)[1]
    last = draft.before(end)
    return draft.sql[last.start : end] if last is not None else ""
