"""A query held against another engine's result: the rows there are what is due here."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jentrow.core.engines.protocol import Engine, Judging
from jentrow.core.errors import EngineInterrupted
from jentrow.core.exercises.exercise import Exercise, NamedQuery
from jentrow.core.exercises.grading.expectations import expect
from jentrow.core.exercises.grading.measure import Measure
from jentrow.core.exercises.grading.outcomes import Looked
from jentrow.core.samples.sources import DatasetSource

SHOWN_ROWS = 200


@dataclass(frozen=True, slots=True)
class HeldAgainst:
    """What a text gives on another engine, woven with what is due there, on one dataset."""

    dataset: str
    looked: Looked


def held_against(
    engine: Engine, exercise: Exercise, dataset: DatasetSource, other: Engine, text: str
) -> Looked:
    """Runs a text on another engine; due is what the exercise's reference gives on the first.

    Raises :class:`ReferenceFails` where the reference does not run there, :class:`InvalidSample`
    and :class:`EngineUnavailable`.
    """
    limits = exercise.rules.limits
    due = expect(engine, engine.load(dataset), exercise.reference, limits, exercise.id)
    moved = Exercise(
        exercise.id, "", "", exercise.sample, exercise.reference, other.name, rules=exercise.rules
    )
    measure = Measure(
        moved,
        other.dialect,
        (dataset.name,),
        (other.load(dataset),),
        (NamedQuery("reference", exercise.reference),),
        ((due,),),
    )
    path = other.keep_measure(measure)
    try:
        how = Judging(look=0, rows=SHOWN_ROWS)
        ((_, found),) = other.judge(measure, path, [text], how)
    finally:
        path.unlink(missing_ok=True)
    if found is None:
        raise EngineInterrupted("the process that compared the results was ended. Try it again.")
    return found if isinstance(found, Looked) else Looked(found, None)


def held_on_all(
    engine: Engine, exercise: Exercise, datasets: Sequence[DatasetSource], other: Engine, text: str
) -> list[HeldAgainst]:
    """The same on each dataset."""
    return [
        HeldAgainst(one.name, held_against(engine, exercise, one, other, text)) for one in datasets
    ]
