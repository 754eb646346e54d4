"""Taking a part of one query into another: the same tables, by the names that they have there."""

from __future__ import annotations

from collections.abc import Iterator

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft, Source


def borrowed_text(other: Draft, node: exp.Expr, draft: Draft, select: exp.Select) -> str | None:
    """The text of a node of another query, as it would be written in a SELECT of this one.

    None where one of its columns means nothing there.
    """
    if not other.known(node):
        return None
    begin, end = other.span(node)
    pieces: list[str] = []
    at = begin
    for column in sorted(node.find_all(exp.Column), key=lambda one: other.span(one)[0]):
        if isinstance(column.this, exp.Star) or not other.known(column):
            continue
        if _is_of_inner_query(column, node, other):
            continue
        written = _written(other, column, draft, select)
        if written is None:
            return None
        start, stop = other.span(column)
        if start < at:
            continue
        pieces += [other.sql[at:start], written]
        at = stop
    return "".join((*pieces, other.sql[at:end]))


def _is_of_inner_query(column: exp.Column, node: exp.Expr, other: Draft) -> bool:
    """Whether a column belongs to a query that is borrowed as a whole."""
    above = other.select_of(column)
    inside: list[exp.Select] = []
    while above is not None and _is_within(above, node):
        inside.append(above)
        above = other.select_of(above)
    if not inside:
        return False
    found = other.meaning(column)
    if found is None:
        return True
    return any(found[0].node is source.node for one in inside for source in other.sources(one))


def _is_within(inner: exp.Expr, outer: exp.Expr) -> bool:
    above: exp.Expr | None = inner
    while above is not None:
        if above is outer:
            return True
        above = above.parent
    return False


def _written(other: Draft, column: exp.Column, draft: Draft, select: exp.Select) -> str | None:
    found = other.meaning(column)
    if found is None or found[0].table is None:
        return None
    source, meant = found
    home = other.select_of(column)
    twins = _twins(other, home, source)
    place = next((at for at, one in enumerate(twins) if one.node is source.node), 0)
    around: exp.Select | None = select
    while around is not None:
        own = [one for one in draft.sources(around) if one.table is source.table]
        if own:
            chosen = own[min(place, len(own) - 1)]
            for written, column_there, there in draft.in_scope(around):
                if there.node is chosen.node and column_there is meant:
                    return written
        around = draft.select_of(around)
    return None


def _twins(other: Draft, home: exp.Select | None, source: Source) -> list[Source]:
    """The sources of the same table in the SELECT that has it."""
    while home is not None:
        sources = other.sources(home)
        if any(one.node is source.node for one in sources):
            return [one for one in sources if one.table is source.table]
        home = other.select_of(home)
    return [source]


def borrowable(draft: Draft, *kinds: type[exp.Expr]) -> Iterator[tuple[Draft, exp.Expr]]:
    """The nodes of some kinds in the texts that may be borrowed from."""
    for other in draft.others:
        for node in other.tree.find_all(*kinds):
            if other.known(node):
                yield other, node
