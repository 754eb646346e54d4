"""Queries for a learner's own pages: attempts, drafts, extensions."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Final

from sqlalchemy import bindparam, delete, func, select
from sqlalchemy.orm import Session, joinedload, lazyload

from jentrow.records.models import (
    AnswerDraft,
    DecidedMark,
    Exercise,
    Extension,
    Grading,
    Sheet,
    SheetEntry,
    Submission,
)
from jentrow.records.numbers import among

_AS_ATTEMPTS: Final = (
    joinedload(Submission.decided).joinedload(DecidedMark.decision),
    # A list of attempts tells no more of a grading: its findings are many times as long.
    joinedload(Submission.grading).load_only(Grading.verdict, Grading.undecided, Grading.mark),
    lazyload(Submission.learner),
)


# While somebody hands in, everybody else who writes waits: what is asked then is written once.

_HANDED_IN_AS: Final = select(Submission.id).where(
    Submission.learner_id == bindparam("learner"), Submission.key == bindparam("key")
)
_LAST_ATTEMPT: Final = (
    select(func.count().over().label("count"), Submission.sql)
    .where(
        Submission.learner_id == bindparam("learner"),
        Submission.sheet_id == bindparam("sheet"),
        Submission.exercise_id == bindparam("exercise"),
    )
    .order_by(Submission.submitted_at.desc(), Submission.id.desc())
    .limit(1)
)
_DRAFT_DROPPED: Final = delete(AnswerDraft).where(
    AnswerDraft.learner_id == bindparam("learner"), AnswerDraft.exercise_id == bindparam("exercise")
)


def attempts_on(
    session: Session, learner_id: int, sheet_ids: Iterable[int]
) -> dict[tuple[int, int], list[Submission]]:
    """A learner's submissions by (sheet, exercise), as they came in."""
    found = session.scalars(
        select(Submission)
        .where(Submission.learner_id == learner_id, among(Submission.sheet_id, sheet_ids))
        .options(*_AS_ATTEMPTS)
        .order_by(Submission.submitted_at, Submission.id)
    )
    attempts: dict[tuple[int, int], list[Submission]] = {}
    for one in found:
        attempts.setdefault((one.sheet_id or 0, one.exercise_id), []).append(one)
    return attempts


def entry_of(session: Session, course_id: int, sheet: str, exercise: str) -> SheetEntry | None:
    """The entry of an exercise on a sheet, both by their slugs.

    Its sample, alternatives and trials are read when they are asked for: most requests of a
    learner's need none of them.
    """
    return session.scalars(
        select(SheetEntry)
        .join(Sheet, Sheet.id == SheetEntry.sheet_id)
        .join(Exercise, Exercise.id == SheetEntry.exercise_id)
        .where(Sheet.course_id == course_id, Sheet.slug == sheet, Exercise.slug == exercise)
        .options(
            joinedload(SheetEntry.exercise).options(
                lazyload(Exercise.sample),
                lazyload(Exercise.alternatives),
                lazyload(Exercise.trials),
            )
        )
    ).one_or_none()


def bare_sheet(session: Session, sheet_id: int) -> Sheet:
    """A sheet without its entries."""
    return session.scalars(
        select(Sheet).where(Sheet.id == sheet_id).options(lazyload(Sheet.entries))
    ).one()


def exercise_slugs(session: Session, sheet_id: int) -> Sequence[str]:
    """The slugs of the exercises on a sheet, in their order."""
    return session.scalars(
        select(Exercise.slug)
        .join(SheetEntry, SheetEntry.exercise_id == Exercise.id)
        .where(SheetEntry.sheet_id == sheet_id)
        .order_by(SheetEntry.position)
    ).all()


def attempts_at(
    session: Session, learner_id: int, sheet_id: int, exercise_id: int
) -> list[Submission]:
    """A learner's submissions to one exercise on a sheet, as they came in."""
    found = session.scalars(
        select(Submission)
        .where(
            Submission.learner_id == learner_id,
            Submission.sheet_id == sheet_id,
            Submission.exercise_id == exercise_id,
        )
        .options(*_AS_ATTEMPTS)
        .order_by(Submission.submitted_at, Submission.id)
    )
    return list(found)


def last_attempt_at(
    session: Session, learner_id: int, sheet_id: int, exercise_id: int
) -> tuple[int, str]:
    """How many submissions to one exercise on a sheet a learner has, and the text of the last."""
    whose = {"learner": learner_id, "sheet": sheet_id, "exercise": exercise_id}
    found = session.connection().execute(_LAST_ATTEMPT, whose).one_or_none()
    return (found[0], found[1]) if found else (0, "")


def extension_of(session: Session, learner_id: int, sheet_id: int) -> Extension | None:
    """A learner's extension of a sheet."""
    return session.get(Extension, (sheet_id, learner_id))


def handed_in_as(session: Session, learner_id: int, key: str) -> Submission | None:
    """The submission that a learner's page handed in under a key."""
    id = session.connection().scalar(_HANDED_IN_AS, {"learner": learner_id, "key": key})
    return None if id is None else session.get(Submission, id)


def drop_draft(session: Session, learner_id: int, exercise_id: int) -> None:
    """Forgets what a learner has typed for an exercise, if anything."""
    session.connection().execute(_DRAFT_DROPPED, {"learner": learner_id, "exercise": exercise_id})


def extensions_for(session: Session, learner_id: int) -> dict[int, Extension]:
    """A learner's extensions by sheet."""
    found = session.scalars(select(Extension).where(Extension.learner_id == learner_id))
    return {one.sheet_id: one for one in found}


def drafts_of(session: Session, learner_id: int) -> Sequence[AnswerDraft]:
    """What a learner has typed and not handed in."""
    return session.scalars(select(AnswerDraft).where(AnswerDraft.learner_id == learner_id)).all()


def count_handed_in(session: Session, sheet_id: int) -> int:
    """How many submissions belong to a sheet."""
    count = session.scalar(select(func.count()).where(Submission.sheet_id == sheet_id))
    return count or 0
