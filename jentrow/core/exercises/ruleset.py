"""The rules of one exercise: how results are compared, and what a query may use."""

from __future__ import annotations

from dataclasses import dataclass, field

from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.engines.limits import Limits


@dataclass(frozen=True, slots=True)
class RuleSet:
    """Comparison rules and limits."""

    comparison: ComparisonRules = field(default_factory=ComparisonRules)
    limits: Limits = field(default_factory=Limits)
