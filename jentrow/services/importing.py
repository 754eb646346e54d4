"""Taking a pack and submissions into the records."""

from __future__ import annotations

import shutil
from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy.orm import Session

from jentrow.core.exercises.exercise import Exercise as CoreExercise
from jentrow.core.exercises.packs import Pack
from jentrow.core.exercises.submissions import Submission as CoreSubmission
from jentrow.core.samples.sources import SampleSource
from jentrow.records.exercises import list_exercises
from jentrow.records.models import Alternative, Course, Exercise, Sample, Submission, Trial
from jentrow.records.submissions import learner_named

SAMPLES = "samples"


def import_pack(session: Session, folder: Path, pack: Pack) -> Course:
    """Makes a course of a pack; its samples' files are copied below the data folder."""
    course = Course(title=pack.title)
    session.add(course)
    session.flush()
    samples: dict[str, Sample] = {}
    for name, source in pack.samples.items():
        relative = f"{SAMPLES}/{course.id}-{name}"
        _copy_sample(source, folder / relative)
        samples[name] = Sample(course_id=course.id, name=name, folder=relative)
        session.add(samples[name])
    session.flush()
    for position, exercise in enumerate(pack.exercises):
        session.add(_record_of(exercise, course, samples[exercise.sample], position))
    session.flush()
    return course


def _copy_sample(source: SampleSource, target: Path) -> None:
    """Writes a sample's files in the layout of packs."""
    target.mkdir(parents=True)
    (target / "schema.sql").write_text(source.open.schema, encoding="utf-8")
    for at, dataset in enumerate(source.datasets):
        if not dataset.tables:
            continue
        place = target / "open" if at == 0 else target / "held-back" / dataset.name
        place.mkdir(parents=True)
        for table, path in dataset.tables:
            shutil.copyfile(path, place / f"{table}.csv")


def _record_of(exercise: CoreExercise, course: Course, sample: Sample, position: int) -> Exercise:
    rules = exercise.rules.comparison.to_mapping()
    if limits := exercise.rules.limits.to_mapping():
        rules["limits"] = limits
    return Exercise(
        course_id=course.id,
        sample_id=sample.id,
        slug=exercise.id,
        position=position,
        title=exercise.title,
        prompt=exercise.prompt,
        engine=exercise.engine,
        points=exercise.points,
        reference=exercise.reference,
        rules=rules,
        alternatives=[
            Alternative(position=at, name=one.name, sql=one.sql)
            for at, one in enumerate(exercise.alternatives)
        ],
        trials=[
            Trial(position=at, name=one.name, sql=one.sql, expected=one.expected)
            for at, one in enumerate(exercise.trials)
        ],
    )


def import_submissions(
    session: Session, course: Course, submissions: Sequence[CoreSubmission]
) -> list[Submission]:
    """Takes submissions in, their learners too; one without a time counts as handed in now."""
    by_slug = {exercise.slug: exercise for exercise in list_exercises(session, course.id)}
    taken = [
        Submission(
            exercise_id=by_slug[one.exercise].id,
            learner_id=learner_named(session, course.id, one.learner).id,
            sql=one.sql,
            submitted_at=one.submitted_at or datetime.now(UTC),
        )
        for one in submissions
    ]
    session.add_all(taken)
    session.flush()
    return taken
