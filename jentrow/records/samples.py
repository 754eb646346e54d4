"""Queries about samples, their datasets, and the queries tried on them."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from jentrow.records.models import Exercise, Sample, TriedQuery


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


def tried_queries(session: Session, sample_id: int, limit: int) -> Sequence[TriedQuery]:
    """The queries that were tried on a sample, the last first."""
    return session.scalars(
        select(TriedQuery)
        .where(TriedQuery.sample_id == sample_id)
        .order_by(TriedQuery.id.desc())
        .limit(limit)
    ).all()


def forget_tried_queries(session: Session, sample_id: int, keep: int) -> None:
    """Drops all but the last ``keep`` queries that were tried on a sample."""
    for query in session.scalars(
        select(TriedQuery)
        .where(TriedQuery.sample_id == sample_id)
        .order_by(TriedQuery.id.desc())
        .offset(keep)
    ):
        session.delete(query)
