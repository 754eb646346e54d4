"""Sort keys: one missing, one too many, in another sequence, or no order at all."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.borrowing import borrowed_text
from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind
from jentrow.core.sql.edits.lists import item_dropped, items_exchanged

KIND: Final = EditKind(
    "sort key",
    "ORDER BY",
    "The rows are sorted by other keys than are meant, by too few, in another sequence of keys, or not at all.",
)
CASES: Final = (
    ("SELECT name FROM huts ORDER BY beds, name", "SELECT name FROM huts ORDER BY name, beds"),
    ("SELECT name FROM huts ORDER BY beds, name", "SELECT name FROM huts ORDER BY beds"),
    ("SELECT name FROM huts ORDER BY beds", "SELECT name FROM huts"),
    (
        "SELECT name FROM huts",
        "SELECT name FROM huts ORDER BY beds DESC",
        "SELECT name FROM huts ORDER BY beds DESC",
    ),
    ("SELECT name, beds FROM huts ORDER BY beds", "SELECT name, beds FROM huts ORDER BY name"),
)


def edits(draft: Draft) -> Iterator[Change]:
    """Keys dropped, exchanged, replaced and added; ORDER BY dropped and borrowed."""
    for order in draft.tree.find_all(exp.Order):
        keys = order.expressions
        if isinstance(order.parent, exp.Window) or not draft.known(order, *keys):
            continue
        for at in range(len(keys)):
            yield from item_dropped(draft, keys, at, 0.6)
            if at + 1 < len(keys):
                yield from items_exchanged(draft, keys, at, 0.6)
        yield from draft.dropped(*draft.span(order), 0.6)
        yield from _other_keys(draft, order)
    yield from _missing(draft)


def _other_keys(draft: Draft, order: exp.Expr) -> Iterator[Change]:
    select = order.parent
    if not isinstance(select, exp.Select):
        return
    keys = order.expressions
    end = draft.span(keys[-1])[1]
    held = {draft.text(key.this).lower() for key in keys}
    shown = [one for one in select.expressions if draft.known(one)]
    for item in shown:
        written = draft.name(item.alias) if item.alias else draft.text(item)
        if written.lower() in held or isinstance(item, exp.Star):
            continue
        yield from draft.inserted(end, f", {written}", 0.4)
        for key in keys:
            yield from draft.changed(key.this, written, 0.4)
    for written, column, _ in draft.in_scope(select):
        if written.lower() not in held and not any(draft.text(one) == written for one in shown):
            for key in keys:
                if draft.family(key.this) == column.family:
                    yield from draft.changed(key.this, written, 0.3)
    for other in draft.others:
        for one in other.tree.find_all(exp.Ordered):
            said = borrowed_text(other, one, draft, select)
            if said is not None:
                yield from draft.inserted(end, f", {said}", 0.5, borrows=True)
                for key in keys:
                    yield from draft.changed(key, said, 0.4, borrows=True)


def _missing(draft: Draft) -> Iterator[Change]:
    """An ORDER BY of another text, where the outermost query has none."""
    tree = draft.tree
    if tree.args.get("order") is not None or not draft.known(tree):
        return
    limit = tree.args.get("limit")
    at = draft.span(limit)[0] if draft.known(limit) and limit is not None else draft.span(tree)[1]
    for other in draft.others:
        order = other.tree.args.get("order")
        if order is None:
            continue
        into = tree if isinstance(tree, exp.Select) else None
        said = borrowed_text(other, order, draft, into) if into is not None else other.text(order)
        said = said if said is not None else other.text(order)
        between = (" ", "") if at == draft.span(tree)[1] else ("", " ")
        yield from draft.inserted(at, f"{between[0]}{said}{between[1]}", 0.6, borrows=True)
