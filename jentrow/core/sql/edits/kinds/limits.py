"""LIMIT and OFFSET."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "limit",
    "LIMIT or OFFSET",
    "Too many or too few rows are taken, or too many or too few are passed over.",
)
CASES: Final = (
    ("SELECT name FROM huts ORDER BY beds LIMIT 3", "SELECT name FROM huts ORDER BY beds LIMIT 4"),
    ("SELECT name FROM huts ORDER BY beds LIMIT 3", "SELECT name FROM huts ORDER BY beds"),
    (
        "SELECT name FROM huts ORDER BY beds LIMIT 3 OFFSET 2",
        "SELECT name FROM huts ORDER BY beds LIMIT 3",
    ),
    (
        "SELECT name FROM huts ORDER BY beds LIMIT 3 OFFSET 2",
        "SELECT name FROM huts ORDER BY beds LIMIT 2 OFFSET 3",
    ),
    (
        "SELECT name FROM huts ORDER BY beds LIMIT 3",
        "SELECT name FROM huts ORDER BY beds LIMIT 3 OFFSET 1",
    ),
    ("SELECT name FROM huts", "SELECT name FROM huts LIMIT 3", "SELECT name FROM huts LIMIT 3"),
)


def edits(draft: Draft) -> Iterator[Change]:
    """One more, one less, none; rows passed over or not; both numbers exchanged; a LIMIT borrowed."""
    for query in draft.tree.find_all(exp.Query):
        limit, offset = query.args.get("limit"), query.args.get("offset")
        if not isinstance(limit, exp.Limit) or not draft.known(limit, limit.expression):
            continue
        number = limit.expression
        yield from _one_off(draft, number)
        for other in draft.others:
            for one in other.tree.find_all(exp.Limit):
                if other.known(one, one.expression):
                    yield from draft.changed(number, other.text(one.expression), 0.4, borrows=True)
        if offset is None:
            yield from draft.dropped(*draft.span(limit), 0.4)
            yield from draft.inserted(draft.span(limit)[1], " OFFSET 1", 0.3)
        elif draft.known(offset, offset.expression):
            skipped = offset.expression
            yield from _one_off(draft, skipped)
            first, second = sorted((number, skipped), key=lambda one: draft.span(one)[0])
            (begin, middle), (later, end) = draft.span(first), draft.span(second)
            new = draft.text(second) + draft.sql[middle:later] + draft.text(first)
            yield from draft.changed((begin, end), new, 0.4)
            word = draft.word_in(offset, "OFFSET")
            if word is not None:
                yield from draft.dropped(word.start, draft.span(offset)[1], 0.4)
    yield from _missing(draft)


def _one_off(draft: Draft, number: exp.Expr) -> Iterator[Change]:
    if isinstance(number, exp.Literal) and number.is_int:
        yield from draft.changed(number, str(int(number.name) + 1), 0.4)
        if int(number.name) > 0:
            yield from draft.changed(number, str(int(number.name) - 1), 0.4)


def _missing(draft: Draft) -> Iterator[Change]:
    tree = draft.tree
    if tree.args.get("limit") is not None or not draft.known(tree):
        return
    for other in draft.others:
        limit, offset = other.tree.args.get("limit"), other.tree.args.get("offset")
        if other.known(limit) and limit is not None:
            end = other.span(limit)[1]
            if other.known(offset) and offset is not None:
                end = max(end, other.span(offset)[1])
            said = other.sql[other.span(limit)[0] : end]
            yield from draft.inserted(draft.span(tree)[1], f" {said}", 0.5, borrows=True)
