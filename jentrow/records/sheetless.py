"""Queries about answers that are on no sheet, and so in no marks."""

from __future__ import annotations

from collections.abc import Collection

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from jentrow.records.models import Exercise, SheetEntry, Submission
from jentrow.records.numbers import among


def sheetless_counts(session: Session, course_id: int) -> dict[int, int]:
    """The exercises of a course that have such answers, and how many."""
    found = session.execute(
        select(Submission.exercise_id, func.count())
        .join(Exercise, Exercise.id == Submission.exercise_id)
        .where(Exercise.course_id == course_id, Submission.sheet_id.is_(None))
        .group_by(Submission.exercise_id)
    )
    return {exercise_id: count for exercise_id, count in found}  # noqa: C416


def put_on_sheet(session: Session, exercise_ids: Collection[int], sheet_id: int) -> int:
    """Puts such answers to some exercises on a sheet; gives how many they were."""
    done = session.execute(
        update(Submission)
        .where(among(Submission.exercise_id, exercise_ids), Submission.sheet_id.is_(None))
        .values(sheet_id=sheet_id),
        execution_options={"synchronize_session": False},
    )
    return int(done.rowcount)  # type: ignore[attr-defined]


def only_on_sheet(session: Session, sheet_id: int) -> set[int]:
    """The exercises that are on this sheet, and on no other."""
    here = select(SheetEntry.exercise_id).where(SheetEntry.sheet_id == sheet_id)
    found = session.scalars(
        select(SheetEntry.exercise_id)
        .where(SheetEntry.exercise_id.in_(here))
        .group_by(SheetEntry.exercise_id)
        .having(func.count() == 1)
    )
    return set(found)
