"""What the answers to an exercise are measured by: its datasets, loaded, and what is due on each."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset
from jentrow.core.exercises.exercise import Exercise, NamedQuery
from jentrow.core.exercises.grading.expectations import expect
from jentrow.core.results import Expectation, ResultSet
from jentrow.core.samples.sources import SampleSource
from jentrow.core.sql.freedom.caseless_order import (
    can_ignore_case,
    count_sort_keys,
    with_caseless_keys,
)
from jentrow.core.sql.freedom.moments import hangs_on_the_moment
from jentrow.core.sql.shape import shape_of


@dataclass(frozen=True)
class Measure:
    """Everything that judging an answer to ``exercise`` needs, and nothing that is alive.

    ``answers`` are the reference and the accepted alternatives, and each of them again without
    regard to letter case in its order where the exercise's rules say so and its engine can;
    ``expectations`` has, for each of them, one expectation a dataset, the open dataset first.
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
    def ignores_case(self) -> bool:
        """Whether the reference answer, or an alternative, is here without regard to case too."""
        return len(self.answers) > 1 + len(self.exercise.alternatives)

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
    if exercise.rules.comparison.order_case == "ignore":
        answers += tuple(
            NamedQuery(one.name, caseless)
            for one in answers
            if (caseless := _without_case(engine, datasets[0], one.sql, limits))
        )
    expectations = tuple(
        tuple(
            expect(engine, dataset, one.sql, limits, _called(exercise, one, number, names, at))
            for at, dataset in enumerate(datasets)
        )
        for number, one in enumerate(answers)
    )
    return Measure(exercise, engine.dialect, names, datasets, answers, expectations)


def _without_case(engine: Engine, dataset: LoadedDataset, sql: str, limits: Limits) -> str:
    """An answer whose order ignores letter case, as far as its engine takes that; empty where not."""
    dialect = engine.dialect
    shape = shape_of(sql, dialect)
    if not shape.ordered or not can_ignore_case(dialect):
        return ""
    count = count_sort_keys(shape, dialect)

    def runs(which: Collection[int]) -> bool:
        text = with_caseless_keys(shape, dialect, which)
        return isinstance(engine.run(dataset, text, limits), ResultSet)

    # Some engines sort nothing but text so.
    which = range(count) if runs(range(count)) else [at for at in range(count) if runs([at])]
    return with_caseless_keys(shape, dialect, which) if which else ""


def _called(
    exercise: Exercise, answer: NamedQuery, number: int, datasets: tuple[str, ...], dataset: int
) -> str:
    is_alternative = number > 0 and answer.name != "reference"
    which = f"the accepted alternative {answer.name}" if is_alternative else "the reference answer"
    where = f" (on the dataset {datasets[dataset]})" if dataset else ""
    return f"{exercise.id}: {which}{where}"
