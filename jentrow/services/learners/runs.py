"""Queries that a learner runs for trying."""

from __future__ import annotations

from typing import Final

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import QueryFailure
from jentrow.records.contents import core_exercise
from jentrow.services.learners.places import checked_text, place_of
from jentrow.services.runtime.lanes import Lane
from jentrow.services.samples.tried_queries import TriedView
from jentrow.services.scope import LearnerScope

SHOWN_ROWS: Final = 500


RUN_SECONDS: Final = 2.0


RUN_ROWS: Final = 20_000


def run_query(own: LearnerScope, sheet: str, slug: str, sql: str, lane: Lane) -> TriedView:
    """Runs a query on the open dataset, for trying. Raises :class:`TakesLong`."""
    checked_text(sql)
    with own.records.session() as session:
        exercise = place_of(session, own, sheet, slug).exercise
        record = exercise.sample.datasets[0]
        limits = own.runtime.settings.capped(core_exercise(exercise).rules.limits)
    engine = own.runtime.engines.get(exercise.engine, use=lane.use)
    bounds = lane.bounds(
        Limits(min(RUN_SECONDS, limits.seconds), min(RUN_ROWS, limits.rows), limits.memory_mb)
    )
    loaded = engine.load(own.runtime.datasets.source(record))
    outcome = engine.show(loaded, sql, bounds, SHOWN_ROWS)
    lane.check(outcome)
    if isinstance(outcome, QueryFailure):
        return TriedView(None, outcome.verdict, outcome.message, outcome.place, outcome.near)
    return TriedView(outcome, "ran", "", None, "")
