"""Windows: their partition, order and frame, and which function looks through them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.borrowing import borrowable, borrowed_text
from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind
from jentrow.core.sql.edits.lists import item_dropped

KIND: Final = EditKind(
    "window",
    "a window",
    "A window looks at other rows than are meant, in another order, or through another function.",
)
CASES: Final = (
    (
        "SELECT RANK() OVER (PARTITION BY region ORDER BY beds) FROM huts",
        "SELECT RANK() OVER (ORDER BY beds) FROM huts",
    ),
    (
        "SELECT RANK() OVER (ORDER BY beds) FROM huts",
        "SELECT DENSE_RANK() OVER (ORDER BY beds) FROM huts",
    ),
    (
        "SELECT RANK() OVER (ORDER BY beds) FROM huts",
        "SELECT RANK() OVER (PARTITION BY region ORDER BY beds) FROM huts",
        "SELECT RANK() OVER (PARTITION BY h.region ORDER BY h.beds) FROM huts h",
    ),
    (
        "SELECT SUM(beds) OVER (PARTITION BY region) FROM huts",
        "SELECT SUM(beds) OVER (PARTITION BY region ORDER BY name) FROM huts",
        "SELECT SUM(beds) OVER (PARTITION BY region ORDER BY name) FROM huts",
    ),
    (
        "SELECT LAG(beds) OVER (ORDER BY name) FROM huts",
        "SELECT LEAD(beds) OVER (ORDER BY name) FROM huts",
    ),
    (
        "SELECT SUM(beds) OVER (ORDER BY name ROWS BETWEEN 1 PRECEDING AND CURRENT ROW) FROM huts",
        "SELECT SUM(beds) OVER (ORDER BY name) FROM huts",
    ),
    (
        "SELECT SUM(beds) OVER (ORDER BY beds) FROM huts",
        "SELECT SUM(beds) OVER (ORDER BY beds ROWS UNBOUNDED PRECEDING) FROM huts",
    ),
)
_OTHERS: Final = {
    "ROW_NUMBER": (("RANK", 0.6), ("DENSE_RANK", 0.5)),
    "RANK": (("DENSE_RANK", 0.8), ("ROW_NUMBER", 0.7)),
    "DENSE_RANK": (("RANK", 0.8), ("ROW_NUMBER", 0.6)),
    "LAG": (("LEAD", 0.6),),
    "LEAD": (("LAG", 0.6),),
    "FIRST_VALUE": (("LAST_VALUE", 0.5),),
    "LAST_VALUE": (("FIRST_VALUE", 0.5),),
}


def edits(draft: Draft) -> Iterator[Change]:
    """The function, PARTITION BY, ORDER BY and the frame; each dropped, added or another."""
    for window in draft.tree.find_all(exp.Window):
        if not draft.known(window):
            continue
        begin, end = draft.span(window)
        name = draft.after(begin)
        for new, likelihood in _OTHERS.get(name.word if name else "", ()):
            if name is not None:
                yield from draft.changed(name, new, likelihood)
        tokens = draft.tokens(begin, end)
        over = next((at for at, one in enumerate(tokens) if one.word == "OVER"), None)
        if over is None or over + 1 >= len(tokens) or tokens[over + 1].word != "(":
            continue
        opened = tokens[over + 1].end
        yield from _partition(draft, window, opened, end - 1)
        yield from _order(draft, window, end - 1)
        yield from _frame(draft, window, end - 1)


def _partition(draft: Draft, window: exp.Expr, opened: int, closed: int) -> Iterator[Change]:
    keys = window.args.get("partition_by") or []
    order = window.args.get("order")
    select = draft.select_of(window)
    if keys and draft.known(*keys):
        stop = draft.span(order)[0] if draft.known(order) and order is not None else closed
        end = draft.span(keys[-1])[1]
        yield from draft.changed((opened, stop if order is not None else end), "", 0.7)
        for at in range(len(keys)):
            yield from item_dropped(draft, keys, at, 0.4)
    if select is None:
        return
    seen: set[str] = set()
    for other, node in borrowable(draft, exp.Window):
        for key in node.args.get("partition_by") or ():
            said = borrowed_text(other, key, draft, select)
            if said is None or said in seen:
                continue
            seen.add(said)
            if not keys:
                gap = " " if order is not None else ""
                yield from draft.inserted(opened, f"PARTITION BY {said}{gap}", 0.6, borrows=True)
            for own in keys:
                yield from draft.changed(own, said, 0.4, borrows=True)
    if not keys:
        for written, column, source in draft.in_scope(select):
            refers = source.table is not None and any(
                column.name in key.columns for key in source.table.keys
            )
            if written not in seen and (refers or column.family == "text"):
                gap = " " if order is not None else ""
                yield from draft.inserted(opened, f"PARTITION BY {written}{gap}", 0.4)


def _order(draft: Draft, window: exp.Expr, closed: int) -> Iterator[Change]:
    order = window.args.get("order")
    keys = window.args.get("partition_by") or []
    if draft.known(order) and order is not None:
        if isinstance(window.this, exp.AggFunc) and window.args.get("spec") is None:
            begin, end = draft.span(order)
            yield from draft.dropped(begin, end, 0.5)
        for at in range(len(order.expressions)):
            yield from item_dropped(draft, order.expressions, at, 0.4)
        return
    select = draft.select_of(window)
    for other, node in borrowable(draft, exp.Window):
        there = node.args.get("order")
        said = borrowed_text(other, there, draft, select) if there and select else None
        if said is not None:
            gap = " " if keys else ""
            yield from draft.inserted(closed, f"{gap}{said}", 0.6, borrows=True)


def _frame(draft: Draft, window: exp.Expr, closed: int) -> Iterator[Change]:
    order, spec = window.args.get("order"), window.args.get("spec")
    if not draft.known(order) or order is None:
        return
    end = draft.span(order)[1]
    if spec is None:
        aggregate = isinstance(window.this, exp.Sum | exp.Avg | exp.Count | exp.Min | exp.Max)
        if aggregate:
            yield from draft.inserted(end, " ROWS UNBOUNDED PRECEDING", 0.4)
        if aggregate or isinstance(window.this, exp.LastValue):
            whole = " ROWS BETWEEN UNBOUNDED PRECEDING AND UNBOUNDED FOLLOWING"
            yield from draft.inserted(end, whole, 0.4)
        for other, node in borrowable(draft, exp.Window):
            there = node.args.get("order")
            if node.args.get("spec") is not None and other.known(there) and there is not None:
                said = other.sql[other.span(there)[1] : other.span(node)[1] - 1]
                yield from draft.inserted(end, said, 0.5, borrows=True)
        return
    yield from draft.changed((end, closed), "", 0.5)
    word = next((one for one in draft.tokens(end, closed) if one.word in ("ROWS", "RANGE")), None)
    if word is not None:
        yield from draft.changed(word, "RANGE" if word.word == "ROWS" else "ROWS", 0.4)
    for one in draft.tokens(end, closed):
        if one.kind == "number":
            number = int(draft.sql[one.start : one.end])
            yield from draft.changed(one, str(number + 1), 0.4)
            if number > 1:
                yield from draft.changed(one, str(number - 1), 0.3)
