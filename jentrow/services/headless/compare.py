"""One answer against one reference, from files: what ``jentrow compare`` does."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from jentrow.core.samples.sources import SampleSource, read_dataset, read_sample
from jentrow.core.textfiles import read_text
from jentrow.services.runtime.engines import opened_engine

if TYPE_CHECKING:
    from jentrow.core.exercises.outcomes import Outcome


def compare_files(
    sample: Path,
    reference: Path,
    submission: Path,
    *,
    alternatives: Sequence[Path] = (),
    datasets: Sequence[Path] = (),
    engine: str = "sqlite",
    rules: Path | None = None,
) -> Outcome:
    """Compares a submission with a reference on a sample and further datasets.

    Raises :class:`UnusableInput` (one of its kinds) or :class:`EngineUnavailable`.
    """
    with opened_engine(engine, workers=1) as running:
        # Imported while the engine's process starts: on two cores it costs nothing.
        from jentrow.core.exercises.exercise import Exercise, NamedQuery
        from jentrow.core.exercises.grading import Grader
        from jentrow.core.exercises.rulefile import RuleSet, read_rules_file

        source = read_sample(sample)
        further = tuple(read_dataset(path, source.open.schema) for path in datasets)
        exercise = Exercise(
            id=reference.stem,
            title=reference.stem,
            prompt="",
            sample=source.name,
            reference=read_text(reference),
            engine=engine,
            rules=RuleSet() if rules is None else read_rules_file(rules),
            alternatives=tuple(NamedQuery(path.stem, read_text(path)) for path in alternatives),
        )
        answer = read_text(submission)
        whole = SampleSource(source.name, source.datasets + further)
        return Grader(running, exercise, whole).grade(answer)
