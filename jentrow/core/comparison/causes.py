"""Likely causes of a difference, named only where the query's own text bears them out.

The rows alone show what differs; why it does, they can only suggest. A finding therefore carries
its possible causes, each with what the text must hold for it, and the words are added when the
text is known.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from math import prod
from typing import Any, Literal, TypeAlias

TextFact: TypeAlias = Literal[
    "distinct",
    "group_by",
    "combined",
    "union_all",
    "keeps_repeats",
    "several_sources",
    "inner_join",
    "order_by",
    "no_order_by",
    "rounding",
    "division",
]
"""What a query's text holds, or surely does not hold.

``combined``: a set operation that makes repeated rows one. ``keeps_repeats``: nothing in it does.
"""


@dataclass(frozen=True)
class TextFacts:
    """What is known of a query's text.

    ``compared`` are the columns (caseless) that stand in a comparison. ``product`` are the tables
    whose rows the query gives each with each, uncounted and unfiltered, because no condition links
    them; empty where that is not so.
    """

    known: frozenset[TextFact] = frozenset()
    compared: frozenset[str] = frozenset()
    product: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Cause:
    """One possible cause.

    ``needs`` are the facts that must be known of the text, ``compares`` a column that it must
    compare, ``product`` the number of rows that an unlinked product must have (``{each}`` and
    ``{sizes}`` in the words are filled in); None where they do not matter.
    """

    code: str
    words: str
    needs: frozenset[TextFact] = frozenset()
    compares: str | None = None
    product: int | None = None
    evidence: dict[str, Any] = field(default_factory=dict)

    def explanation(self, facts: TextFacts, sizes: Mapping[str, int]) -> str | None:
        """The cause in words; None where the text does not bear it out."""
        if not self.needs <= facts.known:
            return None
        if self.compares is not None and self.compares.casefold() not in facts.compared:
            return None
        if self.product is None:
            return self.words
        counts = [sizes.get(table.casefold(), 0) for table in facts.product]
        if len(counts) < 2 or prod(counts) != self.product:
            return None
        first, *others = facts.product
        each = f"every row of {first} stands with every row of {' and of '.join(others)}"
        return self.words.format(each=each, sizes=" x ".join(map(str, counts)))
