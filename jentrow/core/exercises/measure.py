"""What the answers to an exercise are measured by: its datasets, loaded, and what is due on each."""

from __future__ import annotations

from dataclasses import dataclass

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset
from jentrow.core.exercises.exercise import Exercise, NamedQuery
from jentrow.core.exercises.expectations import expect
from jentrow.core.results import Expectation
from jentrow.core.samples.sources import SampleSource
from jentrow.core.sql.moments import hangs_on_the_moment


@dataclass(frozen=True)
class Measure:
    """Everything that judging an answer to ``exercise`` needs, and nothing that is alive.

    ``answers`` are the reference and the accepted alternatives; ``expectations`` has, for each of
    them, one expectation a dataset, the open dataset first.
    """

    exercise: Exercise
    dialect: str
    dataset_names: tuple[str, ...]
    datasets: tuple[LoadedDataset, ...]
    answers: tuple[NamedQuery, ...]
    expectations: tuple[tuple[Expectation, ...], ...]

    @property
    def limits(self) -> Limits:
        """The bounds of each query."""
        return self.exercise.rules.limits

    @property
    def hangs_on_the_moment(self) -> bool:
        """Whether what is due may be something else when it is measured again."""
        return any(hangs_on_the_moment(one.sql, self.dialect) for one in self.answers)

    @property
    def marks_edits(self) -> bool:
        """Whether a mark depends on how many edits an answer is away from a right one."""
        return self.exercise.marks.one_edit > 0 or self.exercise.marks.two_edits > 0

    def called(self, answer: int, dataset: int = 0) -> str:
        """What one of the answers is called in messages, on a dataset."""
        return _called(self.exercise, self.answers[answer], answer, self.dataset_names, dataset)


def measured(engine: Engine, exercise: Exercise, sample: SampleSource) -> Measure:
    """Loads the datasets and runs the reference answer and the alternatives on each.

    Raises :class:`ReferenceFails` or :class:`InvalidSample` where there is no measure.
    """
    names = tuple(dataset.name for dataset in sample.datasets)
    datasets = tuple(engine.load(dataset) for dataset in sample.datasets)
    answers = (NamedQuery("reference", exercise.reference), *exercise.alternatives)
    limits = exercise.rules.limits
    expectations = tuple(
        tuple(
            expect(engine, dataset, one.sql, limits, _called(exercise, one, number, names, at))
            for at, dataset in enumerate(datasets)
        )
        for number, one in enumerate(answers)
    )
    return Measure(exercise, engine.dialect, names, datasets, answers, expectations)


def _called(
    exercise: Exercise, answer: NamedQuery, number: int, datasets: tuple[str, ...], dataset: int
) -> str:
    which = "the accepted alternative " + answer.name if number else "the reference answer"
    where = f" (on the dataset {datasets[dataset]})" if dataset else ""
    return f"{exercise.id}: {which}{where}"
