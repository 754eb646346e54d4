"""The catalogue: every single edit of a query, the likeliest mistakes first.

Each module of :mod:`jentrow.core.sql.edits.kinds` is a kind: ``KIND`` names it, ``edits`` finds
where it applies, ``CASES`` are texts before and after, with a third one where it borrows.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cache
from importlib import import_module
from pkgutil import iter_modules
from typing import Final

from jentrow.core.sql.edits import kinds
from jentrow.core.sql.edits.draft import Draft
from jentrow.core.sql.edits.edit import Change, Edit, EditKind

_MOST_REPEATS: Final = 4
_REPEATED: Final = 0.6
"""How much rarer it is that all places are wrong alike, and no other is."""


@dataclass(frozen=True, slots=True)
class Entry:
    """One kind of the catalogue, with what finds its edits."""

    kind: EditKind
    edits: Callable[[Draft], Iterator[Change]]
    cases: tuple[tuple[str, ...], ...]


@cache
def catalogue() -> tuple[Entry, ...]:
    """All kinds, by their modules' names."""
    modules = (
        import_module(f"{kinds.__name__}.{found.name}") for found in iter_modules(kinds.__path__)
    )
    return tuple(Entry(one.KIND, one.edits, one.CASES) for one in modules)


def kind_named(name: str) -> EditKind:
    """The kind of a name; raises ``KeyError`` where there is none."""
    return {entry.kind.name: entry.kind for entry in catalogue()}[name]


def edits_of(draft: Draft) -> list[Edit]:
    """Every edit of a query, the likeliest first; each text that they lead to comes once.

    Of two edits that lead to one text, the one that does not borrow stands, then the likelier.
    """
    found: dict[str, Edit] = {}
    for entry in catalogue():
        for change in _with_repeats(draft, entry):
            edit = Edit(
                entry.kind, draft.sql, change.start, change.end, change.new, change.likelihood,
                change.borrows,
            )  # fmt: skip
            known = found.get(edit.edited)
            if known is None or _rank(edit) < _rank(known):
                found[edit.edited] = edit
    found.pop(draft.sql, None)
    return sorted(found.values(), key=_rank)


def _with_repeats(draft: Draft, entry: Entry) -> Iterator[Change]:
    """The changes of a kind, and each made wherever the same is written, as one stretch."""
    for change in entry.edits(draft):
        yield change
        if entry.kind.repeats and change.start < change.end:
            yield from _everywhere(draft, change)


def _everywhere(draft: Draft, change: Change) -> Iterator[Change]:
    places = draft.repeats_of(change.start, change.end)
    if not 1 < len(places) <= _MOST_REPEATS:
        return
    begin, end = places[0][0], places[-1][1]
    pieces: list[str] = []
    at = begin
    for start, stop in places:
        pieces += [draft.sql[at:start], change.new]
        at = stop
    said = "".join((*pieces, draft.sql[at:end]))
    yield Change(begin, end, said, change.likelihood * _REPEATED, change.borrows)


def _rank(edit: Edit) -> tuple[bool, float, int, int]:
    return edit.borrows, -edit.likelihood, edit.size, edit.start
