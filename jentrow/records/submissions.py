"""Queries about submissions and what they came to."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import Any, Final

from sqlalchemy import JSON, Integer, Text, bindparam, func, insert, select, update
from sqlalchemy.orm import Session, joinedload

from jentrow.records.models import Grading, Learner, Sheet, Submission
from jentrow.records.numbers import among, among_given, given, numbers_of

_OF_ONE: Final = [
    one for one in Grading.__table__.columns if one.name not in ("id", "submission_id")
]
_WRITTEN_OUT: Final = [one.name for one in _OF_ONE if isinstance(one.type, JSON)]
_SUBMISSIONS: Final = numbers_of(bindparam("submissions", type_=Text()))
_NUMBER: Final = bindparam("first", type_=Integer()) + _SUBMISSIONS.c.key
_LAST: Final = select(func.coalesce(func.max(Grading.id), 0))
_ADDED: Final = insert(Grading).from_select(
    ["id", "submission_id", *(one.name for one in _OF_ONE)],
    select(
        _NUMBER,
        _SUBMISSIONS.c.value,
        *(
            bindparam(one.name, type_=Text() if one.name in _WRITTEN_OUT else one.type)
            for one in _OF_ONE
        ),
    ),
)
"""Adds gradings that are the same for a list of submissions, numbered from ``first`` on in its order.

Their lists are written out already.
"""

_POINT_AT: Final = (
    update(Submission).where(Submission.id == _SUBMISSIONS.c.value).values(grading_id=_NUMBER)
)

_STANDING: Final = select(Submission.id, Submission.learner_id, Submission.grading_id).where(
    among_given(Submission.id)
)


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
    asked = select(Submission.learner_id).where(among(Submission.id, submission_ids))
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
    rows = session.connection().execute(_STANDING, given(submission_ids)).all()
    graded = [grading for _, _, grading in rows if grading is not None]
    if not graded:  # most often, and of thousands at once
        return {id: (learner, None) for id, learner, _ in rows}
    before = session.scalars(select(Grading).where(among(Grading.id, graded)))
    gradings: dict[int | None, Grading] = {one.id: one for one in before}
    return {id: (learner, gradings.get(grading)) for id, learner, grading in rows}


def keep_gradings(session: Session, gradings: Collection[tuple[list[int], dict[str, Any]]]) -> None:
    """Adds what submissions came to, to stand from now on; what they came to before is kept.

    Each grading comes with the numbers of the submissions that it is for.
    """
    if not gradings:
        return
    connection = session.connection()
    first = connection.execute(_LAST).scalar_one() + 1
    graded: list[int] = []
    rows = []
    for submission_ids, values in gradings:
        written = {name: json.dumps(values[name]) for name in _WRITTEN_OUT}
        whose = {"submissions": json.dumps(submission_ids), "first": first + len(graded)}
        rows.append(values | written | whose)
        graded += submission_ids
    connection.execute(_ADDED, rows)
    connection.execute(_POINT_AT, {"submissions": json.dumps(graded), "first": first})


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
