"""Who may see what, decided here and nowhere else.

Whatever belongs to a course is reached through a desk that was opened for it here: an instructor's,
or a learner's, who sees the open sheets, the open dataset, and what is their own.
"""

from __future__ import annotations

from dataclasses import dataclass

from jentrow.records.people import course_named, learner_of, teaches
from jentrow.services.desk import Desk
from jentrow.services.errors import NotAllowed, NotFound, NotTaken
from jentrow.services.signin import Who, who


@dataclass(frozen=True, slots=True)
class LearnerDesk:
    """The desk of one learner of a course."""

    desk: Desk
    course_id: int
    learner_id: int


def _not_here(slug: str) -> NotFound:
    # The same words whether there is such a course or not.
    return NotFound(f"You have no course {slug!r}. Sign in as somebody else, or join it.")


def as_instructor(desk: Desk, one: Who, slug: str, *, changes: bool) -> Desk:
    """The desk of a course for somebody who teaches it.

    Raises :class:`NotFound`, :class:`NotAllowed` for a learner of the course, and
    :class:`NotTaken` where something is to be changed in a course that was put away.
    """
    with desk.records.session() as session:
        course = course_named(session, slug)
        if course is None:
            raise _not_here(slug)
        if not teaches(session, one.id, course.id):
            if learner_of(session, one.id, course.id) is None:
                raise _not_here(slug)
            raise NotAllowed("This is for the instructors of the course only.")
        if changes and course.archived_at is not None:
            raise NotTaken(f"{course.title} is archived: bring it back to change anything.")
        return desk.in_course(course.id, one.name, one.id)


def as_learner(desk: Desk, one: Who, slug: str, *, changes: bool) -> LearnerDesk:
    """The desk of a learner of a course.

    Raises :class:`NotFound`, :class:`NotAllowed` for somebody who is no learner of it, and
    :class:`NotTaken` where something is to be changed in a course that was put away.
    """
    with desk.records.session() as session:
        course = course_named(session, slug)
        if course is None:
            raise _not_here(slug)
        learner = learner_of(session, one.id, course.id)
        if learner is None:
            if not teaches(session, one.id, course.id):
                raise _not_here(slug)
            raise NotAllowed("This is for the learners of the course; you teach it.")
        if changes and course.archived_at is not None:
            raise NotTaken(
                f"{course.title} is over: its answers can be read, nothing is handed in."
            )
        return LearnerDesk(desk.in_course(course.id, one.name, one.id), course.id, learner.id)


def may_listen(desk: Desk, one: Who) -> bool:
    """Whether a stream of a course's news may go on: the sign-in that opened it, and the place there."""
    if who(desk, one.token) is None:
        return False
    with desk.records.session() as session:
        return (
            teaches(session, one.id, desk.course_id)
            or learner_of(session, one.id, desk.course_id) is not None
        )
