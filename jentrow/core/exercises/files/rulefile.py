"""The rules of one exercise as a file holds them: comparison rules, and limits beside them."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Annotated, Any, Final

from pydantic import BeforeValidator, Field

from jentrow.core.comparison.rules import ComparisonRules, NumberTolerance
from jentrow.core.declared import Declared, mapping_of, wrong
from jentrow.core.engines.limits import Limits
from jentrow.core.errors import InvalidRules
from jentrow.core.exercises.ruleset import RuleSet
from jentrow.core.yamlfiles import NotYAML, read_yaml


def _bounded(tolerance: Any) -> Any:
    if tolerance == {}:
        raise wrong("needs absolute, relative, or both")
    return tolerance


def _rule_set(limits: Limits | None = None, **rules: Any) -> RuleSet:
    comparison = ComparisonRules(**rules)
    # It says how queries run, and goes with what bounds them.
    minds_case = comparison.like_case == "exact"
    return RuleSet(comparison, replace(limits or Limits(), minds_case=minds_case))


_TOLERANCE: Final = Annotated[
    mapping_of(NumberTolerance),
    BeforeValidator(_bounded),
    Field(json_schema_extra={"minProperties": 1}),
]

RULES: Final = mapping_of(
    ComparisonRules,
    _rule_set,
    number_tolerance=_TOLERANCE,
    limits=mapping_of(Limits, leaving_out=("patience", "minds_case")),
)
"""A flat mapping of the rules' names to their values, and ``limits``."""

_DECLARED: Final = Declared[RuleSet](RULES, RuleSet)


def read_rules(mapping: object, where: str = "the rules") -> RuleSet:
    """Reads rules; ``where`` names the source in messages.

    Raises :class:`InvalidRules` with every problem found.
    """
    problems: list[str] = []
    rules = _DECLARED.read(mapping, problems)
    if problems:
        raise InvalidRules(f"{where}: " + "; ".join(problems) + ".")
    return rules


def read_rules_file(path: Path) -> RuleSet:
    """Reads RULES.yaml. Raises :class:`InvalidRules` or :class:`UnreadableFile`."""
    try:
        mapping = read_yaml(path)
    except NotYAML as problem:
        raise InvalidRules(f"{path}: not YAML ({problem}).") from problem
    return read_rules(mapping, str(path))
