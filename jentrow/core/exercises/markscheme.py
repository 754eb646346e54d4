"""The mark scheme: what an answer earns, and the ledger that says so line by line.

Sums are kept in hundredths of a point, so that the lines always add up to the mark.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from typing import Annotated, Any, Final, Literal, TypeAlias, get_args

from annotated_types import Ge, Lt

from jentrow.core.comparison.shares import ResultShares

SchemeKind: TypeAlias = Literal["all_or_nothing", "by_parts"]
Part: TypeAlias = Literal["columns", "rows", "order", "names", "constructs", "layout"]
PARTS: Final[tuple[Part, ...]] = get_args(Part)
PART_WORDS: Final[dict[Part, str]] = {
    "columns": "columns",
    "rows": "rows",
    "order": "order of the rows",
    "names": "column names",
    "constructs": "constructs",
    "layout": "layout",
}
USUAL_WEIGHTS: Final[dict[Part, float]] = {
    "columns": 2, "rows": 6, "order": 1, "names": 1, "constructs": 2, "layout": 1,
}  # fmt: skip
MOST_WEIGHT: Final = 1_000
Share: TypeAlias = Annotated[float, Ge(0), Lt(1)]


@dataclass(frozen=True)
class MarkScheme:
    """All or nothing, or by parts with a weight each.

    A part that an exercise has nothing of (no order, no construct rules) leaves its weight to the
    others. ``one_edit`` and ``two_edits`` are the shares of the points that an answer earns at
    least which so many single edits would make right.
    """

    kind: SchemeKind = "all_or_nothing"
    weights: Mapping[Part, float] = field(default_factory=lambda: dict(USUAL_WEIGHTS))
    one_edit: Share = 0.0
    two_edits: Share = 0.0

    def to_mapping(self) -> dict[str, Any]:
        """The scheme as it stands in a pack; empty for the usual one."""
        away = {name: getattr(self, name) for name in _AWAY if getattr(self, name)}
        if self.kind == "all_or_nothing":
            return away
        return {"scheme": self.kind, "weights": dict(self.weights), **away}


_AWAY: Final = ("one_edit", "two_edits")


@dataclass(frozen=True, slots=True)
class LedgerLine:
    """One line of a ledger: what earned or cost points.

    ``possible`` is what could be earned by it; None where the line only takes off.
    """

    part: str
    message: str
    points: float
    possible: float | None

    def to_json(self) -> dict[str, Any]:
        """The line as JSON."""
        return {
            "part": self.part,
            "message": self.message,
            "points": self.points,
            "possible": self.possible,
        }


@dataclass(frozen=True, slots=True)
class Cost:
    """A rule about the text that was broken: what it takes off, and in which words."""

    message: str
    points: float


@dataclass(frozen=True)
class TextParts:
    """What an answer's text comes to.

    ``constructs`` and ``layout`` are the right shares (None: there are no such rules), the costs
    what breaking the rules takes off where marks are all or nothing. ``unread`` says that the
    parser could not read the text, so that constructs were not checked: their share is then none,
    until an instructor has looked.
    """

    constructs: Fraction | None = None
    layout: Fraction | None = None
    construct_costs: tuple[Cost, ...] = ()
    layout_costs: tuple[Cost, ...] = ()
    unread: bool = False


@dataclass(frozen=True, slots=True)
class Sum:
    """A mark with its ledger; the lines' points add up to it."""

    mark: float
    ledger: tuple[LedgerLine, ...]


def least_for_edits(settled: Sum, points: float, scheme: MarkScheme, edits: int) -> Sum:
    """The same for an answer that one or two single edits would make right: no less than their share."""
    share = scheme.one_edit if edits == 1 else scheme.two_edits
    more = _hundredths(points * share) - _hundredths(settled.mark)
    if more <= 0:
        return settled
    words = "One edit away from right." if edits == 1 else "Two edits away from right."
    line = LedgerLine("near_miss", words, more / 100, None)
    return Sum((_hundredths(settled.mark) + more) / 100, (*settled.ledger, line))


def _hundredths(points: float) -> int:
    return round(points * 100)


def settle(
    points: float, scheme: MarkScheme, verdict: str, shares: ResultShares | None, text: TextParts
) -> Sum:
    """What an answer earns of ``points``; ``shares`` is None where the query gave no result."""
    if shares is None:
        return Sum(0.0, (LedgerLine("result", _NO_RESULT[verdict], 0.0, points),))
    if scheme.kind == "all_or_nothing":
        lines = _all_or_nothing(points, verdict, text)
    else:
        lines = _by_parts(points, scheme, shares, text)
    if text.unread:
        unread = [at for at, line in enumerate(lines) if line.part == "constructs"]
        for at in unread:
            lines[at] = replace(lines[at], message=_UNREAD)
        if not unread:
            lines.append(LedgerLine("constructs", _UNREAD, 0.0, None))
    return Sum(sum(_hundredths(line.points) for line in lines) / 100, tuple(lines))


_NO_RESULT: Final = {
    "error": "The query does not run, and earns nothing.",
    "refused": "The query is refused, and earns nothing.",
    "stopped": "The query was stopped at a limit, and earns nothing.",
}
_UNREAD: Final = "The constructs were not checked: this query could not be read for them. The instructor decides."


def _all_or_nothing(points: float, verdict: str, text: TextParts) -> list[LedgerLine]:
    if verdict != "correct":
        return [LedgerLine("result", "The result is not what is due.", 0.0, points)]
    lines = [LedgerLine("result", "The result is what is due.", points, points)]
    left = _hundredths(points)
    for part, costs in (("constructs", text.construct_costs), ("layout", text.layout_costs)):
        for cost in costs:
            taken = min(_hundredths(cost.points), left)
            left -= taken
            if cost.points:
                lines.append(LedgerLine(part, cost.message, -taken / 100 if taken else 0.0, None))
    return lines


def _by_parts(
    points: float, scheme: MarkScheme, shares: ResultShares, text: TextParts
) -> list[LedgerLine]:
    counted: list[tuple[Part, Fraction]] = []
    found = {
        "columns": shares.columns, "rows": shares.rows, "order": shares.order,
        "names": shares.names, "constructs": text.constructs, "layout": text.layout,
    }  # fmt: skip
    for part in PARTS:
        share = found[part]
        if share is not None and scheme.weights.get(part, 0) > 0:
            # Names, constructs and layout of an answer without one right row earn nothing.
            counted.append((part, share if part == "columns" or shares.rows else Fraction(0)))
    possible = _apportioned(_hundredths(points), [scheme.weights[part] for part, _ in counted])
    lines = []
    for (part, share), whole in zip(counted, possible, strict=True):
        earned = int(share * whole + Fraction(1, 2))
        if share < 1:
            earned = min(earned, max(whole - 1, 0))  # what is not all right never earns it all
        lines.append(LedgerLine(part, _said(part, share), earned / 100, whole / 100))
    return lines


def _said(part: Part, share: Fraction) -> str:
    what, verb = _PART_WORDS[part]
    if share == 1:
        return f"{what} {verb} right."
    if share == 0:
        return f"{what}: nothing right."
    percent = min(max(int(share * 100), 1), 99)
    return f"{what}: {percent} % right."


_PART_WORDS: Final[dict[Part, tuple[str, str]]] = {
    "columns": ("The columns", "are"),
    "rows": ("The rows", "are"),
    "order": ("The order of the rows", "is"),
    "names": ("The column names", "are"),
    "constructs": ("The constructs", "are"),
    "layout": ("The layout", "is"),
}


def _apportioned(whole: int, weights: Sequence[float]) -> list[int]:
    """A whole number split by weights, exactly: the largest remainders get what is left over."""
    total = sum(map(Fraction, weights))
    shares = [Fraction(weight) * whole / total for weight in weights]
    parts = [int(share) for share in shares]
    by_remainder = sorted(range(len(parts)), key=lambda at: (parts[at] - shares[at], at))
    for at in by_remainder[: whole - sum(parts)]:
        parts[at] += 1
    return parts
