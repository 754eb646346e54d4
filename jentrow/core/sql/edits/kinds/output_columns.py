"""The columns of the result: their sequence, one too many, one missing."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.borrowing import borrowed_text
from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind
from jentrow.core.sql.edits.lists import item_dropped, items_exchanged

KIND: Final = EditKind(
    "output column",
    "the columns of the result",
    "The columns of the result are not those that are asked for: they stand in another sequence, one is missing or "
    "too many, or one holds something else.",
)
CASES: Final = (
    ("SELECT name, beds FROM huts", "SELECT beds, name FROM huts"),
    ("SELECT name, beds FROM huts", "SELECT name FROM huts"),
    (
        "SELECT h.name FROM huts h",
        "SELECT h.name, h.beds FROM huts h",
        "SELECT name, beds FROM huts",
    ),
    ("SELECT * FROM huts", "SELECT name, beds FROM huts", "SELECT name, beds FROM huts"),
)


def edits(draft: Draft) -> Iterator[Change]:
    """Neighbours exchanged, items dropped, items of another text added and put in place."""
    tree = draft.tree
    while isinstance(tree, exp.SetOperation | exp.Subquery):
        tree = tree.this
    if not isinstance(tree, exp.Select):
        return
    items = tree.expressions
    if not draft.known(*items):
        return
    for at in range(len(items)):
        yield from item_dropped(draft, items, at, 0.3)
        for other in range(at + 1, len(items)):
            if other == at + 1:
                yield from items_exchanged(draft, items, at, 0.4)
    own = {draft.text(item.unalias()).lower() for item in items}
    for other_draft in draft.others:
        theirs = other_draft.tree
        if not isinstance(theirs, exp.Select):
            continue
        if any(item.is_star for item in items):
            yield from _list_borrowed(draft, items, other_draft, theirs, tree)
            continue
        for place, item in enumerate(theirs.expressions):
            said = borrowed_text(other_draft, item, draft, tree)
            bare = borrowed_text(other_draft, item.unalias(), draft, tree)
            if said is None or bare is None or bare.lower() in own:
                continue
            yield from _added(draft, items, place, said)
            if place < len(items):
                yield from draft.changed(items[place].unalias(), bare, 0.3, borrows=True)


def _added(draft: Draft, items: list[exp.Expr], place: int, said: str) -> Iterator[Change]:
    if place < len(items):
        yield from draft.inserted(draft.span(items[place])[0], f"{said}, ", 0.4, borrows=True)
    else:
        yield from draft.inserted(draft.span(items[-1])[1], f", {said}", 0.4, borrows=True)


def _list_borrowed(
    draft: Draft,
    items: list[exp.Expr],
    other: Draft,
    theirs: exp.Select,
    tree: exp.Select,
) -> Iterator[Change]:
    """The columns of another text in place of all of a ``*``."""
    said = [borrowed_text(other, item, draft, tree) for item in theirs.expressions]
    if None not in said:
        place = (draft.span(items[0])[0], draft.span(items[-1])[1])
        listed = ", ".join(one for one in said if one is not None)
        yield from draft.changed(place, listed, 0.5, borrows=True)
