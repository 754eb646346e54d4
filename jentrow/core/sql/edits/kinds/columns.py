"""A column where another of the same kind is meant."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, EditKind

KIND: Final = EditKind("column", "a column", "Another column is meant.", repeats=True)
CASES: Final = (
    ("SELECT beds FROM huts", "SELECT altitude_m FROM huts"),
    (
        "SELECT guest FROM stays WHERE arrival > '2026-01-01'",
        "SELECT guest FROM stays WHERE paid_on > '2026-01-01'",
    ),
    (
        "SELECT h.name FROM huts h JOIN stays s ON s.stay_id = h.hut_id",
        "SELECT h.name FROM huts h JOIN stays s ON s.hut_id = h.hut_id",
    ),
    (
        "SELECT a.name FROM huts a JOIN huts b ON a.beds = b.beds",
        "SELECT b.name FROM huts a JOIN huts b ON a.beds = b.beds",
    ),
)


def edits(draft: Draft) -> Iterator[Change]:
    """Each column as each other of its family that is in sight."""
    scopes: dict[int, list[tuple[str, str, object, str]]] = {}
    for column in draft.tree.find_all(exp.Column):
        found, select = draft.meaning(column), draft.select_of(column)
        if found is None or select is None or not draft.known(column):
            continue
        if isinstance(column.parent, exp.Group):
            continue
        in_scope = scopes.get(id(select))
        if in_scope is None:
            in_scope = scopes[id(select)] = [
                (written, one.family, source.node, one.name.lower())
                for written, one, source in draft.in_scope(select)
            ]
        written_now = draft.text(column).lower()
        source, meant = found
        for written, family, node, name in in_scope:
            if written.lower() == written_now:
                continue
            if node is source.node and name == meant.name.lower():
                continue  # the same, written otherwise
            if family == meant.family:
                shares = name == meant.name.lower()
                yield from draft.changed(column, written, 0.5 if shares else 0.35)
            elif isinstance(column.parent, exp.Select | exp.Alias):
                yield from draft.changed(column, written, 0.2)
