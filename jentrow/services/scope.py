"""What a use case works in: a running server, one course of it, and who asks."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from jentrow.records.database import Records
from jentrow.records.exercises import course_of_session
from jentrow.records.models import Course
from jentrow.services.errors import NotFound
from jentrow.services.runtime.runtime import Runtime


@dataclass(frozen=True, slots=True)
class CourseScope:
    """One course, as somebody works on it; its ``records`` are the course's own.

    ``person_id`` is 0 where nobody is signed in: on the command line.
    """

    runtime: Runtime
    records: Records
    course_id: int
    person_id: int

    @property
    def owner(self) -> tuple[int, int]:
        """The course and the person, whom an import belongs to."""
        return self.course_id, self.person_id


@dataclass(frozen=True, slots=True)
class LearnerScope(CourseScope):
    """One course as one of its learners works in it."""

    learner_id: int


def course_scope(runtime: Runtime, course_id: int, actor: str, person_id: int = 0) -> CourseScope:
    """A course as ``actor``, a name for the history of changes, works on it."""
    records = runtime.records.of_course(course_id, actor)
    return CourseScope(runtime, records, course_id, person_id)


def course_in_scope(session: Session) -> Course:
    """The course whose records these are. Raises :class:`NotFound` where there is none yet."""
    course = course_of_session(session)
    if course is None:
        raise NotFound("There is no course yet: begin one first.")
    return course
