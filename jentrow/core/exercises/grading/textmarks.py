"""What an answer's text comes to under an exercise's construct and layout rules."""

from __future__ import annotations

from fractions import Fraction
from typing import Final

from jentrow.core.comparison.findings import Finding
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.markscheme import Cost, TextParts
from jentrow.core.exercises.textrules import broken_constructs, layout_findings
from jentrow.core.sql.constructs import read_query
from jentrow.core.sql.layout import lay_out
from jentrow.core.sql.scopes import table_columns

KEPT_TEXTS: Final = 2_000


class TextJudge:
    """Judges texts by the rules of one exercise; ``columns`` are those of the sample's tables."""

    def __init__(
        self, exercise: Exercise, dialect: str, columns: tuple[tuple[str, tuple[str, ...]], ...]
    ) -> None:
        self._rules = exercise.constructs
        self._layout = exercise.layout
        self._dialect = dialect
        self._columns = table_columns(columns)
        self.has_rules: Final = bool(self._rules or self._layout.chosen)
        """Whether the text counts at all."""
        self._known: dict[str, tuple[TextParts, list[Finding]]] = {}

    def judge(self, sql: str) -> tuple[TextParts, list[Finding]]:
        """The shares, costs and findings of a text; worked out once for texts that come again."""
        known = self._known.get(sql)
        if known is None:
            if len(self._known) >= KEPT_TEXTS:
                self._known.clear()
            known = self._known[sql] = self._judged(sql)
        return known

    def _judged(self, sql: str) -> tuple[TextParts, list[Finding]]:
        constructs, construct_costs, findings, unread = self._constructs(sql)
        layout, layout_costs, more = self._laid_out(sql)
        parts = TextParts(constructs, layout, construct_costs, layout_costs, unread)
        return parts, [*findings, *more]

    def _constructs(
        self, sql: str
    ) -> tuple[Fraction | None, tuple[Cost, ...], list[Finding], bool]:
        if not self._rules:
            return None, (), [], False
        reading = read_query(sql, self._dialect, self._columns)
        if reading is None:
            return Fraction(0), (), [], True
        broken = broken_constructs(reading, self._rules)
        weights = {id(rule): Fraction(rule.points) or Fraction(1) for rule in self._rules}
        lost = sum((weights[id(rule)] for rule, _ in broken), Fraction(0))
        costs = tuple(Cost(finding.message, rule.points) for rule, finding in broken)
        share = 1 - lost / sum(weights.values())
        return share, costs, [finding for _, finding in broken], False

    def _laid_out(self, sql: str) -> tuple[Fraction | None, tuple[Cost, ...], list[Finding]]:
        rules = self._layout
        if not rules.chosen:
            return None, (), []
        found = layout_findings(lay_out(sql, rules, self._dialect))
        each = round(rules.points / len(rules.chosen), 2)
        costs = tuple(Cost(finding.message, each) for finding in found.values())
        share = 1 - Fraction(len(found), len(rules.chosen))
        return share if rules.points else None, costs, list(found.values())
