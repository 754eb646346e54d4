"""One query on several engines, side by side: where they differ, and why."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace

from jentrow.core.comparison.woven import WovenView
from jentrow.core.engines.labels import LABELS, RUNNING
from jentrow.core.engines.protocol import QueryFailure
from jentrow.core.errors import JentrowError
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.grading.other_engines import held_against
from jentrow.core.exercises.ruleset import RuleSet
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.shownrows import ResultView
from jentrow.core.sql.spellings.engine_differences import differences_in
from jentrow.services.samples.catalogue import record_of
from jentrow.services.samples.tried_queries import LIMITS, SHOWN_ROWS
from jentrow.services.scope import CourseScope


@dataclass(frozen=True)
class EngineRun:
    """What a query gives on one engine.

    ``same`` says whether that is what the first engine gave on which it runs; it is None for that
    one, and where it gives nothing. ``woven`` has both, the first's as what is due, where they
    differ. ``why`` are sentences on what the text holds that the two do differently.
    """

    engine: str
    label: str
    version: str
    result: ResultView | None
    message: str
    same: bool | None = None
    woven: WovenView | None = None
    why: tuple[str, ...] = ()


def run_on_engines(
    scope: CourseScope, sample: str, dataset: str, sql: str, engines: Collection[str] = ()
) -> list[EngineRun]:
    """Runs a query on engines, on all that run the text itself unless some are named.

    Nothing is kept of it.
    """
    source = scope.runtime.datasets.source(record_of(scope, sample, dataset))
    wanted = [name for name in RUNNING if not engines or name in engines]
    runs = [_run(scope, source, name, sql) for name in wanted]
    first = next((one for one in runs if one.result is not None), None)
    return [
        one if first is None else _beside(scope, source, sample, sql, first, one) for one in runs
    ]


def _run(scope: CourseScope, source: DatasetSource, name: str, sql: str) -> EngineRun:
    state = scope.runtime.engines.state(name)
    if not state.answers:
        return EngineRun(name, state.label, state.version, None, state.reason)
    engine = scope.runtime.engines.get(name)
    try:
        found = engine.show(engine.load(source), sql, LIMITS, SHOWN_ROWS)
    except JentrowError as problem:
        return EngineRun(name, state.label, state.version, None, str(problem))
    if isinstance(found, QueryFailure):
        return EngineRun(name, state.label, state.version, None, found.message)
    return EngineRun(name, LABELS[name], state.version, found, "")


def _beside(
    scope: CourseScope,
    source: DatasetSource,
    sample: str,
    sql: str,
    first: EngineRun,
    one: EngineRun,
) -> EngineRun:
    """A run, with what differs between it and the first."""
    if one is first:
        return one
    engines = scope.runtime.engines
    why = tuple(differences_in(sql, engines.state(one.engine).dialect, first.engine, one.engine))
    if one.result is None:
        return replace(one, why=why if engines.state(one.engine).answers else ())
    exercise = Exercise(
        "the query", "", "", sample, sql, first.engine, rules=RuleSet(limits=LIMITS)
    )
    try:
        looked = held_against(
            engines.get(first.engine), exercise, source, engines.get(one.engine), sql
        )
    except JentrowError as problem:
        return replace(one, message=str(problem))
    same = looked.outcome.verdict == "correct"
    return replace(one, same=same, woven=None if same else looked.woven, why=() if same else why)
