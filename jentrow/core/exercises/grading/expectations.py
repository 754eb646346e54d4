"""What an answer is measured by: the reference's result on a dataset, and the freedom in it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Hashable, Sequence
from dataclasses import replace
from typing import Final, Protocol, TypeAlias

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import LoadedDataset, QueryFailure, QueryOutcome
from jentrow.core.errors import ReferenceFails
from jentrow.core.results import Choice, Expectation, ResultSet, Row
from jentrow.core.sql.freedom.ties import (
    changes_by_itself,
    identity,
    keys_are_shown,
    offset_probe,
    ordered_probe,
    repeats_probe,
    stand_together,
    tie_groups,
    unordered_probe,
    whole_groups,
)
from jentrow.core.sql.names import named_columns
from jentrow.core.sql.parsing import parsed
from jentrow.core.sql.shape import QueryShape, shape_of

POOL_FACTOR: Final = 10
"""How much more than an answer the query may use that tells which rows tie."""


class Querying(Protocol):
    """What runs the queries of an expectation: an engine, as far as they need one."""

    @property
    def dialect(self) -> str:
        """The parser's name for its dialect."""

    def as_run(self, dataset: LoadedDataset, sql: str) -> tuple[LoadedDataset, str, str]:
        """What is really run of a text: see :class:`~jentrow.core.engines.protocol.Engine`."""

    def run(self, dataset: LoadedDataset, sql: str, limits: Limits) -> QueryOutcome:
        """Runs one query and fetches its rows."""


def expect(
    engine: Querying, dataset: LoadedDataset, sql: str, limits: Limits, what: str
) -> Expectation:
    """Runs a reference answer (or alternative) and finds which of its rows tie.

    ``what`` names the query in messages. Raises :class:`ReferenceFails` where it does not run.
    """
    outcome = engine.run(dataset, sql, limits)
    if isinstance(outcome, QueryFailure):
        place = f" (line {outcome.place.line})" if outcome.place else ""
        raise ReferenceFails(f"{what} does not run{place}: {outcome.message}")
    named = named_columns(sql, outcome.names, dataset.columns, engine.dialect)
    dataset, sql, dialect = engine.as_run(dataset, sql)
    shape = shape_of(sql, dialect)
    columns = tuple(
        replace(column, named=is_named)
        for column, is_named in zip(outcome.columns, named, strict=True)
    )
    expectation = Expectation(ResultSet(columns, outcome.rows), shape.ordered)
    if not (shape.ordered or shape.limited):
        return expectation
    # More rows tie than are kept, and no learner waits for them: more of them may be fetched.
    wider = replace(limits, rows=POOL_FACTOR * limits.rows, seconds=POOL_FACTOR * limits.seconds)
    return _TieSearch(engine, dataset, shape, expectation, wider, dialect).freedom()


class _TieSearch:
    """The search for what a reference answer leaves open on one dataset."""

    def __init__(
        self,
        engine: Querying,
        dataset: LoadedDataset,
        shape: QueryShape,
        expectation: Expectation,
        limits: Limits,
        dialect: str,
    ) -> None:
        self._engine, self._dataset, self._limits = engine, dataset, limits
        self._dialect = dialect
        self._shape, self._expectation = shape, expectation
        self._rows = expectation.result.rows
        self._width = len(expectation.result.columns)
        self._texts = [
            name if any(isinstance(value, str) for value in values) else ""
            for name, values in zip(
                expectation.result.names, expectation.result.columns_of_values(), strict=True
            )
        ]

    def freedom(self) -> Expectation:
        """The expectation with its tie groups and choices, or with the word that they are not known."""
        shape = self._shape
        if not self._rows:  # the LIMIT left nothing, and so there is nothing to choose
            return replace(self._expectation, ranks=())
        offset = self._offset()
        if (
            offset is None
            or changes_by_itself(shape.sql, self._dialect)
            or not self._keys_are_single()
        ):
            return self._unknown()
        pool = self._pool(offset + len(self._rows))
        found = None if pool is None else _ties_in(*pool, self._rows, offset)
        if found is None:
            return self._unknown()
        ranks, choices = found
        free = shape.ordered or choices
        return replace(self._expectation, ranks=ranks if free else None, choices=choices)

    def _unknown(self) -> Expectation:
        """Ties are not known; with a LIMIT, any rows before it may be among those that tie."""
        expectation = replace(self._expectation, ties_known=False)
        if not self._shape.limited:
            return expectation
        pool = self._any_rows()
        found = None if pool is None else _ties_in(pool, [0] * len(pool), self._rows, 0)
        if found is None:
            return replace(expectation, pool_known=False)
        return replace(expectation, choices=found[1])

    def _any_rows(self) -> Sequence[Row] | None:
        """The rows without their order, LIMIT aside."""
        return self._run(unordered_probe(self._shape, self._limits.rows + 1))

    def _run(self, sql: str) -> Sequence[Row] | None:
        outcome = self._engine.run(self._dataset, sql, self._limits)
        return None if isinstance(outcome, QueryFailure) else outcome.rows

    def _offset(self) -> int | None:
        if self._shape.offset.isdigit():
            return int(self._shape.offset)
        rows = self._run(offset_probe(self._shape))
        if not rows or not isinstance(rows[0][0], int):
            return None
        return max(0, rows[0][0])

    def _both_ways(self, *, repeats: bool = False, limit: int | None = None) -> _Pool | None:
        """The rows with their tie groups; None where the two runs do not tell them."""
        found = self._told_apart(self._texts, repeats=repeats, limit=limit)
        if found is None and any(self._texts):
            # What an aggregate gives cannot be sorted by its characters everywhere.
            return self._told_apart([""] * self._width, repeats=repeats, limit=limit)
        return found

    def _told_apart(
        self, names: Sequence[str], *, repeats: bool, limit: int | None
    ) -> _Pool | None:
        sides = []
        for falling in (False, True):
            sql = ordered_probe(
                self._shape, names, self._dialect, falling=falling,
                repeats=repeats, limit=limit,
            )  # fmt: skip
            rows = self._run(sql)
            if rows is None:
                return None
            sides.append(rows)
        rising, falling_rows = sides
        ranks = tie_groups(rising, falling_rows)
        if ranks is None and limit is not None and len(rising) == len(falling_rows) == limit:
            # The limit cut a group: its part is left out, and whoever asks asks for more rows.
            whole = whole_groups(rising, falling_rows)
            return rising[: len(whole)], whole
        return None if ranks is None else (rising, ranks)

    def _pool(self, needed: int) -> _Pool | None:
        """At least the ``needed`` first rows, LIMIT aside, up to the end of a tie group."""
        shape = self._shape
        if not shape.ordered:
            rows = self._any_rows()
            return None if rows is None else (rows, [1] * len(rows))
        if not shape.limited:
            return self._both_ways()
        limit = 4 * needed + 64
        while True:
            limit = min(limit, self._limits.rows)
            pool = self._both_ways(limit=limit)
            if pool is None or len(pool[1]) >= needed or limit == self._limits.rows:
                return pool
            limit *= 8

    def _keys_are_single(self) -> bool:
        """Whether each row has one place: rows that DISTINCT made one may differ in their keys."""
        shape = self._shape
        if shape.distinct is None or not shape.ordered:
            return True
        if keys_are_shown(parsed(shape.sql, self._dialect)):
            return True
        repeated = self._both_ways(repeats=True)
        numbered = self._run(repeats_probe(shape, self._width))
        if repeated is None or numbered is None:
            return False
        number = {row[:-1]: row[-1] for row in numbered}
        rows, ranks = repeated
        return stand_together([number.get(row) for row in rows], ranks)


_Pool: TypeAlias = tuple[Sequence[Row], Sequence[int]]
"""Rows, LIMIT aside, and the tie group of each."""


def _ties_in(
    pool: Sequence[Row], ranks: Sequence[int], rows: Sequence[Row], offset: int
) -> tuple[tuple[int, ...], tuple[Choice, ...]] | None:
    """The tie group of each row, and the rows that tie with it but were passed over.

    None where the pool's rows are not the original's: then they change from run to run.
    """
    if len(pool) < offset + len(rows):
        return None
    own_ranks = tuple(ranks[offset : offset + len(rows)])
    kept: dict[int, Counter[Hashable]] = {}
    for row, rank in zip(rows, own_ranks, strict=True):
        kept.setdefault(rank, Counter())[identity(row)] += 1
    choices: list[Choice] = []
    for row, rank in zip(pool, ranks, strict=True):
        held = kept.get(rank)
        if held is None:
            continue
        if held[identity(row)] > 0:
            held[identity(row)] -= 1
        else:
            choices.append(Choice(rank, row))
    if any(any(held.values()) for held in kept.values()):
        return None
    return own_ranks, tuple(choices)
