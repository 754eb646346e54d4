"""Benches for references over the demo's samples, in this process."""

from dataclasses import replace
from functools import cache
from pathlib import Path

from jentrow.core.engines.outcomes import outcome_of
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.engines.sqlite.room import SQLiteRoom
from jentrow.core.exercises.distinguishing.bench import Bench
from jentrow.core.exercises.exercise import Exercise, NamedQuery
from jentrow.core.exercises.grading.judge import Judge
from jentrow.core.exercises.grading.measure import measured
from jentrow.core.exercises.ruleset import RuleSet
from jentrow.core.samples.sources import SampleSource, read_sample
from tests.cases import read_cases

SAMPLES = Path(__file__).parents[4] / "demo" / "samples"
PATIENCE = 30
"""What is found must not hang on how quick the machine is, nor on what watches the tests."""

CORPUS = read_cases(Path(__file__).parent / "corpus.yaml")


class Laboratory:
    """A bench with what an exercise's own datasets say of an answer."""

    def __init__(
        self,
        engine: SQLiteEngine,
        exercise: Exercise,
        sample: SampleSource,
        patience: float = PATIENCE,
    ) -> None:
        self.measure = measured(engine, exercise, sample)
        self.room = SQLiteRoom()
        self.judge = Judge(self.measure)
        scratch = self.room.scratch(self.measure.datasets[0].location)
        self.bench = Bench(self.measure, scratch, self.run, patience)

    def run(self, dataset, sql, limits, *, told=True):
        return outcome_of(
            self.room.run(dataset.location, sql, limits), sql, dataset, limits, told=told
        )

    def standing(self, sql: str) -> str:
        ran = [self.run(dataset, sql, self.measure.limits) for dataset in self.measure.datasets]
        return self.judge.outcome(sql, ran).standing

    def is_right(self, sql: str) -> bool:
        return self.standing(sql) == "correct"


@cache
def sample_named(name: str) -> SampleSource:
    return read_sample(SAMPLES / name)


def laboratory(
    engine: SQLiteEngine,
    sample: str,
    reference: str,
    *,
    alternatives: tuple[str, ...] = (),
    only_open: bool = False,
    rules: RuleSet | None = None,
    patience: float = PATIENCE,
) -> Laboratory:
    source = sample_named(sample)
    if only_open:
        source = replace(source, datasets=source.datasets[:1])
    exercise = Exercise(
        "one", "One", "", sample, reference, rules=rules or RuleSet(),
        alternatives=tuple(NamedQuery(f"other-{at}", sql) for at, sql in enumerate(alternatives)),
    )  # fmt: skip
    return Laboratory(engine, exercise, source, patience)
