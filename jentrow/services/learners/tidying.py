"""A learner's text laid out tidily: by the exercise's rules, or by the usual ones where it has none."""

from __future__ import annotations

from typing import Final

from jentrow.core.engines.labels import DIALECTS
from jentrow.core.errors import UnusableInput
from jentrow.core.sql.layout import Layout, LayoutRules, lay_out
from jentrow.records.contents import core_exercise
from jentrow.services.learners.places import checked_text, place_of
from jentrow.services.scope import LearnerScope

LONGEST_TIDIED: Final = 8_000
USUAL: Final = LayoutRules("upper", clause_lines=True, spacing=True, indentation=True)


def tidy_text(own: LearnerScope, sheet: str, slug: str, sql: str) -> Layout:
    """The text as it could be, and what changes; one that cannot be read stays as it is.

    Raises :class:`UnusableInput` for a text that would keep the server busy.
    """
    if len(checked_text(sql)) > LONGEST_TIDIED:
        raise UnusableInput(f"A text is laid out up to {LONGEST_TIDIED:,} characters.")
    with own.records.session() as session:
        exercise = place_of(session, own, sheet, slug).exercise
        rules = core_exercise(exercise).layout
    dialect = DIALECTS[exercise.engine]
    return lay_out(sql, rules if rules.chosen else USUAL, dialect)
