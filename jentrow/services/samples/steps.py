"""A query step by step, on a dataset: for whoever tries one, marks one or writes one."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset, QueryFailure
from jentrow.core.exercises.tracing import TRUTHS, Traced, as_source, trace_query
from jentrow.core.samples.rows.edits import Insert
from jentrow.core.shownrows import ResultView
from jentrow.core.sql.steps.queries import BESIDE
from jentrow.services.samples.catalogue import record_of
from jentrow.services.samples.tried_queries import LIMITS, SHOWN_ROWS
from jentrow.services.scope import CourseScope


@dataclass(frozen=True)
class StepAsked:
    """Which rows of a step are wanted.

    ``telling`` gives the rows of ``sql`` with ``told`` further columns, where that runs. With
    ``beside`` the last column of either stands beside the rows. ``only`` is one of :data:`TRUTHS`:
    the rows of a condition that came out so.
    """

    sql: str
    beside: bool = False
    only: str = ""
    telling: str = ""
    told: int = 0


@dataclass(frozen=True)
class StepRows:
    """The rows of a step; ``beside`` is what the last column would tell, a value a row.

    ``told`` has, for each row, the values of its further columns; nothing where there are none.
    """

    result: ResultView | None
    beside: list[Any]
    message: str
    told: list[list[Any]] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Stage:
    """What a query is taken apart on: a dataset of a sample, and the engine that runs it.

    ``added`` are rows that somebody adds to see what becomes of them; the dataset stays as it is.
    ``minds_case``: LIKE tells capitals from small letters, as an exercise may say.
    """

    sample: str
    dataset: str
    engine: str
    added: tuple[Insert, ...] = ()
    minds_case: bool = False

    @property
    def limits(self) -> Limits:
        """What each query may use."""
        return replace(LIMITS, minds_case=self.minds_case)


def trace(scope: CourseScope, stage: Stage, sql: str) -> Traced:
    """Takes a query apart on a dataset. Raises :class:`RefusedEdit` for a row that does not fit."""
    engine, loaded = _loaded(scope, stage)
    return trace_query(engine, loaded, sql, stage.limits)


def step_rows(scope: CourseScope, stage: Stage, asked: StepAsked) -> StepRows:
    """The rows of a step of a trace: see :func:`rows_of_step`."""
    engine, loaded = _loaded(scope, stage)
    return rows_of_step(engine, loaded, asked, stage.limits)


def _loaded(scope: CourseScope, stage: Stage) -> tuple[Engine, LoadedDataset]:
    engine = scope.runtime.engines.get(stage.engine)
    record = record_of(scope, stage.sample, stage.dataset)
    return engine, engine.load(scope.runtime.datasets.source_with_rows(record, stage.added))


def rows_of_step(
    engine: Engine, loaded: LoadedDataset, asked: StepAsked, limits: Limits
) -> StepRows:
    """The rows of a step, with what further columns tell of them where the engine takes those."""
    if asked.told and asked.telling:
        view = _shown(engine, loaded, asked.telling, asked.only, limits)
        if not isinstance(view, QueryFailure):
            return _taken_apart(view, asked.told, beside=asked.beside)
    view = _shown(engine, loaded, asked.sql, asked.only, limits)
    if isinstance(view, QueryFailure):
        return StepRows(None, [], view.message)
    return _taken_apart(view, 0, beside=asked.beside)


def _shown(
    engine: Engine, loaded: LoadedDataset, sql: str, only: str, limits: Limits
) -> ResultView | QueryFailure:
    if only:
        value = next(value for value, word in TRUTHS.items() if word == only)
        source = as_source(engine, loaded, sql, limits)
        # One way to ask that every engine has: 1, 0 and true, false are not the same everywhere.
        wanted = {None: f"{BESIDE} IS NULL", 1: BESIDE, 0: f"NOT {BESIDE}"}[value]
        sql = f"SELECT * FROM {source} WHERE {wanted}"
    return engine.show(loaded, sql, limits, SHOWN_ROWS)


def _taken_apart(view: ResultView, told: int, *, beside: bool) -> StepRows:
    """Rows without what the last columns tell of them, and that by itself."""
    width = len(view.columns) - told - beside
    return StepRows(
        ResultView(view.columns[:width], [row[:width] for row in view.rows], view.row_count),
        [row[-1] for row in view.rows] if beside else [],
        "",
        [row[width : width + told] for row in view.rows] if told else [],
    )
