"""SQLite: pinned with apsw, so that a verdict does not depend on the machine's own version."""

from __future__ import annotations

import os
import pickle
import tempfile
import threading
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from itertools import count
from pathlib import Path
from typing import Any, Final

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import (
    Capabilities,
    Judging,
    LoadedDataset,
    Measure,
    QueryFailure,
    QueryOutcome,
    StatementDone,
)
from jentrow.core.engines.sqlite.capabilities import capabilities
from jentrow.core.engines.sqlite.outcomes import failure_of, outcome_of, stopped, unusable
from jentrow.core.engines.sqlite.words import explain
from jentrow.core.errors import EngineInterrupted, InvalidSample, ReferenceFails
from jentrow.core.processes.crossing import packed, unpacked
from jentrow.core.processes.workers import WorkerLost, WorkerPool
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.shownrows import ResultView
from jentrow.core.sql.changes import remark_on
from jentrow.core.sql.text import first_word, place_at, place_within
from jentrow.core.sql.tokens import statements_in

_WORKER_MODULE: Final = "jentrow.core.exercises.judging_worker"
"""The process that runs queries and judges them: a name, as the engine itself knows no exercises."""
_BATCH: Final = 64
_LOAD_SECONDS: Final = 300.0
CHECKING_SECONDS: Final = 60.0
LOADING_SECONDS: Final = 0.3
"""What taking up a measure may add to the first answer that a process judges by it."""

INTERRUPTED: Final = (
    "the process that ran the query was ended before it answered; nothing is known of the query. "
    "Run it again."
)
CHANGE_INTERRUPTED: Final = (
    "the process that ran the statements was ended before it answered: look whether they were done."
)
COMPARED_TOO_LONG: Final = "its result takes too long to be compared, even with itself."

_MEASURES: Final = "measures"
_SHOWN: Final = "shown"


class SQLiteEngine:
    """Runs queries on SQLite files in worker processes."""

    name = "sqlite"
    dialect = "sqlite"

    def __init__(
        self, folder: Path | None = None, workers: int | None = None, niceness: int = 0
    ) -> None:
        """``folder`` keeps loaded datasets; without one they are kept until :meth:`close`.

        ``niceness`` is how far the processes stand back for others.
        """
        self._own_folder = None
        if folder is None:
            self._own_folder = tempfile.TemporaryDirectory(prefix="jentrow-")
            folder = Path(self._own_folder.name)
        folder.mkdir(parents=True, exist_ok=True)
        self._folder = folder
        self._pool = WorkerPool(_WORKER_MODULE, workers or max(1, os.cpu_count() or 1), niceness)
        self._loaded: dict[str, LoadedDataset] = {}
        self._numbers = count(1)
        self._loading = threading.Lock()

    @property
    def capabilities(self) -> Capabilities:
        """What SQLite is called, and what it can and cannot do."""
        return capabilities()

    @property
    def version(self) -> str:
        """The version of SQLite that runs, which apsw carries."""
        import apsw

        return apsw.sqlite_lib_version()

    def warm(self) -> None:
        """Starts the worker processes now."""
        self._pool.warm()

    def load(self, dataset: DatasetSource) -> LoadedDataset:
        """Writes the dataset's database file. Raises :class:`InvalidSample`."""
        key = dataset.key
        with self._loading:
            if key not in self._loaded:
                self._loaded[key] = self._build(key, dataset)
            return self._loaded[key]

    def _build(self, key: str, dataset: DatasetSource) -> LoadedDataset:
        if dataset.database is not None:
            try:
                _, said = self._pool.ask(_LOAD_SECONDS, "look", str(dataset.database))
            except WorkerLost as lost:
                raise InvalidSample(f"the dataset {dataset.name}: {lost}.") from lost
            return _loaded(key, str(dataset.database), said)
        path = self._folder / f"{key}.db"
        unfinished = self._folder / f"{key}.{os.getpid()}.unfinished"
        unfinished.unlink(missing_ok=True)
        tables = [[table, str(file)] for table, file in dataset.tables]
        try:
            kind, said = self._pool.ask(
                _LOAD_SECONDS,
                "build",
                str(unfinished),
                dataset.schema,
                dataset.keep_rows,
                dataset.script,
                tables,
            )
        except WorkerLost as lost:
            raise InvalidSample(
                f"the dataset {dataset.name} does not load: {lost}; it may be too large."
            ) from lost
        if kind == "invalid":
            unfinished.unlink(missing_ok=True)
            raise InvalidSample(f"the dataset {dataset.name}: {said}")
        unfinished.replace(path)
        return _loaded(key, str(path), said)

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

        def frame(part: list[int]) -> tuple[Any, ...]:
            return (
                "query",
                dataset.location,
                [queries[usable[at]] for at in part],
                limits.memory_mb * 2**20,
                limits.steps,
                limits.rows,
                limits.result_bytes,
                limits.value_bytes,
            )

        for at, answer in self._asked(len(usable), frame, limits.processor_seconds):
            index = usable[at]
            yield index, self._outcome(answer, queries[index], dataset, limits)

    def _outcome(
        self, answer: Any, sql: str, dataset: LoadedDataset, limits: Limits
    ) -> QueryOutcome:
        if isinstance(answer, WorkerLost):
            return _lost(answer, limits)
        return outcome_of(answer, sql, dataset, limits)

    def show(
        self, dataset: LoadedDataset, sql: str, limits: Limits, most: int
    ) -> ResultView | QueryFailure:
        """Runs one query whose first rows are looked at."""
        if problem := unusable(sql):
            return problem
        bounds = (limits.memory_mb * 2**20, limits.steps, limits.rows, limits.result_bytes)
        try:
            answer = self._pool.ask(
                limits.processor_seconds,
                "show",
                dataset.location,
                sql,
                most,
                *bounds,
                limits.value_bytes,
            )
        except WorkerLost as lost:
            return _lost(lost, limits)
        if answer[0] == _SHOWN:
            return _view(answer[1])
        return failure_of(answer, sql, dataset, limits)

    def keep_measure(self, measure: Measure) -> Path:
        """Lays a measure where the worker processes find it."""
        content = pickle.dumps(measure, protocol=pickle.HIGHEST_PROTOCOL)
        folder = self._folder / _MEASURES
        folder.mkdir(exist_ok=True)
        path = folder / f"{next(self._numbers)}-{os.getpid()}.measure"
        path.write_bytes(content)
        try:
            problem = self._pool.ask(CHECKING_SECONDS, "check", str(path))
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
        """Runs and judges answers in the workers; yields (index, outcome) as they come."""
        limits = measure.limits
        if how.seconds is None:
            running = len(measure.datasets) * limits.processor_seconds
            seconds = running + 2 * how.judging_seconds + 1
        else:  # whoever is in a hurry waits for no single step that takes long either
            seconds = len(measure.datasets) * how.seconds + how.judging_seconds + LOADING_SECONDS
        memory = limits.memory_mb * 2**20

        def frame(part: list[int]) -> tuple[Any, ...]:
            return ("judge", str(path), [texts[at] for at in part], memory, packed(how))

        for at, answer in self._asked(len(texts), frame, seconds):
            yield at, _judged(answer, limits)

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

    def change(
        self, copy: Path, script: str, limits: Limits, most_bytes: int
    ) -> list[StatementDone] | QueryFailure:
        """Runs statements on a learner's own copy of a dataset, all of them or none."""
        if problem := unusable(script):
            return problem
        try:
            # Once only: a process that dies may have done it before it could say so.
            answer = self._pool.ask_once(
                limits.processor_seconds,
                "change",
                str(copy),
                script,
                limits.memory_mb * 2**20,
                limits.steps,
                limits.rows,
                most_bytes,
                limits.value_bytes,
            )
        except WorkerLost as lost:
            return _lost(lost, limits, CHANGE_INTERRUPTED)
        if answer[0] == "done":
            return [
                StatementDone(sql, _view(sent) if sent else None, changed, remark_on(sql))
                for sql, sent, changed in answer[1]
            ]
        return _failed_change(answer, script, limits)

    def close(self) -> None:
        """Ends the worker processes and removes what was loaded into a folder of one's own."""
        self._pool.close()
        if self._own_folder is not None:
            self._own_folder.cleanup()


_REFUSED_CHANGES: Final = {
    "transaction": "Each run is one transaction already: leave BEGIN, COMMIT and the like out.",
    "pragma": "PRAGMA is not allowed here.",
    "other file": "Only this copy can be reached from here.",
    "trigger": "Triggers cannot be made here.",
    "virtual table": "Virtual tables cannot be made here.",
    "function": "A function in this statement is not allowed here.",
    "this": "Something in this statement is not allowed here.",
}


def _failed_change(answer: Any, script: str, limits: Limits) -> QueryFailure:
    _, verdict, code, words, (number, start, end), detail, columns, offset = answer
    which = f"Statement {number}: " if len(statements_in(script)) > 1 else ""
    undone = " Nothing was changed."
    if number > 1:
        undone = " Nothing was changed, by the statements before it neither."
    place, near = place_at(script, start), first_word(script[start:end])
    if detail == "empty":
        return QueryFailure("error", "sql.syntax", "There is no statement here.")
    if detail == "gone":
        return QueryFailure("error", "sql.runtime", "The copy is gone: begin again with a new one.")
    if detail == "full":
        message = "Your copy is full: delete something, or begin again with a new copy."
        return QueryFailure("stopped", "limit.memory", which + message + undone, "", place, near)
    if verdict == "stopped":
        found = stopped(code, limits)
        return replace(found, message=which + found.message + undone, place=place, near=near)
    if verdict == "refused":
        message = _REFUSED_CHANGES.get(detail, _REFUSED_CHANGES["this"])
        return QueryFailure(
            "refused", "policy.statement", which + message + undone, "", place, near
        )
    if detail == "not_utf8":
        return QueryFailure("error", "sql.runtime", "The result holds text that is not UTF-8.")
    catalogue = {name: tuple(found) for name, found in columns}
    statement = script[start:end]
    explanation, within = explain(words, offset, statement, catalogue)
    if within is not None:
        place, near = place_within(script, start, within), explanation.near
    return QueryFailure(
        "error", explanation.code, which + explanation.message + undone, words, place, near
    )


def _loaded(
    key: str, location: str, said: list[tuple[str, list[str], int | None]]
) -> LoadedDataset:
    return LoadedDataset(
        key,
        location,
        tuple((name, rows) for name, _, rows in said if rows is not None),
        tuple((name, tuple(columns)) for name, columns, _ in said),
    )


def _lost(lost: WorkerLost, limits: Limits, words: str = INTERRUPTED) -> QueryFailure:
    """What a lost worker says of the query that it was at: a death by itself says nothing."""
    if not lost.overran:
        raise EngineInterrupted(words) from lost
    return stopped("limit.time", limits)


def _view(sent: bytes) -> ResultView:
    view = unpacked(sent)
    assert isinstance(view, ResultView)
    return view


def _judged(answer: Any, limits: Limits) -> Any:
    """An outcome as a worker sent it; a failure where the worker overran, None where it died."""
    if isinstance(answer, WorkerLost):
        return stopped("limit.time", limits) if answer.overran else None
    return unpacked(answer)
