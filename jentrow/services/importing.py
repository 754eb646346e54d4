"""Taking a pack and submissions into the records."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy.orm import Session

from jentrow.core.exercises.exercise import Exercise as CoreExercise
from jentrow.core.exercises.packs import Pack
from jentrow.core.exercises.submissions import Submission as CoreSubmission
from jentrow.records.exercises import list_exercises
from jentrow.records.models import Alternative, Course, Exercise, Sample, Submission, Trial
from jentrow.records.submissions import learner_named
from jentrow.services.keeping import datasets_of, keep_sample, undone_on_error


def import_pack(session: Session, folder: Path, pack: Pack) -> Course:
    """Makes a course of a pack; its samples' datasets are made below the data folder."""
    course = Course(title=pack.title)
    session.add(course)
    session.flush()
    samples: dict[str, Sample] = {}
    with undone_on_error() as made:
        for name, source in pack.samples.items():
            samples[name] = keep_sample(
                session, folder, course.id, name, datasets_of(source, folder), made
            )
        for position, exercise in enumerate(pack.exercises):
            session.add(_record_of(exercise, course, samples[exercise.sample], position))
        session.flush()
    return course


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
