"""What a running server holds in its hands, wired here and nowhere else."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, Final, TypeAlias

from cachetools import LRUCache

from jentrow.core.engines.whole_scripts import ENGINE_OF, run_whole
from jentrow.core.errors import UnusableFolder
from jentrow.core.exercises.judging_worker import LOADED_AHEAD
from jentrow.core.processes.nursery import NURSERY
from jentrow.core.samples.recipes import RanTable
from jentrow.core.samples.rows.reading_room import ReadingRoom
from jentrow.records.database import FILE, Records
from jentrow.records.errors import RecordsUnavailable
from jentrow.services.runtime.background_jobs import BackgroundJobs
from jentrow.services.runtime.data_folder import VERSIONS, check_whole, engine_folder
from jentrow.services.runtime.engines import Engines
from jentrow.services.runtime.graders import Graders
from jentrow.services.runtime.grading_queue import GradingQueue
from jentrow.services.runtime.import_jobs import Imports
from jentrow.services.runtime.open_datasets import OpenDatasets
from jentrow.services.runtime.rate_limits import Rates
from jentrow.services.runtime.run_history import RunHistory
from jentrow.services.runtime.sample_storage import put_in_order
from jentrow.services.runtime.settings import Settings, read_settings
from jentrow.services.runtime.slow_learners import SlowLearners

KEPT_STANDINGS: Final = 512
"""Exercises whose answers' standing is kept; with a thousand answers each that is 200 MB at most."""

Clock: TypeAlias = Callable[[], datetime]


def _now() -> datetime:
    return datetime.now(UTC)


class Runtime:
    """One data folder in use. Safe to share between threads."""

    def __init__(self, folder: Path, clock: Clock = _now, settings: Settings | None = None) -> None:
        """``clock`` tells the server's time, by which deadlines are. Raises :class:`UnusableFolder`."""
        check_whole(folder)
        NURSERY.load(LOADED_AHEAD)
        self.folder = folder
        self.now = clock
        self.settings = settings or read_settings()
        self.rates = Rates()
        self.records = Records(folder)
        try:
            with self.records.writing() as session:
                put_in_order(session, folder)
        except RecordsUnavailable as problem:
            self.records.close()
            raise UnusableFolder(f"{folder / FILE}: {problem}") from problem
        self.runs = RunHistory(self.records)
        self.reading = ReadingRoom()
        self.datasets = OpenDatasets(folder, self.reading)
        self.import_jobs = Imports(folder, self._run_whole, self.settings.upload_mb << 20)
        self._engine_folder = engine_folder(folder)
        self.engines = Engines(self._engine_folder, self.settings, folder / VERSIONS)
        self.graders = Graders(self.engines, self.datasets, self.settings)
        self.slow_learners = SlowLearners()
        self.queue = GradingQueue(self.records, self.graders, self.engines, self.slow_learners)
        self.analyses = BackgroundJobs()
        self.standings: LRUCache[int, Any] = LRUCache(KEPT_STANDINGS)
        """What the answers to an exercise stand at, by its number: see services/marking."""

    def _run_whole(self, dialect: str, script: str, folder: Path) -> tuple[RanTable, ...]:
        # Where nothing is graded: while a script runs, no other dataset is loaded there.
        engine = self.engines.get(ENGINE_OF[dialect], fresh=True, use="long-runs")
        return run_whole(engine, script, folder)

    def start_warming(self) -> None:
        """Makes ready, in the background, what answers to the sheets are graded with."""
        self.graders.start_warming(self.records)

    def close(self) -> None:
        """Ends the engines, the grading and the imports, and closes the records."""
        self.graders.closing()
        self.queue.closing()
        # The engines first: whatever waits for them ends then, and nothing new is begun.
        self.engines.close()
        self.analyses.close()
        self.reading.close()
        self.graders.close()
        self.queue.close()
        self.import_jobs.close()
        self.runs.close()
        self.records.close()
        shutil.rmtree(self._engine_folder, ignore_errors=True)
