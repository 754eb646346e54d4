"""GROUP BY: a key too many, too few, another one, or no groups at all."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.aggregates import has_aggregate
from jentrow.core.sql.edits.borrowing import borrowed_text
from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind
from jentrow.core.sql.edits.lists import item_dropped

KIND: Final = EditKind(
    "grouping",
    "GROUP BY",
    "The groups are not those that are meant: a key of GROUP BY is missing, is one too many, or is another one.",
)
CASES: Final = (
    (
        "SELECT region, COUNT(*) FROM huts GROUP BY region, name",
        "SELECT region, COUNT(*) FROM huts GROUP BY region",
    ),
    (
        "SELECT region, COUNT(*) FROM huts",
        "SELECT region, COUNT(*) FROM huts GROUP BY region",
    ),
    (
        "SELECT name, COUNT(*) FROM huts GROUP BY name",
        "SELECT name, COUNT(*) FROM huts GROUP BY name, hut_id",
    ),
    (
        "SELECT name, COUNT(*) FROM huts GROUP BY name",
        "SELECT name, COUNT(*) FROM huts GROUP BY hut_id",
    ),
)


def edits(draft: Draft) -> Iterator[Change]:
    """Keys dropped, added and replaced; GROUP BY dropped, and put in where it is missing."""
    for select in draft.selects:
        group = select.args.get("group")
        if group is not None and draft.known(group, *group.expressions):
            yield from _of_group(draft, select, group)
        elif group is None and has_aggregate(select):
            bare = [
                draft.text(one.unalias())
                for one in select.expressions
                if draft.known(one) and not one.find(exp.AggFunc, exp.Literal)
            ]
            if bare:
                at = draft.end_before(select, "where")
                yield from draft.inserted(at, f" GROUP BY {', '.join(bare)}", 0.8)


def _of_group(draft: Draft, select: exp.Select, group: exp.Expr) -> Iterator[Change]:
    keys = group.expressions
    for at in range(len(keys)):
        yield from item_dropped(draft, keys, at, 0.6)
    if len(keys) == 1:
        yield from draft.dropped(*draft.span(group), 0.3)
    held = {draft.text(key).lower() for key in keys}
    for written, likelihood, borrows in _candidates(draft, select):
        if written.lower() in held or not keys:
            continue
        end = draft.span(keys[-1])[1]
        yield from draft.inserted(end, f", {written}", likelihood, borrows=borrows)
        for key in keys:
            yield from draft.changed(key, written, likelihood, borrows=borrows)


def _candidates(draft: Draft, select: exp.Select) -> Iterator[tuple[str, float, bool]]:
    seen: set[str] = set()
    for written, column, source in draft.in_scope(select):
        table = source.table
        is_key = table is not None and table.primary_key == (column.name,)
        refers = table is not None and any(column.name in key.columns for key in table.keys)
        if written not in seen and (is_key or refers or column.family == "text"):
            seen.add(written)
            yield written, 0.5 if is_key else 0.3, False
    for other in draft.others:
        for group in other.tree.find_all(exp.Group):
            for key in group.expressions:
                said = borrowed_text(other, key, draft, select)
                if said is not None and said not in seen and not key.is_int:
                    seen.add(said)
                    yield said, 0.5, True
