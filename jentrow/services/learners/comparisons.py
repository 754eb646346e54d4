"""Two texts of a learner's own held against each other: their words, and the rows they give."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jentrow.core.comparison.woven import WovenView
from jentrow.core.engines.protocol import QueryFailure
from jentrow.core.errors import ReferenceFails
from jentrow.core.exercises.ruleset import RuleSet
from jentrow.core.samples.sources import SampleSource
from jentrow.records.contents import rules_of
from jentrow.services.learners.places import checked_text, place_of
from jentrow.services.learners.runs import RUN_SECONDS, trying_limits
from jentrow.services.runtime.lanes import UNHURRIED
from jentrow.services.samples.tried_queries import compared
from jentrow.services.scope import LearnerScope


@dataclass(frozen=True)
class OwnComparison:
    """The rows of two texts, woven.

    The first stands on the side of what is due. ``message`` says in words what differs, or why
    there are no rows to weave.
    """

    same: bool
    woven: WovenView | None
    message: str


def compare_own(own: LearnerScope, sheet: str, slug: str, first: str, second: str) -> OwnComparison:
    """Compares two texts on the open dataset of an exercise. Raises :class:`NotTaken`."""
    for sql in (first, second):
        checked_text(sql)
    with own.records.session() as session:
        exercise = place_of(session, own, sheet, slug).exercise
        bounds = trying_limits(own, rules_of(exercise), RUN_SECONDS)
        record = exercise.sample.datasets[0]
    engine = own.runtime.engines.get(exercise.engine, use=UNHURRIED.use)
    source = own.runtime.datasets.source(record)
    ran = engine.show(engine.load(source), first, bounds, 0)
    if isinstance(ran, QueryFailure):
        return OwnComparison(False, None, f"The first text does not run: {ran.message}")
    sample = SampleSource(exercise.sample.name, (source,))
    try:
        found = compared(engine, sample, first, second, replace(RuleSet(), limits=bounds))
    except ReferenceFails as problem:
        return OwnComparison(False, None, f"The rows cannot be held side by side: {problem}")
    return OwnComparison(found.same, found.woven, found.message)
