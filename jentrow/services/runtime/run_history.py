"""Runs of learners on their way into the records: written together, a moment after they ran.

A run is answered before it is written: what somebody waits for does not wait for the disk, and
hand-ins do not wait for runs. Of a server that is killed, the runs of the last moment are lost.
"""

from __future__ import annotations

import logging
import threading
from typing import Final

from jentrow.core.errors import JentrowError
from jentrow.records.database import Records
from jentrow.records.models import TriedQuery
from jentrow.records.runs import add_run, with_their_owners

KEPT: Final = 200
"""Runs without a name that are kept, for each learner and exercise, and for each sample."""
WRITTEN_AFTER_SECONDS: Final = 0.5
TOGETHER: Final = 10
"""So many are written at a time: whoever hands in meanwhile waits for no more."""
_MOST_WAITING: Final = 5_000

_log = logging.getLogger(__name__)


class RunHistory:
    """The runs that wait to be written. Safe to share between threads."""

    def __init__(self, records: Records) -> None:
        self._records = records
        self._waiting: list[TriedQuery] = []
        self._lock = threading.Lock()
        self._writing = threading.Lock()
        self._timer: threading.Timer | None = None

    def add(self, run: TriedQuery) -> None:
        """Takes a run; it is in the records before long."""
        with self._lock:
            if len(self._waiting) < _MOST_WAITING:
                self._waiting.append(run)
            if self._timer is None:
                self._timer = threading.Timer(WRITTEN_AFTER_SECONDS, self._write_later)
                self._timer.daemon = True
                self._timer.start()

    def write(self) -> None:
        """Writes what waits, now."""
        with self._writing:
            with self._lock:
                waiting, self._waiting, self._timer = self._waiting, [], None
            for start in range(0, len(waiting), TOGETHER):
                with self._records.writing() as session:
                    # Whoever ran one may have been removed in the meantime, or the exercise.
                    for run in with_their_owners(session, waiting[start : start + TOGETHER]):
                        add_run(session, run, KEPT)

    def _write_later(self) -> None:
        try:
            self.write()
        except JentrowError:
            _log.exception("Runs of learners could not be written, and are not in their history.")

    def close(self) -> None:
        """Writes what waits."""
        with self._lock:
            timer = self._timer
        if timer is not None:
            timer.cancel()
        self._write_later()
