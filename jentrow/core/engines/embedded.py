"""An engine that lives in the worker processes and keeps each dataset in a file."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any, Final

from jentrow.core.engines.copies import CopyAnswer, CopyPage
from jentrow.core.engines.failed_changes import CHANGE_INTERRUPTED, failed_change
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.outcomes import unusable
from jentrow.core.engines.pooled import PooledEngine, lost_query, parts_of, view_of
from jentrow.core.engines.protocol import LoadedDataset, QueryFailure, StatementDone
from jentrow.core.errors import EngineUnavailable, JentrowError, UnusableInput
from jentrow.core.processes.crossing import packed, unpacked
from jentrow.core.processes.workers import WorkerLost
from jentrow.core.samples.schema import CountedTable
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.sql.changes import remark_on

LOOKING_SECONDS: Final = 5.0
"""Time on a processor that looking at a copy may take."""

UNREADABLE: Final = "Your copy cannot be read ({why}): begin again with a new one."


class EmbeddedEngine(PooledEngine):
    """A pooled engine whose datasets are files in its folder."""

    ending: str

    def _build(self, key: str, dataset: DatasetSource) -> LoadedDataset:
        path = self._folder / f"{key}{self.ending}"
        unfinished = self._folder / f"{key}.{os.getpid()}.unfinished"
        unfinished.unlink(missing_ok=True)
        try:
            said = self._built("build", str(unfinished), dataset, packed(parts_of(dataset)))
        except JentrowError:
            unfinished.unlink(missing_ok=True)
            raise
        unfinished.replace(path)
        return self._is_loaded(key, str(path), said)

    # private copies

    def change(
        self, copy: Path, script: str, limits: Limits, most_bytes: int
    ) -> list[StatementDone] | QueryFailure:
        """Runs statements on a learner's own copy of a dataset, all of them or none."""
        self._must_keep_copies()
        if problem := unusable(script):
            return problem
        frame = self._frame("change", str(copy), packed(limits), script, most_bytes)
        try:
            # Once only: a process that dies may have done it before it could say so.
            answer: CopyAnswer = self._pool.ask_once(limits.processor_seconds, *frame)
        except WorkerLost as lost:
            return lost_query(lost, limits, CHANGE_INTERRUPTED)
        if answer[0] == "done":
            return [
                StatementDone(
                    sql, view_of(sent) if sent else None, changed, remark_on(sql, self.dialect)
                )
                for sql, sent, changed in answer[1]
            ]
        return failed_change(answer, self.name, script, limits)

    def copy_tables(self, copy: Path) -> list[CountedTable]:
        """The tables of a learner's own copy, with their rows counted."""
        found: list[CountedTable] = self._looked_at("copy_tables", copy)
        return found

    def copy_rows(self, copy: Path, table: str, offset: int, limit: int) -> CopyPage | None:
        """Rows of a table of a learner's own copy; None without such a table."""
        found: CopyPage | None = self._looked_at("copy_rows", copy, table, offset, limit)
        return found

    def _must_keep_copies(self) -> None:
        """Raises :class:`EngineUnavailable` where it stands in for another engine."""
        if self.capabilities.no_copies:
            raise EngineUnavailable(self.capabilities.no_copies)

    def _looked_at(self, kind: str, copy: Path, *parts: Any) -> Any:
        self._must_keep_copies()
        try:
            said, found = self._pool.ask(LOOKING_SECONDS, *self._frame(kind, str(copy), *parts))
        except WorkerLost as lost:
            raise UnusableInput(UNREADABLE.format(why=lost)) from lost
        if said == "invalid":
            raise UnusableInput(UNREADABLE.format(why=found))
        return unpacked(found)
