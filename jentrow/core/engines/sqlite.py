"""SQLite: pinned with apsw, so that a verdict does not depend on the machine's own version."""

from __future__ import annotations

import os
import tempfile
import threading
from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any, Final

from jentrow.core.engines.limits import SQL_LENGTH, Limits
from jentrow.core.engines.protocol import LoadedDataset, QueryFailure, QueryOutcome, StatementDone
from jentrow.core.engines.sqlite_errors import explain
from jentrow.core.engines.workers import WorkerLost, WorkerPool
from jentrow.core.errors import InvalidSample
from jentrow.core.results import Column, ResultSet
from jentrow.core.samples.sources import DatasetSource

_WORKER_MODULE: Final = "jentrow.core.engines.sqlite_worker"
_BATCH: Final = 64
_LOAD_SECONDS: Final = 300.0

_WORDS: Final[dict[tuple[str, str], str]] = {
    (
        "limit.time",
        "",
    ): "The query was stopped: it takes too long. A join without its condition, or "
    "a recursion without an end, does that.",
    ("limit.rows", ""): "The query was stopped: it gives more than {rows} rows. A join without its "
    "condition does that.",
    ("limit.memory", ""): "The query was stopped: it needs too much memory.",
    ("policy.statement", "several"): "More than one statement: an answer is a single query.",
    ("policy.statement", ""): "Not a query: an answer only reads, with SELECT, WITH or VALUES.",
    ("policy.statement", "table"): "The query reads {name}, which is not a table of the sample.",
    ("policy.function", ""): "The function {name} is not allowed in an answer.",
}


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
        self._loading = threading.Lock()

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

        if len(usable) == 1:
            try:
                answer = self._pool.ask(limits.processor_seconds, *frame([0]))
            except WorkerLost as lost:
                answer = lost
            yield usable[0], self._outcome(answer, queries[usable[0]], dataset, limits)
            return
        batch = max(1, min(_BATCH, len(usable) // 8))
        for at, answer in self._pool.ask_many(len(usable), frame, limits.processor_seconds, batch):
            index = usable[at]
            yield index, self._outcome(answer, queries[index], dataset, limits)

    def _outcome(
        self, answer: Any, sql: str, dataset: LoadedDataset, limits: Limits
    ) -> QueryOutcome:
        if isinstance(answer, WorkerLost):
            code = "limit.time" if answer.overran else "limit.memory"
            return _stopped(code, limits)
        if answer[0] == "rows":
            _, names, rows = answer
            return ResultSet(tuple(map(Column, names)), rows)
        _, verdict, code, words, offset, detail = answer
        if verdict == "stopped":
            return _stopped(code, limits)
        if verdict == "refused":
            return _refused(code, detail, words)
        if detail == "empty":
            return QueryFailure("error", "sql.syntax", "There is no query here.")
        if detail == "not_utf8":
            return QueryFailure("error", "sql.runtime", "The result holds text that is not UTF-8.")
        explanation, place = explain(words, offset, sql, dict(dataset.columns))
        return QueryFailure(
            "error", explanation.code, explanation.message, words, place, explanation.near
        )

    def change(
        self, copy: Path, script: str, limits: Limits, most_bytes: int
    ) -> list[StatementDone] | QueryFailure:
        """Runs statements on a learner's own copy of a dataset, all of them or none."""
        if problem := unusable(script):
            return problem
        try:
            answer = self._pool.ask(
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
            return _stopped("limit.time" if lost.overran else "limit.memory", limits)
        if answer[0] == "done":
            return [
                StatementDone(
                    sql, ResultSet(tuple(map(Column, names)), rows) if names else None, changed
                )
                for sql, names, rows, changed in answer[1]
            ]
        return _failed_change(answer, limits)

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


def _failed_change(answer: Any, limits: Limits) -> QueryFailure:
    _, verdict, code, words, number, detail, columns = answer
    undone = (
        f" Nothing was changed (statement {number})." if number > 1 else " Nothing was changed."
    )
    if detail == "empty":
        return QueryFailure("error", "sql.syntax", "There is no statement here.")
    if detail == "gone":
        return QueryFailure("error", "sql.runtime", "The copy is gone: begin again with a new one.")
    if detail == "full":
        message = "Your copy is full: delete something, or begin again with a new copy."
        return QueryFailure("stopped", "limit.memory", message + undone)
    if verdict == "stopped":
        stopped = _stopped(code, limits)
        return replace(stopped, message=stopped.message + undone)
    if verdict == "refused":
        message = _REFUSED_CHANGES.get(detail, _REFUSED_CHANGES["this"])
        return QueryFailure("refused", "policy.statement", message + undone)
    if detail == "not_utf8":
        return QueryFailure("error", "sql.runtime", "The result holds text that is not UTF-8.")
    explanation, _ = explain(words, -1, "", {name: tuple(found) for name, found in columns})
    return QueryFailure("error", explanation.code, explanation.message + undone, words)


def _loaded(
    key: str, location: str, said: list[tuple[str, list[str], int | None]]
) -> LoadedDataset:
    return LoadedDataset(
        key,
        location,
        tuple((name, rows) for name, _, rows in said if rows is not None),
        tuple((name, tuple(columns)) for name, columns, _ in said),
    )


def unusable(sql: str) -> QueryFailure | None:
    """A refusal for text that cannot be handed to an engine as it is."""
    message = ""
    if len(sql) > SQL_LENGTH:
        message = f"The query has {len(sql)} characters; at most {SQL_LENGTH} are taken."
    elif "\0" in sql:
        message = "The query holds a NUL character; remove it."
    elif not _is_text(sql):
        message = "The query holds characters that are not Unicode text; save it as UTF-8."
    return QueryFailure("refused", "policy.statement", message) if message else None


def _is_text(sql: str) -> bool:
    try:
        sql.encode()
    except UnicodeEncodeError:
        return False
    return True


def _stopped(code: str, limits: Limits) -> QueryFailure:
    message = _WORDS[code, ""].format(rows=limits.rows)
    return QueryFailure("stopped", code, message)  # type: ignore[arg-type]


def _refused(code: str, detail: str, words: str) -> QueryFailure:
    if code == "policy.statement" and detail and detail != "several" and detail.upper() != detail:
        message = _WORDS[code, "table"].format(name=detail)
    elif code == "policy.function":
        message = _WORDS[code, ""].format(name=detail)
    else:
        message = _WORDS.get((code, detail), _WORDS[code, ""])
    return QueryFailure("refused", code, message, words)  # type: ignore[arg-type]
