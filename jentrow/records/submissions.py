"""Queries about submissions and what they came to."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import Any, Final

from sqlalchemy import JSON, Text, bindparam, func, insert, select, update
from sqlalchemy.orm import Session, joinedload

from jentrow.core.batches import batched
from jentrow.records.models import Grading, Learner, Sheet, Submission

_AT_ONCE: Final = 500
"""Rows that one statement names by their numbers."""

_WRITTEN_OUT: Final = [one.name for one in Grading.__table__.columns if isinstance(one.type, JSON)]
_ADDED: Final = insert(Grading).values(
    {name: bindparam(name, type_=Text()) for name in _WRITTEN_OUT}
)
"""Adds gradings whose lists are written out already."""


def submissions_to(session: Session, exercise_id: int) -> Sequence[Submission]:
    """All submissions to an exercise, as they came in."""
    return session.scalars(
        select(Submission)
        .where(Submission.exercise_id == exercise_id)
        .order_by(Submission.submitted_at, Submission.id)
    ).all()


def submission_ids(session: Session, exercise_id: int) -> list[int]:
    """The numbers of all submissions to an exercise, as they came in."""
    return list(
        session.scalars(
            select(Submission.id)
            .where(Submission.exercise_id == exercise_id)
            .order_by(Submission.submitted_at, Submission.id)
        )
    )


def find_submission(session: Session, submission_id: int) -> Submission | None:
    """One submission with its exercise, and its sheet without the entries."""
    return session.scalars(
        select(Submission)
        .where(Submission.id == submission_id)
        .options(
            joinedload(Submission.exercise), joinedload(Submission.sheet).lazyload(Sheet.entries)
        )
    ).one_or_none()


def learners_of(session: Session, submission_ids: Collection[int]) -> list[int]:
    """Whose submissions these are, one for each of them."""
    asked = select(Submission.learner_id).where(Submission.id.in_(submission_ids))
    return list(session.scalars(asked))


def learners_called(session: Session, course_id: int, words: Iterable[str]) -> dict[str, Learner]:
    """Learners by what a file calls them: their learner id, or a name that only one of them has.

    Whoever is not here yet is added, called so.
    """
    here = learners_by_words(session, course_id)
    found: dict[str, Learner] = {}
    for word in words:
        if word not in found:
            known = here.get(word)
            if known is None:
                known = Learner(course_id=course_id, code=word, name=word)
                session.add(known)
            found[word] = known
    session.flush()
    return found


def learners_by_words(session: Session, course_id: int) -> dict[str, Learner]:
    """The learners of a course by learner id, and by name where only one is called so."""
    learners = session.scalars(select(Learner).where(Learner.course_id == course_id)).all()
    names = Counter(one.name for one in learners)
    by_name = {one.name: one for one in learners if names[one.name] == 1}
    return by_name | {one.code: one for one in learners}


def standing_gradings(
    session: Session, submission_ids: Sequence[int]
) -> dict[int, tuple[int, Grading | None]]:
    """Of each submission that is still there, its learner's number and what it came to last."""
    found: dict[int, tuple[int, Grading | None]] = {}
    for some in batched(submission_ids, _AT_ONCE):
        asked = select(Submission.id, Submission.learner_id, Submission.grading_id)
        rows = session.execute(asked.where(Submission.id.in_(some))).all()
        graded = [row.grading_id for row in rows if row.grading_id is not None]
        gradings: dict[int | None, Grading] = {}
        if graded:
            before = session.scalars(select(Grading).where(Grading.id.in_(graded)))
            gradings = {one.id: one for one in before}
        found |= {row.id: (row.learner_id, gradings.get(row.grading_id)) for row in rows}
    return found


def keep_gradings(session: Session, gradings: Sequence[dict[str, Any]]) -> None:
    """Adds what submissions came to, to stand from now on; what they came to before is kept."""
    if not gradings:
        return
    # Equal outcomes share their lists: each is written out once, not once for every submission.
    written: dict[int, str] = {}

    def as_text(value: object) -> str:
        known = written.get(id(value))
        if known is None:
            known = written[id(value)] = json.dumps(value)
        return known

    rows = [one | {name: as_text(one[name]) for name in _WRITTEN_OUT} for one in gradings]
    session.connection().execute(_ADDED, rows)
    latest = (
        select(func.max(Grading.id)).where(Grading.submission_id == Submission.id).scalar_subquery()
    )
    for some in batched([one["submission_id"] for one in gradings], _AT_ONCE):
        session.execute(
            update(Submission).where(Submission.id.in_(some)).values(grading_id=latest),
            execution_options={"synchronize_session": False},
        )


def point_at_gradings(session: Session, gradings: Mapping[int, int]) -> None:
    """Lets other ones of their gradings stand for some submissions; those that are no more do not."""
    rows = [{"submission": id, "grading": grading} for id, grading in gradings.items()]
    if rows:
        session.connection().execute(
            update(Submission)
            .where(
                Submission.id == bindparam("submission"),
                select(Grading.id).where(Grading.id == bindparam("grading")).exists(),
            )
            .values(grading_id=bindparam("grading")),
            rows,
        )


def gradings_of(session: Session, submission_id: int) -> Sequence[Grading]:
    """All that a submission ever came to, the last first."""
    return session.scalars(
        select(Grading).where(Grading.submission_id == submission_id).order_by(Grading.id.desc())
    ).all()


def count_outdated(session: Session, exercise_id: int, measure: str) -> int:
    """How many submissions to an exercise were graded with something else than this measure."""
    return (
        session.scalar(
            select(func.count())
            .select_from(Submission)
            .join(Grading, Grading.id == Submission.grading_id)
            .where(Submission.exercise_id == exercise_id, Grading.measure != measure)
        )
        or 0
    )
