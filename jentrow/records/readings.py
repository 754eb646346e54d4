"""Queries about what reading a graded text tells: its wording, and what explains its outcome."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import Any, NamedTuple

from sqlalchemy import bindparam, func, select, text, update
from sqlalchemy.orm import Session

from jentrow.records.models import Grading, Submission

_UNREAD = text("gradings.wording = ''")  # as the index has it


class Unread(NamedTuple):
    """A grading whose text is not read yet.

    ``outcome`` is what it came to and ``measure`` what it was graded by, as the grading has them;
    where it is ``explained`` already, only its wording is to be told.
    """

    grading_id: int
    submission_id: int
    exercise_id: int
    sql: str
    explained: bool
    outcome: str
    measure: str


def unread(session: Session, most: int, without: Collection[int] = ()) -> Sequence[Unread]:
    """Gradings that stand and whose texts are unread, at most so many, all of one exercise.

    Exercises in ``without`` are passed over.
    """
    standing = (
        select(
            Grading.id,
            Submission.id,
            Submission.exercise_id,
            Submission.sql,
            Grading.explained,
            Grading.outcome,
            Grading.measure,
        )
        .join(Submission, Submission.grading_id == Grading.id)
        .where(_UNREAD)
    )
    if without:
        standing = standing.where(Submission.exercise_id.not_in(list(without)))
    first = session.execute(standing.order_by(Grading.id).limit(1)).first()
    if first is None:
        return []
    of_one = standing.where(Submission.exercise_id == first[2]).order_by(Grading.id).limit(most)
    return [Unread._make(row) for row in session.execute(of_one)]


def unread_counts(session: Session) -> Sequence[tuple[int, int]]:
    """Each exercise with such gradings, and how many."""
    asked = (
        select(Submission.exercise_id, func.count())
        .join(Grading, Submission.grading_id == Grading.id)
        .where(_UNREAD)
        .group_by(Submission.exercise_id)
    )
    return [(id, count) for id, count in session.execute(asked)]


def tell_wordings(session: Session, wordings: Mapping[int, str]) -> None:
    """Keeps the wordings of gradings, by their ids: their texts are read."""
    rows = [{"grading": id, "said": said} for id, said in wordings.items()]
    _keep(session, rows, wording=bindparam("said"), explained=True)


def tell_findings(session: Session, explained: Mapping[int, Mapping[str, Any]]) -> None:
    """Keeps what was found, explained, of gradings, by their ids: ``findings`` and ``codes``."""
    rows = [
        {"grading": id, "found": told["findings"], "kinds": told["codes"]}
        for id, told in explained.items()
    ]
    _keep(session, rows, findings=bindparam("found"), codes=bindparam("kinds"))


def _keep(session: Session, rows: Sequence[dict[str, Any]], **values: Any) -> None:
    """Changes gradings, of which each row names one, to values that it has."""
    if rows:
        changing = update(Grading).where(Grading.id == bindparam("grading")).values(**values)
        session.connection().execute(changing, rows)
