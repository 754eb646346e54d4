"""An engine whose queries run in worker processes: what all engines have in common."""

from __future__ import annotations

import os
import pickle
import tempfile
import threading
from collections.abc import Callable, Iterator, Sequence
from itertools import count
from pathlib import Path
from typing import Any, Final

from jentrow.core.engines.answers import AWAY, SAME, SHOWN, Answer
from jentrow.core.engines.labels import DIALECTS
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.outcomes import failure_of, outcome_of, stopped, unusable
from jentrow.core.engines.protocol import (
    Capabilities,
    DatasetParts,
    Judging,
    LoadedDataset,
    Measure,
    QueryFailure,
    QueryOutcome,
)
from jentrow.core.engines.worker_module import WORKER_MODULE
from jentrow.core.errors import (
    EngineInterrupted,
    EngineUnavailable,
    InvalidSample,
    ReferenceFails,
)
from jentrow.core.processes.crossing import LatelyUnpacked, packed, unpacked
from jentrow.core.processes.workers import WorkerLost, WorkerPool
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.shownrows import ResultView

_BATCH: Final = 64
_LOAD_SECONDS: Final = 300.0
CHECKING_SECONDS: Final = 60.0
LOOKING_SECONDS: Final = 45.0
"""What looking for more than an outcome may add: each search is bounded well below."""

LOADING_SECONDS: Final = 0.3
"""What taking up a measure may add to the first answer that a process judges by it."""

INTERRUPTED: Final = (
    "the process that ran the query was ended before it answered; nothing is known of the query. "
    "Run it again."
)
COMPARED_TOO_LONG: Final = "its result takes too long to be compared, even with itself."

_MEASURES: Final = "measures"
_NUMBERS: Final = count(1)
"""Of the measures of this process: its engines of one name share a folder."""


class PooledEngine:
    """Runs queries in worker processes. Each engine says what is its own."""

    name: str
    dialect: str

    def __init__(
        self,
        folder: Path | None = None,
        workers: int | None = None,
        niceness: int = 0,
        server: str = "",
    ) -> None:
        """``folder`` keeps loaded datasets; without one they are kept until :meth:`close`.

        Other engines of this name may have the same folder: each dataset is loaded once.

        ``niceness`` is how far the processes stand back for others; ``server`` is the address at
        which queries are run, where the engine is a server.
        """
        self.dialect = DIALECTS[self.name]
        self._server = server
        self._own_folder = None
        if folder is None:
            self._own_folder = tempfile.TemporaryDirectory(prefix="jentrow-")
            folder = Path(self._own_folder.name)
        folder.mkdir(parents=True, exist_ok=True)
        self._folder = folder
        self._pool = WorkerPool(WORKER_MODULE, workers or max(1, os.cpu_count() or 1), niceness)
        self._loaded: dict[str, LoadedDataset] = {}
        self._loading = threading.Lock()

    @property
    def capabilities(self) -> Capabilities:
        """What the engine is called, and what it can and cannot do."""
        raise NotImplementedError

    @property
    def version(self) -> str:
        """The version of the engine that runs."""
        raise NotImplementedError

    def ask_version(self) -> str:
        """The same, asked for now where the engine is a server."""
        return self.version

    def as_run(self, dataset: LoadedDataset, sql: str) -> tuple[LoadedDataset, str, str]:
        """The text itself, in the engine's own dialect."""
        return dataset, sql, self.dialect

    def warm(self) -> None:
        """Starts the worker processes now."""
        self._pool.warm()

    # loading

    def load(self, dataset: DatasetSource) -> LoadedDataset:
        """Makes a dataset ready. Raises :class:`InvalidSample` and :class:`EngineUnavailable`."""
        key = dataset.key
        with self._loading:
            if key not in self._loaded:
                self._loaded[key] = self._build(key, dataset)
            return self._loaded[key]

    def _build(self, key: str, dataset: DatasetSource) -> LoadedDataset:
        raise NotImplementedError

    def _built(self, kind: str, location: str, dataset: str, *parts: Any, server: str = "") -> Any:
        """What a worker says of a dataset of this name that it loads, or looks at."""
        try:
            answer = self._pool.ask(
                _LOAD_SECONDS, kind, self.name, server or self._server, location, *parts
            )
        except WorkerLost as lost:
            raise InvalidSample(
                f"the dataset {dataset} does not load: {lost}; it may be too large."
            ) from lost
        said, found = answer
        if said == AWAY:
            raise EngineUnavailable(found)
        if said == "invalid":
            raise InvalidSample(f"the dataset {dataset}: {found}")
        return found

    def _is_loaded(self, key: str, location: str, said: Any) -> LoadedDataset:
        return LoadedDataset(
            self.name,
            key,
            location,
            tuple((name, rows) for name, _, rows in said if rows is not None),
            tuple((name, tuple(columns)) for name, columns, _ in said),
        )

    # running

    def run(self, dataset: LoadedDataset, sql: str, limits: Limits) -> QueryOutcome:
        """Runs one query and fetches its rows."""
        (outcome,) = (outcome for _, outcome in self.run_many(dataset, [sql], limits))
        return outcome

    def run_many(
        self, dataset: LoadedDataset, queries: Sequence[str], limits: Limits
    ) -> Iterator[tuple[int, QueryOutcome]]:
        """Runs many queries over all workers; yields (index, outcome) as they come."""
        refused = {at: problem for at, sql in enumerate(queries) if (problem := unusable(sql))}
        yield from refused.items()
        usable = [at for at in range(len(queries)) if at not in refused]
        within = packed(limits)

        def frame(part: list[int]) -> tuple[Any, ...]:
            texts = [queries[usable[at]] for at in part]
            return self._frame("query", dataset.location, within, texts, engine=dataset.engine)

        for at, answer in self._asked(len(usable), frame, limits.processor_seconds):
            index = usable[at]
            yield index, self._outcome(answer, queries[index], dataset, limits)

    def _frame(self, kind: str, *parts: Any, engine: str = "") -> tuple[Any, ...]:
        return (kind, engine or self.name, self._server, *parts)

    def _outcome(
        self, answer: Any, sql: str, dataset: LoadedDataset, limits: Limits
    ) -> QueryOutcome:
        if isinstance(answer, WorkerLost):
            return lost_query(answer, limits)
        return outcome_of(answer, sql, dataset, limits)

    def show(
        self, dataset: LoadedDataset, sql: str, limits: Limits, most: int
    ) -> ResultView | QueryFailure:
        """Runs one query whose first rows are looked at."""
        if problem := unusable(sql):
            return problem
        parts = (dataset.location, packed(limits), sql, most)
        frame = self._frame("show", *parts, engine=dataset.engine)
        try:
            answer = self._pool.ask(limits.processor_seconds, *frame)
        except WorkerLost as lost:
            return lost_query(lost, limits)
        if answer[0] == SHOWN:
            return view_of(answer[1])
        return failure_of(answer, sql, dataset, limits)

    def same_rows(
        self, dataset: LoadedDataset, queries: tuple[str, str], limits: Limits
    ) -> bool | QueryFailure:
        """Whether two queries give the same rows, in any order, by value."""
        if problem := unusable(queries[0]) or unusable(queries[1]):
            return problem
        parts = (dataset.location, packed(limits), list(queries))
        frame = self._frame("same", *parts, engine=dataset.engine)
        try:
            answer = self._pool.ask(3 * limits.processor_seconds, *frame)
        except WorkerLost as lost:
            return lost_query(lost, limits)
        return answer[1] if answer[0] == SAME else failure_of(answer, queries[1], dataset, limits)

    # judging

    def keep_measure(self, measure: Measure) -> Path:
        """Lays a measure where the worker processes find it."""
        content = pickle.dumps(measure, protocol=pickle.HIGHEST_PROTOCOL)
        folder = self._folder / _MEASURES
        folder.mkdir(exist_ok=True)
        path = folder / f"{next(_NUMBERS)}-{os.getpid()}.measure"
        path.write_bytes(content)
        try:
            problem = self._pool.ask(CHECKING_SECONDS, *self._frame("check", str(path)))
        except WorkerLost as lost:
            path.unlink(missing_ok=True)
            if not lost.overran:
                raise EngineInterrupted(INTERRUPTED) from lost
            raise ReferenceFails(f"{measure.called(0)}: {COMPARED_TOO_LONG}") from lost
        if problem:
            path.unlink(missing_ok=True)
            raise ReferenceFails(str(problem))
        return path

    def judge(
        self, measure: Measure, path: Path, texts: Sequence[str], how: Judging
    ) -> Iterator[tuple[int, Any]]:
        """Runs and judges answers in the workers; yields (index, outcome) as they come.

        Raises :class:`EngineUnavailable` where the engine's server does not answer.
        """
        limits = measure.limits
        if how.seconds is None:
            running = len(measure.datasets) * limits.processor_seconds
            seconds = running + 2 * how.judging_seconds + 1
        else:  # whoever is in a hurry waits for no single step that takes long either
            seconds = len(measure.datasets) * how.seconds + how.judging_seconds + LOADING_SECONDS
        if how.look_for or (measure.marks_edits and how.seconds is None):
            seconds += LOOKING_SECONDS
        within, asked = packed(limits), packed(how)

        def frame(part: list[int]) -> tuple[Any, ...]:
            return self._frame("judge", str(path), within, [texts[at] for at in part], asked)

        reader = LatelyUnpacked()
        for at, answer in self._asked(len(texts), frame, seconds):
            yield at, _judged(answer, limits, reader)

    def _asked(
        self, count: int, frame: Callable[[list[int]], tuple[Any, ...]], seconds: float
    ) -> Iterator[tuple[int, Any]]:
        """Each text's answer, or :class:`WorkerLost`: one of a worker alone, many of all of them."""
        if count == 1:
            try:
                yield 0, self._pool.ask(seconds, *frame([0]))
            except WorkerLost as lost:
                yield 0, lost
            return
        batch = max(1, min(_BATCH, count // 8))
        yield from self._pool.ask_many(count, frame, seconds, batch)

    def close(self) -> None:
        """Ends the worker processes and removes what was loaded into a folder of one's own."""
        self._pool.close()
        if self._own_folder is not None:
            self._own_folder.cleanup()


def parts_of(dataset: DatasetSource, *, for_changing: bool = False) -> DatasetParts:
    """A dataset's parts, as they are sent to a worker."""
    return DatasetParts(
        dataset.schema,
        dataset.keep_rows,
        dataset.script,
        tuple((table, str(file)) for table, file in dataset.tables),
        str(dataset.database or ""),
        dataset.as_written,
        for_changing,
    )


def lost_query(lost: WorkerLost, limits: Limits, words: str = INTERRUPTED) -> QueryFailure:
    """What a lost worker says of the query that it was at: a death by itself says nothing.

    Raises :class:`EngineInterrupted`.
    """
    if not lost.overran:
        raise EngineInterrupted(words) from lost
    return stopped("limit.time", limits)


def view_of(sent: bytes) -> ResultView:
    """Rows to be shown, as a worker sent them."""
    view = unpacked(sent)
    assert isinstance(view, ResultView)
    return view


def _judged(answer: bytes | Answer | WorkerLost, limits: Limits, reader: LatelyUnpacked) -> Any:
    """An outcome as a worker sent it; a failure where the worker overran, None where it died."""
    if isinstance(answer, WorkerLost):
        return stopped("limit.time", limits) if answer.overran else None
    if isinstance(answer, tuple):
        raise EngineUnavailable(answer[1])
    return reader.unpacked(answer)
