"""The routes about queries that an instructor tries on a dataset."""

from __future__ import annotations

from jentrow.api import query_schemas
from jentrow.api.access import Number, SampleName, Teaching
from jentrow.api.routers import DATASET, teaching_router
from jentrow.services.samples import engine_runs, tried_queries
from jentrow.services.samples.tried_queries import HistoryLine

router = teaching_router("/samples")


@router.get("/{sample}/queries")
def history(sample: SampleName, scope: Teaching) -> list[HistoryLine]:
    """The queries tried on a sample, the last first."""
    return tried_queries.history(scope, sample)


@router.put("/{sample}/queries/{run_id}")
def name_run(
    sample: SampleName, run_id: Number, given: query_schemas.RunName, scope: Teaching
) -> HistoryLine:
    """Gives a query of the history a name, by which it is kept."""
    return tried_queries.name_run(scope, sample, run_id, given.name)


@router.post(DATASET + "/queries")
def try_query(
    sample: SampleName, dataset: str, given: query_schemas.QueryOn, scope: Teaching
) -> query_schemas.Tried:
    """Runs a query; its rows, or what is wrong with it."""
    return query_schemas.Tried.model_validate(
        tried_queries.try_query(scope, sample, dataset, given.sql, given.engine)
    )


@router.post(DATASET + "/queries/engines")
def run_on_engines(
    sample: SampleName, dataset: str, given: query_schemas.Query, scope: Teaching
) -> list[query_schemas.EngineRun]:
    """One query on every engine, each held against the first."""
    found = engine_runs.run_on_engines(scope, sample, dataset, given.sql)
    return [query_schemas.EngineRun.model_validate(one) for one in found]


@router.post(DATASET + "/queries/comparison")
def compare_queries(
    sample: SampleName, dataset: str, given: query_schemas.TwoQueries, scope: Teaching
) -> query_schemas.Compared:
    """Two queries' results as one woven table."""
    found = tried_queries.compare_queries(scope, sample, dataset, given.first, given.second)
    return query_schemas.Compared.model_validate(found)
