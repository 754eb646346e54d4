"""A query step by step, on a dataset: for whoever tries one, marks one or writes one."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset, QueryFailure
from jentrow.core.exercises.tracing import TRUTHS, Traced, as_source, trace_query
from jentrow.core.shownrows import ResultView
from jentrow.core.sql.steps import BESIDE
from jentrow.services.samples.catalogue import record_of
from jentrow.services.samples.tried_queries import LIMITS, SHOWN_ROWS
from jentrow.services.scope import CourseScope


@dataclass(frozen=True)
class StepRows:
    """The rows of a step; ``beside`` is what the last column would tell, a value a row."""

    result: ResultView | None
    beside: list[Any]
    message: str


def trace(scope: CourseScope, sample: str, dataset: str, sql: str, engine_name: str) -> Traced:
    """Takes a query apart on a dataset."""
    engine, loaded = _loaded(scope, sample, dataset, engine_name)
    return trace_query(engine, loaded, sql, LIMITS)


def step_rows(
    scope: CourseScope, sample: str, dataset: str, sql: str, engine_name: str, *, beside: bool,
    only: str = "",
) -> StepRows:  # fmt: skip
    """The rows of a step of a trace: see :func:`rows_of_step`."""
    engine, loaded = _loaded(scope, sample, dataset, engine_name)
    return rows_of_step(engine, loaded, sql, LIMITS, beside=beside, only=only)


def _loaded(
    scope: CourseScope, sample: str, dataset: str, name: str
) -> tuple[Engine, LoadedDataset]:
    engine = scope.runtime.engines.get(name)
    return engine, engine.load(scope.runtime.datasets.source(record_of(scope, sample, dataset)))


def rows_of_step(
    engine: Engine,
    loaded: LoadedDataset,
    sql: str,
    limits: Limits,
    *,
    beside: bool,
    only: str = "",
) -> StepRows:
    """The rows of a step; with ``beside`` its last column is taken off.

    ``only`` is one of :data:`TRUTHS`: the rows of a condition that came out so.
    """
    if only:
        value = next(value for value, word in TRUTHS.items() if word == only)
        source = as_source(engine, loaded, sql, limits)
        # One way to ask that every engine has: 1, 0 and true, false are not the same everywhere.
        wanted = {None: f"{BESIDE} IS NULL", 1: BESIDE, 0: f"NOT {BESIDE}"}[value]
        sql = f"SELECT * FROM {source} WHERE {wanted}"
    view = engine.show(loaded, sql, limits, SHOWN_ROWS)
    if isinstance(view, QueryFailure):
        return StepRows(None, [], view.message)
    if not beside:
        return StepRows(view, [], "")
    told = [row[-1] for row in view.rows]
    rest = ResultView(view.columns[:-1], [row[:-1] for row in view.rows], view.row_count)
    return StepRows(rest, told, "")
