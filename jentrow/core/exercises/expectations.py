"""What an answer is measured by: the reference's result on a dataset, and the freedom in it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Hashable, Sequence
from dataclasses import replace
from itertools import groupby
from typing import Final

from jentrow.core.comparison.cells import CellComparison
from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset, QueryFailure
from jentrow.core.errors import ReferenceFails
from jentrow.core.results import Choice, Column, Expectation, ResultSet, Row
from jentrow.core.sql.shape import QueryShape, shape_of, unnamed_columns
from jentrow.core.sql.ties import ranked_queries

POOL_FACTOR: Final = 10
"""How much more than an answer the query may use that tells which rows tie."""


def expect(
    engine: Engine, dataset: LoadedDataset, sql: str, limits: Limits, what: str
) -> Expectation:
    """Runs a reference answer (or alternative) and finds which of its rows tie.

    ``what`` names the query in messages. Raises :class:`ReferenceFails` where it does not run.
    """
    outcome = engine.run(dataset, sql, limits)
    if isinstance(outcome, QueryFailure):
        place = f" (line {outcome.place.line})" if outcome.place else ""
        raise ReferenceFails(f"{what} does not run{place}: {outcome.message}")
    shape = shape_of(sql, engine.dialect)
    made_up = unnamed_columns(shape.tree, outcome.names)
    columns = tuple(Column(name, at not in made_up) for at, name in enumerate(outcome.names))
    result = ResultSet(columns, outcome.rows)
    expectation = Expectation(result, shape.ordered)
    if not (shape.ordered or shape.limited):
        return expectation
    return _with_ties(engine, dataset, shape, expectation, limits)


def _with_ties(
    engine: Engine,
    dataset: LoadedDataset,
    shape: QueryShape,
    expectation: Expectation,
    limits: Limits,
) -> Expectation:
    rows = expectation.result.rows
    if not rows:  # the LIMIT left nothing, and so there is nothing to choose
        return replace(expectation, ranks=())
    # More rows tie than are kept, and no learner waits for them: more of them may be fetched.
    wider = replace(limits, rows=POOL_FACTOR * limits.rows, seconds=POOL_FACTOR * limits.seconds)
    for ranked in ranked_queries(shape, expectation.result.names, engine.dialect):
        offset = _offset(engine, dataset, ranked.offset, limits)
        if offset is None:
            continue
        sql = ranked.up_to(offset + len(rows)) if shape.limited else ranked.sql
        pool = engine.run(dataset, sql, wider)
        if isinstance(pool, QueryFailure):
            continue
        found = _ties_in(pool.rows, rows, offset)
        if found is not None:
            ranks, choices = found
            return replace(
                expectation, ranks=ranks if shape.ordered or choices else None, choices=choices
            )
    return replace(expectation, ties_known=False)


def _offset(engine: Engine, dataset: LoadedDataset, sql: str, limits: Limits) -> int | None:
    if sql.isdigit():
        return int(sql)
    outcome = engine.run(dataset, f"SELECT {sql}", limits)
    if isinstance(outcome, QueryFailure) or not isinstance(outcome.rows[0][0], int):
        return None
    return max(0, outcome.rows[0][0])


def _ties_in(
    pool: Sequence[Row], rows: Sequence[Row], offset: int
) -> tuple[tuple[int, ...], tuple[Choice, ...]] | None:
    """The tie group of each row, and the rows that tie with it but were passed over.

    None where the pool's rows are not the original's: then the rewriting went wrong.
    """
    if len(pool) < offset + len(rows):
        return None
    ranks = tuple(row[-1] for row in pool[offset : offset + len(rows)])
    key = CellComparison(ComparisonRules()).row_key
    kept: dict[int, Counter[Hashable]] = {}
    for row, rank in zip(rows, ranks, strict=True):
        kept.setdefault(rank, Counter())[key(row)] += 1
    choices: list[Choice] = []
    for rank, group in groupby(pool, key=lambda row: row[-1]):
        if rank not in kept:
            continue
        held = kept[rank]
        for *values, _ in group:
            row = tuple(values)
            if held[key(row)] > 0:
                held[key(row)] -= 1
            else:
                choices.append(Choice(rank, row))
        if any(held.values()):
            return None
    return ranks, tuple(choices)
