"""The open records with their engine and graders: what a running server holds in its hands."""

from __future__ import annotations

import shutil
import threading
from collections import OrderedDict
from collections.abc import Callable
from contextlib import suppress
from copy import copy
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from hashlib import sha256
from pathlib import Path
from typing import Final, Literal, TypeAlias, get_args

from jentrow.core.engines.protocol import ENGINES, Engine
from jentrow.core.engines.remembering import RememberingEngine
from jentrow.core.engines.workers import PoolClosed
from jentrow.core.errors import JentrowError
from jentrow.core.exercises.content import content_of, digest_of
from jentrow.core.exercises.exercise import Exercise as CoreExercise
from jentrow.core.exercises.grading import Grader
from jentrow.core.samples.reading import ReadingRoom
from jentrow.records.database import Records
from jentrow.records.exercises import on_sheets
from jentrow.records.models import Exercise, Sample
from jentrow.services.contents import core_exercise
from jentrow.services.datafolder import check_whole, engine_folder
from jentrow.services.engines import engine_named
from jentrow.services.imports import Imports
from jentrow.services.keeping import put_in_order
from jentrow.services.pacing import Pace
from jentrow.services.queue import GradingQueue
from jentrow.services.settings import Settings, read_settings
from jentrow.services.shelf import Once, Shelf

KEPT_GRADERS: Final = 64
RUNS_A_MINUTE: Final = 40
HAND_INS_A_MINUTE: Final = 20
LOOKS_A_MINUTE: Final = 240
LOOKS_AT_ONCE: Final = 4
"""A page asks for several things of a private copy at once, and there are several pages."""

Use: TypeAlias = Literal["steady", "hurried", "runs", "long-runs"]

_PROCESSES: Final[dict[Use, tuple[int | None, int]]] = {
    "steady": (None, 10),
    "hurried": (2, 0),
    "runs": (2, 1),
    "long-runs": (2, 15),
}
"""How many worker processes each use has (None: one for each processor), and how far they stand
back for others: hand-ins and short runs go before imports and regrading, and those before runs
that take long."""


Clock: TypeAlias = Callable[[], datetime]


@dataclass(frozen=True, slots=True)
class MadeWith:
    """What a grading is made with: ``measure`` is a digest of all that could change it.

    ``datasets`` has, by name, the record and the version of each dataset.
    """

    engine: str
    datasets: tuple[tuple[str, str], ...]
    measure: str


def _now() -> datetime:
    return datetime.now(UTC)


class Desk:
    """One data folder in use. Safe to share between threads."""

    def __init__(self, folder: Path, clock: Clock = _now, settings: Settings | None = None) -> None:
        """``clock`` tells the server's time, by which deadlines are."""
        self.folder = folder
        self.settings = settings or read_settings()
        self.course_id = 0
        self.person_id = 0
        self.now = clock
        check_whole(folder)
        self.records = Records(folder)
        with self.records.writing() as session:
            put_in_order(session, folder)
        self.reading = ReadingRoom()
        self.copies = ReadingRoom(workers=2, niceness=10)
        self.shelf = Shelf(folder, self.reading)
        self._engine_folder = engine_folder(folder)
        self.imports = Imports(folder, self.settings.upload_mb << 20)
        self._engines: dict[tuple[str, Use], RememberingEngine] = {}
        self._graders: OrderedDict[str, Once] = OrderedDict()
        self._making = threading.Lock()
        self._closing = threading.Event()
        self._warming: threading.Thread | None = None
        self.runs = Pace("query", RUNS_A_MINUTE)
        self.hand_ins = Pace("answer", HAND_INS_A_MINUTE)
        self.looks = Pace("look at your copy", LOOKS_A_MINUTE, at_once=LOOKS_AT_ONCE)
        self.feedback = Pace("look at an answer", LOOKS_A_MINUTE, at_once=LOOKS_AT_ONCE)
        self.queue = GradingQueue(self)

    def in_course(self, course_id: int, actor: str, person_id: int = 0) -> Desk:
        """The same desk, as somebody of this name uses it for one course."""
        theirs = copy(self)
        theirs.course_id = course_id
        theirs.person_id = person_id
        theirs.records = self.records.of_course(course_id, actor)
        return theirs

    @property
    def owner(self) -> tuple[int, int]:
        """The course and the person that this desk was opened for."""
        return self.course_id, self.person_id

    def engine(self, name: str, *, fresh: bool = False, use: Use = "steady") -> Engine:
        """The engine with this name, started when first asked for.

        It remembers what it ran; with ``fresh`` every query runs. Each ``use`` has processes of
        its own: what somebody waits for is not held up by what nobody waits for.
        """
        with self._making:
            if self._closing.is_set():
                raise PoolClosed
            if (name, use) not in self._engines:
                workers, niceness = _PROCESSES[use]
                self._engines[name, use] = RememberingEngine(
                    engine_named(name, self._engine_folder / f"{name}-{use}", workers, niceness)
                )
            engine = self._engines[name, use]
        return engine.fresh if fresh else engine

    def engine_versions(self) -> dict[str, str]:
        """The version of each engine."""
        return {name: self.engine(name).version for name in ENGINES}

    def grader(self, exercise: Exercise) -> Grader:
        """The grader of an exercise as it is kept.

        Raises :class:`ReferenceFails` where its reference answer cannot be used.
        """
        return self.grader_of(core_exercise(exercise), exercise.sample)

    def grader_with(self, exercise: Exercise) -> tuple[Grader, MadeWith]:
        """The grader of an exercise as it is kept, and what its gradings are made with."""
        # Looked at first: rows that are edited meanwhile make the gradings out of date, never
        # gradings that are out of date look as if they were not.
        made_with = self.made_with(exercise)
        return self.grader(exercise), made_with

    def made_with(self, exercise: Exercise) -> MadeWith:
        """What answers to an exercise would be graded with now."""
        core = self._within_bounds(core_exercise(exercise))
        engine = f"{core.engine} {self.engine(core.engine).version}"
        datasets = tuple(self.shelf.versions(exercise.sample))
        state = f"{_graded_by(core)} {engine} {datasets}"
        return MadeWith(engine, datasets, sha256(state.encode()).hexdigest()[:32])

    def grader_of(self, exercise: CoreExercise, sample: Sample) -> Grader:
        """The grader of an exercise, kept or not, made once for each state of it and the data."""
        exercise = self._within_bounds(exercise)
        source = self.shelf.sample_source(sample)
        state = " ".join(dataset.key for dataset in source.datasets)
        key = f"{exercise.id} {_graded_by(exercise)} {state}"
        with self._making:
            once = self._graders.setdefault(key, Once())
            self._graders.move_to_end(key)
            while len(self._graders) > KEPT_GRADERS:
                self._graders.popitem(last=False)
        # Outside of the lock: a slow reference holds up nobody else's pages.
        known: Grader = once.get(lambda: Grader(self.engine(exercise.engine), exercise, source))
        return known.serving(exercise)

    def _within_bounds(self, exercise: CoreExercise) -> CoreExercise:
        rules = exercise.rules
        return replace(exercise, rules=replace(rules, limits=self.settings.capped(rules.limits)))

    def start_warming(self) -> None:
        """Makes ready, in the background, what answers to the sheets are graded with."""
        self._warming = threading.Thread(target=self._warm, name="warming", daemon=True)
        self._warming.start()

    def _warm(self) -> None:
        with self.records.session() as session:
            exercises = on_sheets(session)
        for exercise in exercises:
            if self._closing.is_set():
                return
            with suppress(JentrowError):  # its instructor is told on the bench
                self.grader(exercise)
        for use in get_args(Use):
            for name in {one.engine for one in exercises}:
                self.engine(name, use=use)

    def close(self) -> None:
        """Ends the engines, the grading and the imports, and closes the records."""
        self._closing.set()
        # The engines first: whatever waits for them ends then, and nothing new is begun.
        with self._making:
            engines = list(self._engines.values())
        self.queue.closing()
        for engine in engines:
            engine.close()
        self.reading.close()
        self.copies.close()
        if self._warming is not None:
            self._warming.join()
        self.queue.close()
        self.imports.close()
        self.records.close()
        shutil.rmtree(self._engine_folder, ignore_errors=True)


def _graded_by(exercise: CoreExercise) -> str:
    """A digest of what of an exercise decides how answers are graded: trials are no part of it."""
    return digest_of(content_of(replace(exercise, trials=(), prompt="", tags=(), title="-")))
