"""The rules of one exercise as a file holds them: comparison rules, and limits beside them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path

from jentrow.core.comparison.rules import ComparisonRules, read_comparison_rules
from jentrow.core.engines.limits import Limits, read_limits
from jentrow.core.errors import InvalidRules
from jentrow.core.yamlfiles import NotYAML, read_yaml


@dataclass(frozen=True, slots=True)
class RuleSet:
    """Comparison rules and limits."""

    comparison: ComparisonRules = field(default_factory=ComparisonRules)
    limits: Limits = field(default_factory=Limits)


def read_rules(mapping: object, where: str = "the rules") -> RuleSet:
    """Reads a flat mapping of the rules' names to their values, and ``limits``.

    ``where`` names the source in messages. Raises :class:`InvalidRules` with every problem found.
    """
    if mapping is None:
        return RuleSet()
    if not isinstance(mapping, Mapping):
        raise InvalidRules(f"{where}: expected a mapping of rule names to values.")
    problems: list[str] = []
    limits = read_limits(mapping["limits"], problems) if "limits" in mapping else Limits()
    comparison = read_comparison_rules(mapping, problems, beside=("limits",))
    if problems:
        raise InvalidRules(f"{where}: " + "; ".join(problems) + ".")
    # It says how queries run, and goes with what bounds them.
    return RuleSet(comparison, replace(limits, minds_case=comparison.like_case == "exact"))


def read_rules_file(path: Path) -> RuleSet:
    """Reads RULES.yaml. Raises :class:`InvalidRules` or :class:`UnreadableFile`."""
    try:
        mapping = read_yaml(path)
    except NotYAML as problem:
        raise InvalidRules(f"{path}: not YAML ({problem}).") from problem
    return read_rules(mapping, str(path))
