"""Queries about the wordings of graded texts, which are told after their verdicts."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import NamedTuple

from sqlalchemy import bindparam, select, text, update
from sqlalchemy.orm import Session

from jentrow.records.models import Grading, Submission

_UNKNOWN = text("gradings.wording = ''")  # as the index has it


class Unworded(NamedTuple):
    """A grading whose text's wording is not told yet."""

    grading_id: int
    submission_id: int
    exercise_id: int
    sql: str


def unworded(session: Session, most: int, without: Collection[int] = ()) -> Sequence[Unworded]:
    """Gradings that stand and have no wording, at most so many, all of one exercise.

    Exercises in ``without`` are passed over.
    """
    standing = (
        select(Grading.id, Submission.id, Submission.exercise_id, Submission.sql)
        .join(Submission, Submission.grading_id == Grading.id)
        .where(_UNKNOWN)
    )
    if without:
        standing = standing.where(Submission.exercise_id.not_in(list(without)))
    first = session.execute(standing.order_by(Grading.id).limit(1)).first()
    if first is None:
        return []
    of_one = standing.where(Submission.exercise_id == first[2]).order_by(Grading.id).limit(most)
    return [Unworded._make(row) for row in session.execute(of_one)]


def tell_wordings(session: Session, wordings: Mapping[int, str]) -> None:
    """Keeps the wordings of gradings, by their ids."""
    rows = [{"grading": id, "said": said} for id, said in wordings.items()]
    if rows:
        session.connection().execute(
            update(Grading)
            .where(Grading.id == bindparam("grading"))
            .values(wording=bindparam("said")),
            rows,
        )
