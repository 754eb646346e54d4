"""NULL in comparisons: NOT IN over a column with NULL, and rows for which a condition is unknown."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Condition, Draft
from jentrow.core.sql.edits.edit import Change, EditKind
from jentrow.core.sql.edits.insertion import condition_added

KIND: Final = EditKind(
    "null guard",
    "rows without a value",
    "Rows without a value are not thought of: a comparison with NULL is neither true nor false.",
)
CASES: Final = (
    (
        "SELECT name FROM huts WHERE hut_id NOT IN (SELECT hut_id FROM wardens)",
        "SELECT name FROM huts WHERE hut_id NOT IN (SELECT hut_id FROM wardens WHERE hut_id IS NOT NULL)",
    ),
    (
        "SELECT guest FROM stays WHERE meal_plan <> 'full'",
        "SELECT guest FROM stays WHERE (meal_plan <> 'full' OR meal_plan IS NULL)",
    ),
)


def edits(draft: Draft) -> Iterator[Change]:
    """A guard in a subquery of NOT IN; ``OR x IS NULL`` and ``AND x IS NOT NULL`` at comparisons."""
    for node in draft.tree.find_all(exp.In):
        query = node.args.get("query")
        inner = query.unnest() if query is not None else None
        if isinstance(node.parent, exp.Not) and isinstance(inner, exp.Select):
            item = inner.selects[0] if len(inner.selects) == 1 else None
            found = draft.meaning(item) if item is not None else None
            if item is not None and found is not None and found[1].nullable:
                guard = f"{draft.text(item)} IS NOT NULL"
                yield from condition_added(draft, inner, "where", guard, "AND", 0.8)
    for condition in draft.conditions:
        if condition.clause == "where":
            yield from _unknown_rows(draft, condition)


def _unknown_rows(draft: Draft, condition: Condition) -> Iterator[Change]:
    said: set[str] = set()
    for part in draft.chain(condition.root):
        is_test = isinstance(part, exp.Is) or isinstance(part.this, exp.Is)
        if is_test or not draft.known(part):
            continue
        for column in part.find_all(exp.Column):
            found = draft.meaning(column)
            if (
                found is None
                or not found[1].nullable
                or draft.select_of(column) is not condition.select
            ):
                continue
            name = draft.text(column)
            wrapped = f"({draft.text(part)} OR {name} IS NULL)"
            yield from draft.changed(part, wrapped, 0.5)
            said.add(name)
    for name in sorted(said):
        guard = f"{name} IS NOT NULL"
        yield from condition_added(draft, condition.select, "where", guard, "AND", 0.3)
