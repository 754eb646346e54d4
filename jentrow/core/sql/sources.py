"""The tables that a text names and what it calls them, also where the text cannot be parsed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from jentrow.core.sql.skeleton import Skeleton
from jentrow.core.sql.tokens import name_of

Catalogue = Mapping[str, tuple[str, ...]]
"""Tables with their columns."""

_BEFORE: Final = frozenset({"FROM", "JOIN", ",", "UPDATE", "INTO"})
_NO_ALIAS: Final = frozenset(
    """
    ON USING WHERE GROUP ORDER HAVING LIMIT UNION INTERSECT EXCEPT JOIN INNER LEFT RIGHT FULL OUTER CROSS
    NATURAL SET VALUES SELECT AS INDEXED NOT WINDOW
    """.split()  # noqa: SIM905
)


@dataclass(frozen=True, slots=True)
class NamedSource:
    """A table in FROM, and the name that the query has for it: its alias, or its own."""

    table: str
    name: str


def sources_in(skeleton: Skeleton, catalogue: Catalogue) -> tuple[NamedSource, ...]:
    """The tables of the sample that a text reads, in the order in which it names them."""
    by_lower = {table.lower(): table for table in catalogue}
    found: list[NamedSource] = []
    for at, token in enumerate(skeleton.tokens):
        name = name_of(skeleton.sql, token)
        table = by_lower.get(name.lower()) if name else None
        if table is None or skeleton.word(at - 1) not in _BEFORE:
            continue
        place = at + 2 if skeleton.word(at + 1) == "AS" else at + 1
        is_alias = (
            skeleton.kind(place) in ("word", "name") and skeleton.word(place) not in _NO_ALIAS
        )
        found.append(NamedSource(table, skeleton.written(place) if is_alias else table))
    return tuple(dict.fromkeys(found))
