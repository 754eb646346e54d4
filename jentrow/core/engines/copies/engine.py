"""An engine that keeps learners' own copies: it asks a worker process to change them and to look."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Final

from jentrow.core.engines.answers import AWAY
from jentrow.core.engines.copies.failed_changes import (
    CHANGE_INTERRUPTED,
    failed_change,
    gone_change,
)
from jentrow.core.engines.copy_answers import LOOKED_TOO_LONG, CopyAnswer, CopyPage
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.outcomes import unusable
from jentrow.core.engines.pooled import PooledEngine, lost_query, view_of
from jentrow.core.engines.protocol import QueryFailure, StatementDone
from jentrow.core.errors import EngineInterrupted, EngineUnavailable, UnusableInput
from jentrow.core.processes.crossing import packed, unpacked
from jentrow.core.processes.workers import WorkerLost
from jentrow.core.samples.schema.tables import CountedTable
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.sql.changes import remark_on

LOOKING_SECONDS: Final = 5.0
"""Time on a processor that looking at a copy may take."""

LOOKING_INTERRUPTED: Final = "the process that read your copy was ended. Look again."
UNREADABLE: Final = "Your copy cannot be read ({why}): begin again with a new one."


class CopyKeepingEngine(PooledEngine):
    """A pooled engine with private copies, unless its capabilities say that it has none."""

    def make_copy(self, source: DatasetSource, copy: Path) -> None:
        """Makes a learner's own copy of a dataset at a path where none is."""
        raise NotImplementedError

    def drop_copy(self, copy: Path) -> None:
        """Deletes a copy, if it is there."""
        raise NotImplementedError

    def copy_began(self, source: DatasetSource, copy: Path) -> int:
        """How many bytes a copy of a dataset began with."""
        raise NotImplementedError

    def copy_bytes(self, copy: Path) -> int:
        """How many bytes a copy takes up."""
        raise NotImplementedError

    def _place_of(self, copy: Path) -> str:
        """Where the room finds a copy. Raises :class:`UnusableInput` where nobody can tell."""
        return str(copy)

    def change(
        self, copy: Path, script: str, limits: Limits, most_bytes: int
    ) -> list[StatementDone] | QueryFailure:
        """Runs statements on a learner's own copy of a dataset, all of them or none."""
        self._must_keep_copies()
        if problem := unusable(script):
            return problem
        try:
            place = self._place_of(copy)
        except UnusableInput:
            return gone_change()
        frame = self._frame("change", place, packed(limits), script, most_bytes)
        try:
            # Once only: a process that dies may have done it before it could say so.
            answer: CopyAnswer = self._pool.ask_once(limits.processor_seconds, *frame)
        except WorkerLost as lost:
            return lost_query(lost, limits, CHANGE_INTERRUPTED)
        if answer[0] == AWAY:
            raise EngineUnavailable(answer[1])
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
        return self._looked_at_place(kind, self._place_of(copy), *parts)

    def _looked_at_place(self, kind: str, place: str, *parts: Any) -> Any:
        self._must_keep_copies()
        try:
            frame = self._frame(kind, place, *parts)
            said, found = self._pool.ask(LOOKING_SECONDS, *frame)
        except WorkerLost as lost:
            if not lost.overran:
                raise EngineInterrupted(LOOKING_INTERRUPTED) from lost
            raise UnusableInput(LOOKED_TOO_LONG) from lost
        if said == AWAY:
            raise EngineUnavailable(found)
        if said == "invalid":
            is_late = found == LOOKED_TOO_LONG
            raise UnusableInput(found if is_late else UNREADABLE.format(why=found))
        return unpacked(found)
