"""Rules about an answer's text: constructs that are asked for or forbidden, and layout."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Final, Literal, TypeAlias, get_args

from jentrow.core.comparison.findings import Finding
from jentrow.core.mappings import plain_number
from jentrow.core.sql.constructs import CONSTRUCTS, Reading, Spot, find_construct
from jentrow.core.sql.layout import (
    LAYOUT_WORDS,
    Layout,
    LayoutRule,
    LayoutRules,
)

Demand: TypeAlias = Literal["require", "forbid"]
DEMANDS: Final[tuple[Demand, ...]] = get_args(Demand)


@dataclass(frozen=True, slots=True)
class ConstructRule:
    """A construct that must be there, or must not.

    ``name`` says which function or table, for the constructs that need one. ``points`` is what
    breaking the rule costs; ``message`` is the instructor's own words for it, if any.
    """

    demand: Demand
    construct: str
    name: str = ""
    points: float = 0.0
    message: str = ""

    @property
    def words(self) -> str:
        """The construct in words, with its name."""
        words = CONSTRUCTS[self.construct].words
        return f"{words} {self.name}" if self.name else words

    def to_mapping(self) -> dict[str, Any]:
        """The rule as it stands in a pack."""
        optional = {"name": self.name, "points": plain_number(self.points), "message": self.message}
        return {self.demand: self.construct} | {k: v for k, v in optional.items() if v}


def layout_to_mapping(rules: LayoutRules) -> dict[str, Any]:
    """The layout rules that count, as they stand in a pack."""
    out: dict[str, Any] = {rule: getattr(rules, rule) for rule in rules.chosen}
    if rules.points:
        out["points"] = plain_number(rules.points)
    return out


def broken_constructs(
    reading: Reading, rules: tuple[ConstructRule, ...]
) -> list[tuple[ConstructRule, Finding]]:
    """The construct rules that a query breaks, each with its finding."""
    broken = []
    for rule in rules:
        spots = find_construct(reading, rule.construct, rule.name)
        if rule.demand == "require" and not spots:
            message = rule.message or f"{_upper(rule.words)} is asked for, and is not there."
            finding = Finding("construct.required", message, evidence={"construct": rule.construct})
            broken.append((rule, finding))
        elif rule.demand == "forbid" and spots:
            message = rule.message or f"{_upper(rule.words)} is not wanted here."
            evidence = {"construct": rule.construct} | _placed(spots[0])
            finding = Finding("construct.forbidden", message, len(spots), evidence=evidence)
            broken.append((rule, finding))
    return broken


def _upper(words: str) -> str:
    return words[:1].upper() + words[1:]


def _placed(spot: Spot) -> dict[str, int]:
    return {"line": spot.place.line, "column": spot.place.column, "length": spot.length}


def layout_findings(layout: Layout) -> dict[LayoutRule, Finding]:
    """One finding for each layout rule that a text does not follow."""
    found: dict[LayoutRule, Finding] = {}
    for rule, words in LAYOUT_WORDS.items():
        changes = [change for change in layout.changes if change.rule == rule]
        if changes:
            first = changes[0]
            message = f"Layout, {words}: {first.message}"
            message += f", and {len(changes) - 1} more." if len(changes) > 1 else "."
            evidence = {"rule": rule, "line": first.place.line, "column": first.place.column}
            found[rule] = Finding("style.layout", message, len(changes), evidence=evidence)
    return found
