"""One answer against one reference, from files: what ``jentrow compare`` does."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from jentrow.core.errors import EngineInterrupted
from jentrow.core.samples.sources import SampleSource, read_dataset, read_sample
from jentrow.core.textfiles import read_text
from jentrow.services.runtime.engines import opened_engine, translation_of

if TYPE_CHECKING:
    from jentrow.core.exercises.distinguishing.analysis import Analysis
    from jentrow.core.exercises.ruleset import RuleSet


def compare_files(
    sample: Path,
    reference: Path,
    submission: Path,
    *,
    alternatives: Sequence[Path] = (),
    datasets: Sequence[Path] = (),
    engine: str = "sqlite",
    rules: Path | None = None,
    explain: bool = True,
) -> tuple[Analysis, list[str]]:
    """Compares a submission with a reference on a sample and further datasets.

    With ``explain`` an incorrect one is explained by near misses and a smallest example. Beside
    that comes what a stand-in may do otherwise than the engine, in sentences.

    Raises :class:`UnusableInput` (one of its kinds) or :class:`EngineUnavailable`.
    """
    # Imported before the engine is opened, which waits until worker processes can be made: they
    # load what they need meanwhile, on the other core.
    from jentrow.core.exercises.distinguishing.analysis import Analysis
    from jentrow.core.exercises.exercise import Exercise, NamedQuery
    from jentrow.core.exercises.grader import Grader
    from jentrow.core.exercises.ruleset import RuleSet

    with opened_engine(engine, workers=1) as running:
        source = read_sample(sample)
        further = tuple(read_dataset(path, source.open.schema) for path in datasets)
        exercise = Exercise(
            id=reference.stem,
            title=reference.stem,
            prompt="",
            sample=source.name,
            reference=read_text(reference),
            engine=engine,
            rules=RuleSet() if rules is None else _read_rules(rules),
            alternatives=tuple(NamedQuery(path.stem, read_text(path)) for path in alternatives),
        )
        answer = read_text(submission)
        whole = SampleSource(source.name, source.datasets + further)
        grader = Grader(running, exercise, whole)
        outcome = grader.grade(answer)
        _, doubts = translation_of(running, grader.datasets[0], answer, undecided=outcome.undecided)
        if not explain or outcome.standing != "incorrect":
            return Analysis(outcome), doubts
        try:
            return grader.analyse(answer, "explanation"), doubts
        except EngineInterrupted:  # what explains it may fail; the verdict stands
            return Analysis(outcome), doubts


def _read_rules(file: Path) -> RuleSet:
    # What checks a file of rules takes a while to import, and most who compare have none.
    from jentrow.core.exercises.files.rulefile import read_rules_file

    return read_rules_file(file)
