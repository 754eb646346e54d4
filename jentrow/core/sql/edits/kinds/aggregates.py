"""Which aggregate: SUM, AVG, MIN, MAX, COUNT."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind(
    "aggregate",
    "an aggregate",
    "Another aggregate is meant: a sum, a number of rows, an average, the least or the greatest.",
    repeats=True,
)
CASES: Final = (
    ("SELECT SUM(nights) FROM stays", "SELECT AVG(nights) FROM stays"),
    ("SELECT MAX(nights) FROM stays", "SELECT MIN(nights) FROM stays"),
    ("SELECT COUNT(nights) FROM stays", "SELECT SUM(nights) FROM stays"),
)
_OTHERS: Final[dict[type[exp.Expr], tuple[tuple[str, float], ...]]] = {
    exp.Sum: (("COUNT", 0.7), ("AVG", 0.5), ("MAX", 0.4), ("MIN", 0.2), ("TOTAL", 0.1)),
    exp.Avg: (("SUM", 0.5), ("MAX", 0.4), ("MIN", 0.3), ("COUNT", 0.2)),
    exp.Max: (("MIN", 0.7), ("SUM", 0.3), ("AVG", 0.3), ("COUNT", 0.2)),
    exp.Min: (("MAX", 0.7), ("SUM", 0.2), ("AVG", 0.3), ("COUNT", 0.2)),
    exp.Count: (("SUM", 0.7), ("MAX", 0.3), ("AVG", 0.2), ("MIN", 0.2)),
}
_NUMBERS: Final = frozenset({"SUM", "AVG", "TOTAL"})


def edits(draft: Draft) -> Iterator[Change]:
    """Each aggregate of one value as each other."""
    for call in draft.tree.find_all(*_OTHERS):
        if isinstance(call.this, exp.Star) or call.expressions or not draft.known(call):
            continue
        word = draft.after(draft.span(call)[0])
        value = call.this.expressions[0] if isinstance(call.this, exp.Distinct) else call.this
        family = draft.family(value)
        if word is None or word.kind != "word":
            continue
        for new, likelihood in _OTHERS[type(call)]:
            if new == "TOTAL" and draft.dialect != "sqlite":
                continue
            if new in _NUMBERS and family in ("text", "date"):
                continue
            yield from draft.changed(word, new, likelihood)
