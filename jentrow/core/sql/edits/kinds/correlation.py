"""What ties a subquery to the row outside: missing, or meaning its own row."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft, Source
from jentrow.core.sql.edits.edit import Change, EditKind
from jentrow.core.sql.edits.insertion import condition_added

KIND: Final = EditKind(
    "correlation",
    "a subquery's tie to its row",
    "A subquery does not look at the row that it is worked out for.",
)
CASES: Final = (
    (
        "SELECT name, (SELECT COUNT(*) FROM stays WHERE hut_id = hut_id) FROM huts",
        "SELECT name, (SELECT COUNT(*) FROM stays WHERE hut_id = huts.hut_id) FROM huts",
    ),
    (
        "SELECT name FROM huts h WHERE EXISTS (SELECT 1 FROM stays s)",
        "SELECT name FROM huts h WHERE EXISTS (SELECT 1 FROM stays s WHERE s.hut_id = h.hut_id)",
    ),
    (
        "SELECT name FROM huts h WHERE beds > (SELECT AVG(beds) FROM huts o)",
        "SELECT name FROM huts h WHERE beds > (SELECT AVG(beds) FROM huts o WHERE o.region = h.region)",
    ),
    (
        "SELECT name FROM huts WHERE beds > (SELECT AVG(beds) FROM huts)",
        "SELECT name FROM huts WHERE beds > (SELECT AVG(beds) FROM huts AS huts_inside "
        "WHERE huts_inside.region = huts.region)",
    ),
)


def edits(draft: Draft) -> Iterator[Change]:
    """A column made the outer one; a condition that ties the two by a key, or by an equal column."""
    for select in draft.selects:
        outer = draft.select_of(select)
        if outer is None or isinstance(select.parent, exp.CTE):
            continue
        inner_sources, outer_sources = draft.sources(select), draft.sources(outer)
        for node in select.find_all(exp.EQ, exp.LT, exp.GT, exp.LTE, exp.GTE, exp.NEQ):
            if draft.select_of(node) is select:
                yield from _made_outer(draft, node, inner_sources, outer_sources)
        for inner in inner_sources:
            for other in outer_sources:
                for left, right, likelihood in _ties(draft, inner, other):
                    said = (
                        f"{draft.name(inner.called)}.{draft.name(left)} = "
                        f"{draft.name(other.called)}.{draft.name(right)}"
                    )
                    yield from condition_added(draft, select, "where", said, "AND", likelihood)
                yield from _told_apart(draft, select, inner, other)


def _told_apart(draft: Draft, select: exp.Select, inner: Source, outer: Source) -> Iterator[Change]:
    """The same table inside and outside: called otherwise inside, and tied by an equal column."""
    table = inner.table
    is_same = table is not None and table is outer.table
    if not is_same or inner.called.lower() != outer.called.lower() or inner.node.args.get("alias"):
        return
    if any(column.table for column in select.find_all(exp.Column)):
        return
    if table is None or select.args.get("where") or not draft.known(inner.node):
        return
    within, around = f"{draft.name(inner.called)}_inside", draft.name(outer.called)
    for column in table.columns:
        name = draft.name(column.name)
        new = f"{draft.text(inner.node)} AS {within} WHERE {within}.{name} = {around}.{name}"
        yield from draft.changed(inner.node, new, 0.4)


def _made_outer(
    draft: Draft, node: exp.Expr, inner: list[Source], outer: list[Source]
) -> Iterator[Change]:
    for side in (node.expression, node.this):
        found = draft.meaning(side)
        if found is None or not any(found[0].node is one.node for one in inner):
            continue
        for source in outer:
            if source.table is not None and source.table.column(side.name) is not None:
                if any(source.called.lower() == one.called.lower() for one in inner):
                    continue
                written = f"{draft.name(source.called)}.{draft.name(side.name)}"
                yield from draft.changed(side, written, 0.8)


def _ties(draft: Draft, inner: Source, outer: Source) -> Iterator[tuple[str, str, float]]:
    if inner.called.lower() == outer.called.lower():
        return
    for left, right in draft.links(inner, outer):
        if len(left) == 1:
            yield left[0], right[0], 0.7
    if inner.table is not None and inner.table is outer.table:
        for column in inner.table.columns:
            yield column.name, column.name, 0.5
