"""Queries about samples and the exercises over them."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from jentrow.records.models import Exercise, Sample


def list_samples(session: Session, course_id: int) -> Sequence[Sample]:
    """All samples of a course, by name."""
    return session.scalars(
        select(Sample).where(Sample.course_id == course_id).order_by(Sample.name)
    ).all()


def find_sample(session: Session, course_id: int, name: str) -> Sample | None:
    """The sample with this name."""
    return session.scalars(
        select(Sample).where(Sample.course_id == course_id, Sample.name == name)
    ).one_or_none()


def exercise_counts(session: Session, course_id: int) -> dict[int, int]:
    """How many exercises use each sample."""
    rows = session.execute(
        select(Exercise.sample_id, func.count())
        .where(Exercise.course_id == course_id)
        .group_by(Exercise.sample_id)
    )
    return {row[0]: row[1] for row in rows}


def exercises_over(session: Session, sample_id: int) -> Sequence[Exercise]:
    """The exercises that use a sample."""
    return session.scalars(
        select(Exercise).where(Exercise.sample_id == sample_id).order_by(Exercise.position)
    ).all()
