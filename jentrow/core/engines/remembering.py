"""An engine that remembers: the same query on the same data is not executed twice."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Final, TypeAlias

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import (
    Engine,
    LoadedDataset,
    QueryFailure,
    QueryOutcome,
    StatementDone,
)
from jentrow.core.samples.sources import DatasetSource

KEPT_CELLS: Final = 2_000_000
"""Values that are kept altogether; what was asked for longest ago goes first."""

_Key: TypeAlias = tuple[str, str, Limits]


class RememberingEngine:
    """Another engine's outcomes, remembered by dataset, text and limits.

    ``fresh`` is the engine itself, for queries that ought to run whenever they are asked for. A
    rule that is turned then judges again, and executes nothing. Safe to share between threads.
    """

    def __init__(self, engine: Engine, kept_cells: int = KEPT_CELLS) -> None:
        self.fresh = engine
        self._kept_cells = kept_cells
        self._cells = 0
        self._known: OrderedDict[_Key, QueryOutcome] = OrderedDict()
        self._lock = threading.Lock()

    @property
    def name(self) -> str:
        """The name of the engine that runs."""
        return self.fresh.name

    @property
    def dialect(self) -> str:
        """The parser's name for its dialect."""
        return self.fresh.dialect

    @property
    def version(self) -> str:
        """Its version."""
        return self.fresh.version

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
            known = self._recall((dataset.key, sql, limits))
            if known is None:
                waiting.append(at)
            else:
                yield at, known
        texts = [queries[at] for at in waiting]
        for place, outcome in self.fresh.run_many(dataset, texts, limits) if texts else ():
            self._keep((dataset.key, texts[place], limits), outcome)
            yield waiting[place], outcome

    def change(
        self, copy: Path, script: str, limits: Limits, most_bytes: int
    ) -> list[StatementDone] | QueryFailure:
        """Runs statements on a learner's own copy: nothing of that is remembered."""
        return self.fresh.change(copy, script, limits, most_bytes)

    def _recall(self, key: _Key) -> QueryOutcome | None:
        with self._lock:
            if key in self._known:
                self._known.move_to_end(key)
            return self._known.get(key)

    def _keep(self, key: _Key, outcome: QueryOutcome) -> None:
        size = _size(outcome)
        if size > self._kept_cells // 4:
            return
        with self._lock:
            before = self._known.pop(key, None)
            self._known[key] = outcome
            self._cells += size - (0 if before is None else _size(before))
            while self._cells > self._kept_cells:
                _, oldest = self._known.popitem(last=False)
                self._cells -= _size(oldest)

    def close(self) -> None:
        """Ends the engine, and forgets."""
        self._known.clear()
        self.fresh.close()


def _size(outcome: QueryOutcome) -> int:
    if isinstance(outcome, QueryFailure):
        return 1
    return 1 + len(outcome.rows) * max(1, len(outcome.columns))
