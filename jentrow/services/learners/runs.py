"""Queries that a learner runs for trying, and the history of them."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

from sqlalchemy.orm import Session

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset, QueryFailure
from jentrow.core.exercises.ruleset import RuleSet
from jentrow.core.exercises.tracing import Traced, trace_query
from jentrow.records.contents import core_exercise, rules_of
from jentrow.records.models import TriedQuery
from jentrow.records.runs import RunsOf, run_numbered, runs_of
from jentrow.services.errors import NotTaken
from jentrow.services.learners.places import checked_text, place_of
from jentrow.services.runtime.engines import translation_of
from jentrow.services.runtime.lanes import Lane
from jentrow.services.samples.steps import StepAsked, StepRows, rows_of_step
from jentrow.services.samples.tried_queries import HistoryLine, TriedView, history_line, named
from jentrow.services.scope import LearnerScope

SHOWN_ROWS: Final = 500


RUN_SECONDS: Final = 2.0


RUN_ROWS: Final = 20_000


STEP_SECONDS: Final = 1.0
"""For each query of a trace, which has several."""


def trying_limits(own: LearnerScope, rules: RuleSet, seconds: float) -> Limits:
    """What a query may use that is tried and not graded: never more than the exercise allows."""
    limits = own.runtime.settings.capped(rules.limits)
    return replace(limits, seconds=min(seconds, limits.seconds), rows=min(RUN_ROWS, limits.rows))


def run_query(own: LearnerScope, sheet: str, slug: str, sql: str, lane: Lane) -> TriedView:
    """Runs a query on the open dataset, for trying. Raises :class:`TakesLong`."""
    checked_text(sql)
    with own.records.session() as session:
        exercise = place_of(session, own, sheet, slug).exercise
        record = exercise.sample.datasets[0]
        bounds = lane.bounds(trying_limits(own, rules_of(exercise), RUN_SECONDS))
    engine = own.runtime.engines.get(exercise.engine, use=lane.use)
    loaded = engine.load(own.runtime.datasets.source(record))
    outcome = engine.show(loaded, sql, bounds, SHOWN_ROWS)
    lane.check(outcome)
    failure = outcome if isinstance(outcome, QueryFailure) else None
    rows = None if isinstance(outcome, QueryFailure) else outcome.row_count
    said = failure.message if failure else ""
    own.runtime.runs.add(
        TriedQuery(
            sample_id=record.sample_id,
            learner_id=own.learner_id,
            exercise_id=exercise.id,
            dataset=record.name,
            sql=sql,
            rows=rows,
            said=said,
            tried_at=own.runtime.now(),
            name="",
        )
    )
    stand_in = translation_of(engine, loaded, sql, failure)
    if isinstance(outcome, QueryFailure):
        return TriedView(None, outcome.verdict, said, outcome.place, outcome.near, *stand_in)
    return TriedView(outcome, "ran", "", None, "", *stand_in)


def trace_own(own: LearnerScope, sheet: str, slug: str, sql: str, lane: Lane) -> Traced:
    """Takes a learner's query apart on the open dataset. Raises :class:`NotTaken`."""
    checked_text(sql)
    engine, loaded, limits = _for_steps(own, sheet, slug, lane)
    return trace_query(engine, loaded, sql, limits)


def own_step_rows(
    own: LearnerScope, sheet: str, slug: str, asked: StepAsked, lane: Lane
) -> StepRows:
    """The rows of a step of a learner's query. Raises :class:`NotTaken`."""
    for sql in (asked.sql, *filter(None, [asked.telling])):
        checked_text(sql)
    engine, loaded, limits = _for_steps(own, sheet, slug, lane)
    return rows_of_step(engine, loaded, asked, limits)


def _for_steps(
    own: LearnerScope, sheet: str, slug: str, lane: Lane
) -> tuple[Engine, LoadedDataset, Limits]:
    with own.records.session() as session:
        exercise = place_of(session, own, sheet, slug).exercise
        core = core_exercise(exercise)
        record = exercise.sample.datasets[0]
    if not core.feedback.steps:
        raise NotTaken("This exercise does not show queries step by step.")
    engine = own.runtime.engines.get(exercise.engine, use=lane.use)
    loaded = engine.load(own.runtime.datasets.source(record))
    return engine, loaded, lane.bounds(trying_limits(own, core.rules, STEP_SECONDS))


def earlier_runs(own: LearnerScope, sheet: str, slug: str) -> list[HistoryLine]:
    """What the learner ran for an exercise, the last first."""
    own.runtime.runs.write()
    with own.records.session() as session:
        return [history_line(one) for one in runs_of(session, _whose(session, own, sheet, slug))]


def name_run(own: LearnerScope, sheet: str, slug: str, number: int, name: str) -> HistoryLine:
    """Gives a run a name, by which it is kept. Raises :class:`NotFound`."""
    with own.records.writing() as session:
        whose = _whose(session, own, sheet, slug)
        return named(run_numbered(session, whose, number), name)


def _whose(session: Session, own: LearnerScope, sheet: str, slug: str) -> RunsOf:
    exercise = place_of(session, own, sheet, slug).exercise
    return RunsOf(exercise.sample_id, own.learner_id, exercise.id)
