"""What was found out about texts on made-up rows."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session

from jentrow.records.models import Explanation, Submission


def explanations_of(session: Session, exercise_id: int, measure: str) -> dict[str, dict[str, Any]]:
    """What is known of the texts of an exercise, by their digests."""
    rows = session.execute(
        select(Explanation.text, Explanation.found).where(
            Explanation.exercise_id == exercise_id, Explanation.measure == measure
        )
    )
    return {row.text: row.found for row in rows}


def explanation_of(
    session: Session, exercise_id: int, measure: str, text: str
) -> dict[str, Any] | None:
    """What is known of one text."""
    return session.scalars(
        select(Explanation.found).where(
            Explanation.exercise_id == exercise_id,
            Explanation.measure == measure,
            Explanation.text == text,
        )
    ).one_or_none()


def texts_of(session: Session, exercise_id: int) -> dict[int, str]:
    """The text of every submission to an exercise, by its number."""
    rows = session.execute(
        select(Submission.id, Submission.sql).where(Submission.exercise_id == exercise_id)
    )
    return {row.id: row.sql for row in rows}


def keep_explanation(
    session: Session, exercise_id: int, measure: str, text: str, found: Mapping[str, Any]
) -> None:
    """Keeps what was found out; what was found by other measures of the exercise is forgotten."""
    session.execute(
        delete(Explanation).where(
            Explanation.exercise_id == exercise_id, Explanation.measure != measure
        )
    )
    values = {"exercise_id": exercise_id, "measure": measure, "text": text, "found": dict(found)}
    session.execute(
        insert(Explanation)
        .values(**values)
        .on_conflict_do_update(
            index_elements=["exercise_id", "measure", "text"], set_={"found": dict(found)}
        )
    )
