"""A learner's private copy of a sample: everything may be changed in it, and nothing is graded by it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, Final

from jentrow.core.engines.labels import COPIES_OTHERWISE, copy_engine
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, QueryFailure
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.samples.tablenotes import noted
from jentrow.core.shownrows import ResultView
from jentrow.core.sql.text import Place
from jentrow.records.contents import rules_of
from jentrow.records.models import Exercise
from jentrow.services.errors import NotFound
from jentrow.services.learners.pages import OwnTable
from jentrow.services.learners.places import checked_text, place_of
from jentrow.services.runtime.data_folder import COPIES
from jentrow.services.runtime.lanes import Lane
from jentrow.services.samples.catalogue import table_notes_of
from jentrow.services.scope import LearnerScope

COPY_GROWTH_BYTES: Final = 16 << 20
"""Bytes by which a copy may grow above the sample."""

LIMITS: Final = Limits(seconds=2.0, rows=20_000)
SHOWN_ROWS: Final = 500


@dataclass(frozen=True)
class DoneView:
    """A statement that ran; ``changed`` counts the rows that it changed, ``remark`` is for its author."""

    sql: str
    result: ResultView | None
    changed: int
    remark: str


@dataclass(frozen=True)
class CopyRunView:
    """What came of a script: each statement, or why nothing was done, and where it failed."""

    done: list[DoneView]
    verdict: str
    message: str
    place: Place | None = None
    near: str = ""


@dataclass(frozen=True)
class CopyView:
    """The tables of a copy; ``bytes`` of ``room`` are used."""

    tables: list[OwnTable]
    bytes: int
    room: int


def run_on_copy(own: LearnerScope, sheet: str, slug: str, script: str, lane: Lane) -> CopyRunView:
    """Runs statements on the learner's copy, which is made where there is none yet.

    Raises :class:`TakesLong`: then nothing was done.
    """
    checked_text(script)
    exercise = _exercise(own, sheet, slug)
    engine = own.runtime.engines.get(copy_engine(exercise.engine), use=lane.use)
    path = _copy(own, exercise, engine)
    room = _room(own, exercise, engine, path)
    limits = replace(LIMITS, minds_case=rules_of(exercise).limits.minds_case)
    outcome = engine.change(path, script, lane.bounds(limits), room)
    lane.check(outcome)
    if isinstance(outcome, QueryFailure):
        return CopyRunView([], outcome.verdict, outcome.message, outcome.place, outcome.near)
    done = [DoneView(one.sql, one.result, one.changed, one.remark) for one in outcome]
    return CopyRunView(done, "ran", "")


def copy_view(own: LearnerScope, sheet: str, slug: str) -> CopyView:
    """The tables of the learner's copy, with their rows counted."""
    exercise = _exercise(own, sheet, slug)
    engine = _engine(own, exercise)
    path = _copy(own, exercise, engine)
    with own.runtime.rates.looks.turn(own.learner_id):
        counted = engine.copy_tables(path)
    notes = table_notes_of(exercise.sample)
    tables = [
        OwnTable(table, one.rows)
        for one, table in zip(counted, noted((one.table for one in counted), notes), strict=True)
    ]
    return CopyView(tables, engine.copy_bytes(path), _room(own, exercise, engine, path))


def copy_rows(
    own: LearnerScope, sheet: str, slug: str, table: str, *, offset: int, limit: int
) -> tuple[list[list[Any]], int]:
    """Rows of a table of the copy, and how many there are. Raises :class:`NotFound`."""
    exercise = _exercise(own, sheet, slug)
    engine = _engine(own, exercise)
    path = _copy(own, exercise, engine)
    with own.runtime.rates.looks.turn(own.learner_id):
        found = engine.copy_rows(path, table, offset, limit)
    if found is not None:
        rows, count = found
        return rows, count
    raise NotFound(f"Your copy has no table {table!r}.")


def reset_copy(own: LearnerScope, sheet: str, slug: str) -> CopyView:
    """Begins again with a new copy of the sample as it is now."""
    exercise = _exercise(own, sheet, slug)
    with own.runtime.rates.runs.turn(own.learner_id):
        engine = _engine(own, exercise)
        engine.drop_copy(_path(own, exercise))
        _copy(own, exercise, engine)
    return copy_view(own, sheet, slug)


def _exercise(own: LearnerScope, sheet: str, slug: str) -> Exercise:
    """An exercise with its sample."""
    with own.records.session() as session:
        found = place_of(session, own, sheet, slug).exercise
        session.refresh(found, ["sample"])
        return found


def _engine(own: LearnerScope, exercise: Exercise) -> Engine:
    return own.runtime.engines.get(copy_engine(exercise.engine), use="runs")


def _path(own: LearnerScope, exercise: Exercise) -> Path:
    """A copy of a sample on one engine is one file, whichever exercise it was begun at."""
    name = copy_engine(exercise.engine)
    ending = ".db" if name == COPIES_OTHERWISE else f".{name}"
    return own.runtime.folder / COPIES / f"{own.learner_id}-{exercise.sample_id}{ending}"


def _original(own: LearnerScope, exercise: Exercise) -> DatasetSource:
    return own.runtime.datasets.source(exercise.sample.datasets[0])


def _room(own: LearnerScope, exercise: Exercise, engine: Engine, path: Path) -> int:
    return engine.copy_began(_original(own, exercise), path) + COPY_GROWTH_BYTES


def _copy(own: LearnerScope, exercise: Exercise, engine: Engine) -> Path:
    path = _path(own, exercise)
    if not path.exists():
        path.parent.mkdir(exist_ok=True)
        engine.make_copy(_original(own, exercise), path)
    return path
