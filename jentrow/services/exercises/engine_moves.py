"""An exercise, or a sheet of them, moved to another engine: translated, and tried on both."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from jentrow.core.comparison.woven import WovenView
from jentrow.core.engines.labels import ENGINES, LABELS
from jentrow.core.errors import JentrowError, ReferenceFails, UnusableInput
from jentrow.core.exercises.exercise import Exercise as CoreExercise
from jentrow.core.exercises.exercise import NamedQuery
from jentrow.core.exercises.files.content import content_of, read_exercise
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.grading.other_engines import held_against, held_on_all
from jentrow.core.exercises.trials import run_trials
from jentrow.core.sql.spellings.engine_differences import differences_in
from jentrow.core.sql.translation import Translation, translated
from jentrow.records.contents import record_content
from jentrow.records.models import Sample
from jentrow.records.samples import find_sample, list_samples
from jentrow.services.exercises.overview import exercise_named
from jentrow.services.exercises.sheets import sheet_named
from jentrow.services.exercises.version_history import keep_content
from jentrow.services.scope import CourseScope, course_in_scope


@dataclass(frozen=True)
class MovedText:
    """A text of the exercise in both dialects; ``notes`` say what could not be carried over."""

    part: str
    name: str
    before: str
    after: str
    notes: Sequence[str]


@dataclass(frozen=True)
class MovedDataset:
    """What the reference gives on the new engine, held against the old, on one dataset."""

    dataset: str
    same: bool
    message: str
    woven: WovenView | None


@dataclass(frozen=True)
class MovedTrial:
    """A trial's verdict on both engines; empty where it was not run there."""

    name: str
    expected: str
    before: str
    after: str


@dataclass(frozen=True)
class MovedExercise:
    """An exercise as it would be on another engine; nothing of it is kept.

    ``content`` is what would be kept; ``problem`` says why it cannot be used there. ``why`` are
    sentences on what its reference holds that the two engines do differently.
    """

    slug: str
    title: str
    engine: str
    content: dict[str, Any]
    problem: str
    texts: Sequence[MovedText]
    datasets: Sequence[MovedDataset]
    trials: Sequence[MovedTrial]
    why: Sequence[str]

    @property
    def holds(self) -> bool:
        """Whether it runs there, gives the same everywhere, and every trial gets what it did."""
        return (
            not self.problem
            and all(one.same for one in self.datasets)
            and all(one.before == one.after for one in self.trials)
        )


def moved_exercise(
    scope: CourseScope, slug: str, content: Mapping[str, Any], engine: str
) -> MovedExercise:
    """Looks at an exercise on another engine. Raises :class:`UnusableInput`."""
    if engine not in ENGINES:
        raise UnusableInput(f"there is no engine {engine!r}; known are {', '.join(ENGINES)}.")
    with scope.records.session() as session:
        course = course_in_scope(session)
        record = exercise_named(session, slug)
        samples = [sample.name for sample in list_samples(session, course.id)]
        old = read_exercise(slug, content, samples)
        sample = find_sample(session, course.id, old.sample) or record.sample
        title = record.title
        return _moved(scope, sample, old, title, engine)


def _moved(
    scope: CourseScope, sample: Sample, old: CoreExercise, title: str, engine: str
) -> MovedExercise:
    texts: list[MovedText] = []
    read = scope.runtime.engines.state(old.engine).dialect
    write = scope.runtime.engines.state(engine).dialect

    def carried(part: str, name: str, sql: str) -> str:
        stays = not sql.strip() or _means_the_same(scope, sample, old, engine, sql)
        found = Translation(sql) if stays else translated(sql, read, write)
        texts.append(MovedText(part, name, sql, found.sql or sql, found.notes))
        return found.sql or sql

    new = replace(
        old,
        engine=engine,
        reference=carried("reference", "", old.reference),
        alternatives=tuple(
            NamedQuery(one.name, carried("alternative", one.name, one.sql))
            for one in old.alternatives
        ),
        trials=tuple(replace(one, sql=carried("trial", one.name, one.sql)) for one in old.trials),
    )
    problem, datasets, trials = "", list[MovedDataset](), list[MovedTrial]()
    try:
        before = scope.runtime.graders.of_content(old, sample)
        datasets = _datasets(scope, sample, old, new)
        trials = _trials(before, scope.runtime.graders.of_content(new, sample))
    except JentrowError as said:
        problem = str(said)
    return MovedExercise(
        old.id,
        title,
        LABELS[engine],
        content_of(new),
        problem,
        texts,
        datasets,
        trials,
        differences_in(old.reference, read, old.engine, engine),
    )


def _means_the_same(
    scope: CourseScope, sample: Sample, old: CoreExercise, engine: str, sql: str
) -> bool:
    """Whether a text gives the same on the other engine as it stands, on the open data.

    Then its author's own words stay. What runs on neither means the same too.
    """
    engines = scope.runtime.engines
    source = scope.runtime.datasets.source(sample.datasets[0])
    text = replace(old, reference=sql)
    try:
        looked = held_against(engines.get(old.engine), text, source, engines.get(engine), sql)
    except ReferenceFails:
        return True
    except JentrowError:
        return False
    return looked.outcome.verdict == "correct"


def _datasets(
    scope: CourseScope, sample: Sample, old: CoreExercise, new: CoreExercise
) -> list[MovedDataset]:
    engines = scope.runtime.engines
    sources = scope.runtime.datasets.sample_source(sample).datasets
    held = held_on_all(
        engines.get(old.engine), old, sources, engines.get(new.engine), new.reference
    )
    found = []
    for one in held:
        outcome = one.looked.outcome
        same = outcome.verdict == "correct"
        message = " ".join(finding.message for finding in outcome.findings)
        found.append(
            MovedDataset(
                one.dataset, same, "" if same else message, None if same else one.looked.woven
            )
        )
    return found


def _trials(before: Grader, after: Grader) -> list[MovedTrial]:
    first, second = run_trials(before), run_trials(after)
    return [
        MovedTrial(one.trial.name, one.trial.expected, one.standing, other.standing)
        for one, other in zip(first, second, strict=True)
    ]


def moved_sheet(scope: CourseScope, sheet: str, engine: str) -> list[MovedExercise]:
    """Looks at the exercises of a sheet on another engine. Raises :class:`NotFound`."""
    return [
        moved_exercise(scope, slug, content, engine)
        for slug, content in _contents(scope, sheet)
        if content["engine"] != engine
    ]


def move_sheet(scope: CourseScope, sheet: str, engine: str) -> list[MovedExercise]:
    """Moves those exercises of a sheet that hold on the other engine; gives what was looked at."""
    found = moved_sheet(scope, sheet, engine)
    with scope.records.writing() as session:
        for one in found:
            if one.holds:
                record = exercise_named(session, one.slug)
                keep_content(session, record, one.content, f"moved to {one.engine}")
    scope.runtime.queue.wake()
    return found


def _contents(scope: CourseScope, sheet: str) -> list[tuple[str, dict[str, Any]]]:
    with scope.records.session() as session:
        entries = sheet_named(session, sheet).entries
        return [(entry.exercise.slug, record_content(entry.exercise)) for entry in entries]
