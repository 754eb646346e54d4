"""Taking a pack and submissions into the records."""

from __future__ import annotations

from pathlib import Path

from sqlalchemy.orm import Session

from jentrow.core.exercises.packs.reading import Pack
from jentrow.records.additions import add_exercise, add_sheet
from jentrow.records.contents import (
    origin_of,
)
from jentrow.records.models import Course, Exercise, Sample
from jentrow.services.courses.lifecycle import add_course
from jentrow.services.runtime.sample_storage import datasets_of, keep_sample, undone_on_error


def import_pack(session: Session, folder: Path, pack: Pack) -> Course:
    """Makes a course of a pack; its samples' datasets are made below the data folder."""
    course = add_course(session, pack.title)
    samples: dict[str, Sample] = {}
    with undone_on_error() as made:
        for name, source in pack.samples.items():
            samples[name] = keep_sample(
                session, folder, course.id, name, datasets_of(source, folder), made, source.notes
            )
        exercises: dict[str, Exercise] = {}
        for exercise in pack.exercises:
            exercises[exercise.id] = add_exercise(
                session,
                course.id,
                exercise,
                samples[exercise.sample],
                f"from the pack {pack.title}",
                origin_of(exercise),
            )
        for sheet in pack.sheets:
            add_sheet(session, course.id, sheet, exercises)
        session.flush()
    return course
