"""What a comparison says: findings with codes that stay, and words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any, Final, Literal, TypeAlias, get_args

from jentrow.core.comparison.causes import Cause, TextFact, TextFacts

FindingCode: TypeAlias = Literal[
    "columns.missing",
    "columns.extra",
    "columns.order",
    "columns.name",
    "rows.missing",
    "rows.extra",
    "rows.repeated",
    "rows.collapsed",
    "rows.order",
    "cells.differ",
    "cells.null",
    "cells.rounding",
    "cells.type",
    "cells.case",
    "cells.space",
    "cells.arbitrary",
    "construct.required",
    "construct.forbidden",
    "style.layout",
    "sql.syntax",
    "sql.object",
    "sql.runtime",
    "policy.statement",
    "policy.function",
    "limit.time",
    "limit.rows",
    "limit.memory",
    "held_back.differs",
]

CODES: Final[tuple[FindingCode, ...]] = get_args(FindingCode)

FINDING_WORDS: Final[dict[FindingCode, str]] = {
    "columns.missing": "columns are missing",
    "columns.extra": "there are columns too many",
    "columns.order": "the columns stand in another order",
    "columns.name": "column names differ",
    "rows.missing": "rows are missing",
    "rows.extra": "there are rows too many",
    "rows.repeated": "right rows come too often",
    "rows.collapsed": "right rows come too seldom",
    "rows.order": "rows stand out of order",
    "cells.differ": "cells hold other values",
    "cells.null": "NULL stands on one side only",
    "cells.rounding": "numbers are rounded otherwise",
    "cells.type": "values are of another type",
    "cells.case": "upper and lower case differ",
    "cells.space": "blanks differ",
    "cells.arbitrary": "the engine picked one of several possible values",
    "construct.required": "a construct that is asked for is missing",
    "construct.forbidden": "a construct that is ruled out is there",
    "style.layout": "the layout is another",
    "sql.syntax": "the query cannot be read",
    "sql.object": "names are unknown or ambiguous",
    "sql.runtime": "the engine rejects it",
    "policy.statement": "it is not a single query",
    "policy.function": "a function is not allowed",
    "limit.time": "it takes too long",
    "limit.rows": "it gives too many rows",
    "limit.memory": "it needs too much memory",
    "held_back.differs": "it is wrong on held-back data only",
}
"""The kind of each finding in few words: all that is said where its message must not be."""


def is_difference(code: str) -> bool:
    """Whether a finding is about the result, whose message may tell what is due."""
    return code.startswith(("columns.", "rows.", "cells."))


@dataclass(frozen=True, slots=True)
class Unless:
    """What a finding says instead, unless the text holds what it ``needs``."""

    needs: frozenset[TextFact]
    instead: Finding


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing found.

    ``count`` is how many rows, cells or columns it concerns. ``evidence`` holds plain JSON: the
    columns, the likely ``cause``, the place in the text. ``causes`` are what the difference
    suggests, the likeliest first, and ``unless`` what is said where the text speaks against the
    code: see :func:`explained`.
    """

    code: FindingCode
    message: str
    count: int = 1
    dataset: str = "open"
    evidence: dict[str, Any] = field(default_factory=dict)
    causes: tuple[Cause, ...] = ()
    unless: Unless | None = None

    def to_json(self) -> dict[str, Any]:
        """The finding as the command line prints it."""
        out: dict[str, Any] = {
            "code": self.code,
            "message": self.message,
            "count": self.count,
            "dataset": self.dataset,
        }
        return out | ({"evidence": self.evidence} if self.evidence else {})


def explained(finding: Finding, facts: TextFacts, sizes: Mapping[str, int]) -> Finding:
    """The finding with the first of its causes that the text bears out.

    ``sizes`` are the rows of the sample's tables, by their caseless names.
    """
    if finding.unless is not None and not finding.unless.needs <= facts.known:
        finding = finding.unless.instead
    for cause in finding.causes:
        words = cause.explanation(facts, sizes)
        if words is not None:
            return replace(
                finding,
                message=f"{finding.message} {words}",
                evidence=finding.evidence | {"cause": cause.code} | cause.evidence,
                causes=(),
                unless=None,
            )
    if not finding.causes and finding.unless is None:
        return finding
    return replace(finding, causes=(), unless=None)
