"""SQLite: pinned with apsw, so that a verdict does not depend on the machine's own version."""

from __future__ import annotations

from pathlib import Path

from jentrow.core.engines.embedded import EmbeddedEngine
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.outcomes import unusable
from jentrow.core.engines.pooled import lost_query, view_of
from jentrow.core.engines.protocol import Capabilities, LoadedDataset, QueryFailure, StatementDone
from jentrow.core.engines.sqlite.capabilities import capabilities
from jentrow.core.engines.sqlite.failed_changes import CHANGE_INTERRUPTED, failed_change
from jentrow.core.processes.crossing import packed
from jentrow.core.processes.workers import WorkerLost
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.sql.changes import remark_on


class SQLiteEngine(EmbeddedEngine):
    """Runs queries on SQLite files in worker processes."""

    name = "sqlite"
    ending = ".db"

    @property
    def capabilities(self) -> Capabilities:
        """What SQLite is called, and what it can and cannot do."""
        return capabilities()

    @property
    def version(self) -> str:
        """The version of SQLite that runs, which apsw carries."""
        import apsw

        return apsw.sqlite_lib_version()

    def _build(self, key: str, dataset: DatasetSource) -> LoadedDataset:
        if dataset.database is None:
            return super()._build(key, dataset)
        location = str(dataset.database)
        return self._is_loaded(key, location, self._built("look", location, dataset))

    def change(
        self, copy: Path, script: str, limits: Limits, most_bytes: int
    ) -> list[StatementDone] | QueryFailure:
        """Runs statements on a learner's own copy of a dataset, all of them or none."""
        if problem := unusable(script):
            return problem
        frame = self._frame("change", str(copy), packed(limits), script, most_bytes)
        try:
            # Once only: a process that dies may have done it before it could say so.
            answer = self._pool.ask_once(limits.processor_seconds, *frame)
        except WorkerLost as lost:
            return lost_query(lost, limits, CHANGE_INTERRUPTED)
        if answer[0] == "done":
            return [
                StatementDone(
                    sql, view_of(sent) if sent else None, changed, remark_on(sql, self.dialect)
                )
                for sql, sent, changed in answer[1]
            ]
        return failed_change(answer, script, limits)
