"""Who may see what, decided here and nowhere else.

Whatever belongs to a course is reached through a scope that is made for it here: an instructor's,
or a learner's, who sees the open sheets, the open dataset, and what is their own.
"""

from __future__ import annotations

from jentrow.records.people import course_named, learner_of, teaches
from jentrow.services.accounts.sessions import Who, who
from jentrow.services.errors import NotAllowed, NotFound, NotTaken
from jentrow.services.runtime.runtime import Runtime
from jentrow.services.scope import CourseScope, LearnerScope, course_scope


def _not_here(slug: str) -> NotFound:
    # The same words whether there is such a course or not.
    return NotFound(f"You have no course {slug!r}. Sign in as somebody else, or join it.")


def as_instructor(runtime: Runtime, one: Who, slug: str, *, changes: bool) -> CourseScope:
    """The runtime of a course for somebody who teaches it.

    Raises :class:`NotFound`, :class:`NotAllowed` for a learner of the course, and
    :class:`NotTaken` where something is to be changed in a course that was put away.
    """
    with runtime.records.session() as session:
        course = course_named(session, slug)
        if course is None:
            raise _not_here(slug)
        if not teaches(session, one.id, course.id):
            if learner_of(session, one.id, course.id) is None:
                raise _not_here(slug)
            raise NotAllowed("This is for the instructors of the course only.")
        if changes and course.archived_at is not None:
            raise NotTaken(f"{course.title} is archived: bring it back to change anything.")
        return course_scope(runtime, course.id, one.name, one.id)


def as_learner(runtime: Runtime, one: Who, slug: str, *, changes: bool) -> LearnerScope:
    """The runtime of a learner of a course.

    Raises :class:`NotFound`, :class:`NotAllowed` for somebody who is no learner of it, and
    :class:`NotTaken` where something is to be changed in a course that was put away.
    """
    with runtime.records.session() as session:
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
        records = runtime.records.of_course(course.id, one.name)
        return LearnerScope(runtime, records, course.id, one.id, learner.id)


def may_listen(scope: CourseScope, one: Who) -> bool:
    """Whether a stream of a course's news may go on: the sign-in that opened it, and the place there."""
    if who(scope.runtime, one.token) is None:
        return False
    with scope.records.session() as session:
        return (
            teaches(session, one.id, scope.course_id)
            or learner_of(session, one.id, scope.course_id) is not None
        )
