"""An engine that remembers: the same query on the same data is not executed twice."""

from __future__ import annotations

import threading
from collections.abc import Iterator, Sequence
from operator import itemgetter
from pathlib import Path
from typing import Any, Final, TypeAlias

from cachetools import LRUCache

from jentrow.core.engines.copy_answers import CopyPage
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import (
    Capabilities,
    Engine,
    Judging,
    LoadedDataset,
    Measure,
    QueryFailure,
    QueryOutcome,
    StatementDone,
)
from jentrow.core.results import text_size
from jentrow.core.samples.schema.tables import CountedTable
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.shownrows import ResultView
from jentrow.core.sql.freedom.moments import hangs_on_the_moment

KEPT_CELLS: Final = 2_000_000
"""Values that are kept altogether; what was asked for longest ago goes first."""

_Key: TypeAlias = tuple[str, str, Limits]


class OutcomeMemory:
    """What queries gave, up to a number of cells; what was asked for longest ago goes first.

    Safe to share between threads.
    """

    def __init__(self, kept_cells: int) -> None:
        self._most = kept_cells // 4
        self._known: LRUCache[_Key, tuple[int, QueryOutcome]] = LRUCache(
            kept_cells, getsizeof=itemgetter(0)
        )
        self._lock = threading.Lock()

    def recall(self, key: _Key) -> QueryOutcome | None:
        """What a query gave before."""
        with self._lock:
            known = self._known.get(key)
        return None if known is None else known[1]

    def keep(self, key: _Key, outcome: QueryOutcome) -> None:
        """Remembers what a query gave, unless that is too large."""
        size = cells_of(outcome)
        if size > self._most:
            return
        with self._lock:
            self._known[key] = size, outcome

    def clear(self) -> None:
        """Forgets."""
        with self._lock:
            self._known.clear()


class RememberingEngine:
    """Another engine's outcomes, remembered by dataset, text and limits.

    What hangs on the clock or on chance is not remembered.
    ``fresh`` is the engine itself, for queries that ought to run whenever they are asked for.
    Safe to share between threads.
    """

    def __init__(self, engine: Engine, kept_cells: int = KEPT_CELLS) -> None:
        self.fresh = engine
        self._memory = OutcomeMemory(kept_cells)

    @property
    def name(self) -> str:
        """The name of the engine that runs."""
        return self.fresh.name

    @property
    def dialect(self) -> str:
        """The parser's name for its dialect."""
        return self.fresh.dialect

    @property
    def capabilities(self) -> Capabilities:
        """What it is called, and what it can and cannot do."""
        return self.fresh.capabilities

    @property
    def version(self) -> str:
        """Its version."""
        return self.fresh.version

    def ask_version(self) -> str:
        """Its version, asked for now."""
        return self.fresh.ask_version()

    def as_run(self, dataset: LoadedDataset, sql: str) -> tuple[LoadedDataset, str, str]:
        """What is really run of a text."""
        return self.fresh.as_run(dataset, sql)

    def load(self, dataset: DatasetSource) -> LoadedDataset:
        """Makes a dataset ready."""
        return self.fresh.load(dataset)

    def run(self, dataset: LoadedDataset, sql: str, limits: Limits) -> QueryOutcome:
        """Runs one query, or gives what it gave before."""
        ((_, outcome),) = self.run_many(dataset, [sql], limits)
        return outcome

    def run_many(
        self, dataset: LoadedDataset, queries: Sequence[str], limits: Limits
    ) -> Iterator[tuple[int, QueryOutcome]]:
        """Runs the queries that are new; yields each one's index and outcome once."""
        waiting: list[int] = []
        for at, sql in enumerate(queries):
            known = self._memory.recall((f"{dataset.engine} {dataset.key}", sql, limits))
            if known is None:
                waiting.append(at)
            else:
                yield at, known
        texts = [queries[at] for at in waiting]
        for place, outcome in self.fresh.run_many(dataset, texts, limits) if texts else ():
            if not hangs_on_the_moment(texts[place], self.dialect):
                key = (f"{dataset.engine} {dataset.key}", texts[place], limits)
                self._memory.keep(key, outcome)
            yield waiting[place], outcome

    def make_copy(self, source: DatasetSource, copy: Path) -> None:
        """Makes a learner's own copy of a dataset."""
        self.fresh.make_copy(source, copy)

    def drop_copy(self, copy: Path) -> None:
        """Deletes a copy."""
        self.fresh.drop_copy(copy)

    def copy_began(self, source: DatasetSource, copy: Path) -> int:
        """How many bytes a copy of a dataset began with."""
        return self.fresh.copy_began(source, copy)

    def copy_bytes(self, copy: Path) -> int:
        """How many bytes a copy takes up."""
        return self.fresh.copy_bytes(copy)

    def change(
        self, copy: Path, script: str, limits: Limits, most_bytes: int
    ) -> list[StatementDone] | QueryFailure:
        """Runs statements on a learner's own copy: nothing of that is remembered."""
        return self.fresh.change(copy, script, limits, most_bytes)

    def copy_tables(self, copy: Path) -> list[CountedTable]:
        """The tables of a copy, as they are now."""
        return self.fresh.copy_tables(copy)

    def copy_rows(self, copy: Path, table: str, offset: int, limit: int) -> CopyPage | None:
        """Rows of a table of a copy, as they are now."""
        return self.fresh.copy_rows(copy, table, offset, limit)

    def show(
        self, dataset: LoadedDataset, sql: str, limits: Limits, most: int
    ) -> ResultView | QueryFailure:
        """Runs one query whose first rows are looked at."""
        return self.fresh.show(dataset, sql, limits, most)

    def same_rows(
        self, dataset: LoadedDataset, queries: tuple[str, str], limits: Limits
    ) -> bool | QueryFailure:
        """Whether two queries give the same rows, in any order."""
        return self.fresh.same_rows(dataset, queries, limits)

    def keep_measure(self, measure: Measure) -> Path:
        """Lays a measure where the worker processes find it."""
        return self.fresh.keep_measure(measure)

    def judge(
        self, measure: Measure, path: Path, texts: Sequence[str], how: Judging
    ) -> Iterator[tuple[int, Any]]:
        """Runs and judges answers where the data is."""
        return self.fresh.judge(measure, path, texts, how)

    def close(self) -> None:
        """Ends the engine, and forgets."""
        self._memory.clear()
        self.fresh.close()


_CELL: Final = 64
"""Bytes of text that count as one more cell."""


def cells_of(outcome: QueryOutcome) -> int:
    """How many cells a result counts as, long texts counting for more; a failure for one."""
    if isinstance(outcome, QueryFailure):
        return 1
    texts = text_size(outcome.rows)
    return 1 + len(outcome.rows) * max(1, len(outcome.columns)) + texts // _CELL
