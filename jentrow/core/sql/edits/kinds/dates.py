"""Parts of dates, and the ends of a period."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "date",
    "a date",
    "Another part of a date is meant, or a period ends a day too early or too late.",
)
CASES: Final = (
    ("SELECT strftime('%m', arrival) FROM stays", "SELECT strftime('%Y', arrival) FROM stays"),
    ("SELECT strftime('%Y', arrival) FROM stays", "SELECT strftime('%Y-%m', arrival) FROM stays"),
    (
        "SELECT guest FROM stays WHERE arrival < '2026-03-01'",
        "SELECT guest FROM stays WHERE arrival < '2026-03-02'",
    ),
)
_FORMATS: Final = ("%Y", "%m", "%d", "%Y-%m", "%Y-%m-%d", "%H", "%w", "%j")
_PARTS: Final = ("YEAR", "MONTH", "DAY", "HOUR")


def edits(draft: Draft) -> Iterator[Change]:
    """Other formats and parts; a date a day, a month or a year off."""
    for node in draft.tree.find_all(exp.Literal):
        if not node.is_string or not draft.known(node):
            continue
        if node.name in _FORMATS:
            for other in _FORMATS:
                yield from draft.changed(node, f"'{other}'", 0.4)
        yield from _neighbours(draft, node)
    for part_of in draft.tree.find_all(exp.Extract, exp.Year, exp.Month, exp.Day):
        if draft.known(part_of):
            begin, end = draft.span(part_of)
            word = next((one for one in draft.tokens(begin, end) if one.word in _PARTS), None)
            for part in _PARTS[:3] if word is not None else ():
                yield from draft.changed(word or (begin, begin), part, 0.5)


def _neighbours(draft: Draft, node: exp.Expr) -> Iterator[Change]:
    text = node.name
    try:
        day = date.fromisoformat(text[:10])
    except ValueError:
        return
    for off, likelihood in ((1, 0.4), (-1, 0.4)):
        try:
            other = (day + timedelta(days=off)).isoformat() + text[10:]
        except OverflowError:
            continue
        yield from draft.changed(node, f"'{other}'", likelihood)
    if day.day == 1 and len(text) == 10:
        last = f"'{(day - timedelta(days=1)).isoformat()}'"
        yield from draft.changed(node, last, 0.4)
