"""A learner's text laid out tidily: by the exercise's rules, or by the usual ones where it has none."""

from __future__ import annotations

from typing import Final

from jentrow.core.engines.labels import DIALECTS
from jentrow.core.sql.layout import Layout, LayoutRules, lay_out
from jentrow.records.contents import core_exercise
from jentrow.services.learners.places import checked_text, place_of
from jentrow.services.scope import LearnerScope

USUAL: Final = LayoutRules("upper", clause_lines=True, spacing=True, indentation=True)


def tidy_text(own: LearnerScope, sheet: str, slug: str, sql: str) -> Layout:
    """The text as it could be, and what changes; one that cannot be read stays as it is."""
    checked_text(sql)
    with own.records.session() as session:
        exercise = place_of(session, own, sheet, slug).exercise
        rules = core_exercise(exercise).layout
    dialect = DIALECTS[exercise.engine]
    return lay_out(sql, rules if rules.chosen else USUAL, dialect)
