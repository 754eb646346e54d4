"""Rules about an answer's text: constructs that are asked for or forbidden, and layout."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Final, Literal, TypeAlias, get_args

from jentrow.core.comparison.findings import Finding
from jentrow.core.mappings import listed, plain_number, read_points, unknown_name
from jentrow.core.sql.constructs import CONSTRUCTS, Reading, Spot, find_construct
from jentrow.core.sql.layout import (
    LAYOUT_WORDS,
    KeywordCase,
    Layout,
    LayoutRule,
    LayoutRules,
)

Demand: TypeAlias = Literal["require", "forbid"]
DEMANDS: Final[tuple[Demand, ...]] = get_args(Demand)
_NAMES: Final = (*DEMANDS, "name", "points", "message")


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


def read_constructs(value: object, problems: list[str]) -> tuple[ConstructRule, ...]:
    """Reads a list of construct rules; what is wrong is added to ``problems``."""
    if value is None:
        return ()
    if not isinstance(value, list):
        problems.append("constructs must be a list of rules, each with require or forbid")
        return ()
    rules = []
    for at, entry in enumerate(value, start=1):
        rule = _read_construct(entry, f"constructs, rule {at}", problems)
        if rule is not None:
            rules.append(rule)
    return tuple(rules)


def _read_construct(entry: object, where: str, problems: list[str]) -> ConstructRule | None:
    if not isinstance(entry, Mapping):
        problems.append(f"{where}: expected a mapping with require or forbid")
        return None
    before = len(problems)
    problems.extend(
        f"{where}: {unknown_name('name', name, _NAMES)}" for name in entry if name not in _NAMES
    )
    demands = [demand for demand in DEMANDS if demand in entry]
    if len(demands) != 1:
        problems.append(f"{where}: expected either require or forbid")
        return None
    demand = demands[0]
    construct = entry[demand]
    if not isinstance(construct, str) or construct not in CONSTRUCTS:
        problems.append(f"{where}: {unknown_name('construct', construct, list(CONSTRUCTS))}")
        return None
    name = str(entry.get("name") or "").strip()
    if CONSTRUCTS[construct].named and not name:
        problems.append(f"{where}: {construct} needs a name: which {construct}")
    if name and not CONSTRUCTS[construct].named:
        problems.append(f"{where}: {construct} takes no name")
    points = read_points(f"{where}: points", entry.get("points", 0), problems)
    if len(problems) > before:
        return None
    return ConstructRule(demand, construct, name, points, str(entry.get("message") or "").strip())


def read_layout(value: object, problems: list[str]) -> LayoutRules:
    """Reads the layout rules; what is wrong is added to ``problems``."""
    if value is None:
        return LayoutRules()
    if not isinstance(value, Mapping):
        problems.append(f"layout must be a mapping with {listed(list(LAYOUT_WORDS))}")
        return LayoutRules()
    chosen: dict[str, Any] = {}
    for name, given in value.items():
        if name == "points":
            chosen[name] = read_points("layout.points", given, problems)
        elif name == "keyword_case":
            if given not in (*get_args(KeywordCase), None):
                problems.append(f"layout.keyword_case is {given!r}, but must be upper or lower")
            else:
                chosen[name] = given
        elif name not in LAYOUT_WORDS:
            problems.append(unknown_name("layout rule", name, (*LAYOUT_WORDS, "points")))
        elif not isinstance(given, bool):
            problems.append(f"layout.{name} is {given!r}, but must be true or false")
        else:
            chosen[name] = given
    return LayoutRules(**chosen)


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
