"""Checking a pack: whether its references run and its trials hold, and what to know of it."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any, Final

from jentrow.core.engines.labels import ENGINES
from jentrow.core.engines.protocol import Engine
from jentrow.core.errors import ReferenceFails
from jentrow.core.exercises.distinguishing.blind_spots import Sight
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.packs.reading import Pack, opened_pack
from jentrow.core.exercises.trials import TrialResult, run_trials
from jentrow.core.exercises.warnings import Warning, warnings_of
from jentrow.services.runtime.engines import opened_engine
from jentrow.services.runtime.grading_queue import Progress

_AT_ONCE: Final = 2
"""Exercises that are checked at one time: the worker processes do the work."""


@dataclass(frozen=True)
class Checked:
    """What checking one exercise came to; ``problem`` says why its reference cannot be used."""

    exercise: Exercise
    problem: str
    trials: Sequence[TrialResult]
    warnings: Sequence[Warning]
    sight: Sight | None = None

    @property
    def works(self) -> bool:
        """Whether the reference runs and every trial holds."""
        return not self.problem and all(trial.holds for trial in self.trials)

    def to_json(self) -> dict[str, Any]:
        """The entry that ``jentrow check --json`` prints."""
        return {
            "id": self.exercise.id,
            "reference": self.problem or "ok",
            "trials": [
                {
                    "name": one.trial.name,
                    "expected": one.trial.expected,
                    "actual": one.actual,
                    "holds": one.holds,
                }
                for one in self.trials
            ],
            "warnings": [warning.to_json() for warning in self.warnings],
            "blind_spots": [one.to_json() for one in self.sight.blind_spots] if self.sight else [],
        }


def check_pack(
    path: Path, exercise: str | None = None, progress: Progress = lambda done, total: None
) -> list[Checked]:
    """Checks a pack's exercises, or one of them. Raises :class:`UnusableInput`."""
    with opened_pack(path) as pack:
        wanted = pack.exercises if exercise is None else (pack.exercise(exercise),)
        checked: list[Checked] = []
        for name in ENGINES:
            for sample in pack.samples:
                ours = [one for one in wanted if (one.engine, one.sample) == (name, sample)]
                if not ours:
                    continue
                beside = [
                    one for one in pack.exercises if (one.engine, one.sample) == (name, sample)
                ]
                with opened_engine(name) as engine:
                    graders = _graders(engine, pack, beside)
                    with ThreadPoolExecutor(_AT_ONCE) as pool:
                        for found in pool.map(partial(_checked, graders), ours):
                            checked.append(found)
                            progress(len(checked), len(wanted))
        place = {one.id: at for at, one in enumerate(wanted)}
        return sorted(checked, key=lambda one: place[one.exercise.id])


def _graders(engine: Engine, pack: Pack, exercises: Sequence[Exercise]) -> dict[str, Grader | str]:
    """A grader for each exercise, or what is wrong with its reference."""
    graders: dict[str, Grader | str] = {}
    for exercise in exercises:
        try:
            graders[exercise.id] = Grader(engine, exercise, pack.samples[exercise.sample])
        except ReferenceFails as problem:
            graders[exercise.id] = str(problem)
    return graders


def _checked(graders: dict[str, Grader | str], exercise: Exercise) -> Checked:
    grader = graders[exercise.id]
    if isinstance(grader, str):
        return Checked(exercise, grader, (), ())
    others = [one for one in graders.values() if isinstance(one, Grader)]
    sight = grader.analyse(exercise.reference, "sight").sight
    return Checked(exercise, "", run_trials(grader), warnings_of(grader, others), sight)
