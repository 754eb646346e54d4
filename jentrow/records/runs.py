"""The queries that somebody ran for trying: an instructor on a sample, a learner for an exercise."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import Select, delete, select
from sqlalchemy.orm import Session

from jentrow.records.models import Exercise, Learner, TriedQuery
from jentrow.records.numbers import among


@dataclass(frozen=True, slots=True)
class RunsOf:
    """Whose runs: those of a course's instructors on a sample, or of a learner for an exercise."""

    sample_id: int
    learner_id: int | None = None
    exercise_id: int | None = None


def _runs(whose: RunsOf) -> Select[TriedQuery]:
    return (
        select(TriedQuery)
        .where(
            TriedQuery.sample_id == whose.sample_id,
            TriedQuery.learner_id.is_not_distinct_from(whose.learner_id),
            TriedQuery.exercise_id.is_not_distinct_from(whose.exercise_id),
        )
        .order_by(TriedQuery.id.desc())
    )


def runs_of(session: Session, whose: RunsOf) -> Sequence[TriedQuery]:
    """The runs, the last first."""
    return session.scalars(_runs(whose)).all()


def run_numbered(session: Session, whose: RunsOf, number: int) -> TriedQuery | None:
    """One of these runs, by its id."""
    return session.scalars(_runs(whose).where(TriedQuery.id == number)).one_or_none()


def add_run(session: Session, run: TriedQuery, keep: int) -> None:
    """Adds a run, and drops all but the last ``keep`` of the same that have no name.

    The very text run again takes the place of its last run.
    """
    runs = _runs(RunsOf(run.sample_id, run.learner_id, run.exercise_id))
    told = (TriedQuery.id, TriedQuery.name, TriedQuery.sql, TriedQuery.dataset)
    last = session.execute(runs.with_only_columns(*told).limit(1)).first()
    if last is not None and last.sql == run.sql and last.dataset == run.dataset:
        run.name = run.name or last.name
        _drop(session, [last.id])
    session.add(run)
    session.flush()
    unnamed = runs.where(TriedQuery.name == "").with_only_columns(TriedQuery.id)
    _drop(session, session.scalars(unnamed.offset(keep)).all())


def with_their_owners(session: Session, runs: Sequence[TriedQuery]) -> list[TriedQuery]:
    """Those of learners' runs whose learner and exercise are there still."""
    learners, exercises = (
        {getattr(one, name) for one in runs} for name in ("learner_id", "exercise_id")
    )
    learners &= set(session.scalars(select(Learner.id).where(among(Learner.id, learners))))
    exercises &= set(session.scalars(select(Exercise.id).where(among(Exercise.id, exercises))))
    return [one for one in runs if one.learner_id in learners and one.exercise_id in exercises]


def _drop(session: Session, ids: Sequence[int]) -> None:
    if ids:
        session.execute(delete(TriedQuery).where(among(TriedQuery.id, ids)))
