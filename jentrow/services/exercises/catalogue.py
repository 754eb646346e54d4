"""Exercises added, copied, deleted, and graded anew."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from sqlalchemy.orm import Session

from jentrow.core.errors import UnusableInput
from jentrow.core.exercises.files.content import read_exercise
from jentrow.core.slugs import plain_name
from jentrow.records.additions import add_exercise
from jentrow.records.contents import record_content
from jentrow.records.exercises import (
    list_exercises,
)
from jentrow.records.models import Course, Exercise
from jentrow.records.samples import list_samples
from jentrow.records.submissions import submissions_to
from jentrow.services.exercises.overview import exercise_named
from jentrow.services.scope import CourseScope, course_in_scope


def new_exercise(scope: CourseScope, title: str, sample: str) -> str:
    """Begins an exercise; returns its slug. Raises :class:`UnusableInput`."""
    content = {
        "title": title, "sample": sample, "engine": "sqlite", "points": 1, "prompt": "",
        "reference": "",
    }  # fmt: skip
    with scope.records.writing() as session:
        course = course_in_scope(session)
        return _begin(session, course, content, "begun").slug


def copy_exercise(scope: CourseScope, slug: str, title: str) -> str:
    """Begins another exercise with the content of one; returns its slug."""
    with scope.records.writing() as session:
        record = exercise_named(session, slug)
        course = course_in_scope(session)
        content = record_content(record) | {"title": title}
        return _begin(session, course, content, f"copied from {record.title}").slug


def _begin(session: Session, course: Course, content: Mapping[str, Any], why: str) -> Exercise:
    names = {sample.name: sample for sample in list_samples(session, course.id)}
    slug = free_slug(session, course.id, str(content.get("title") or ""))
    exercise = read_exercise(slug, content, names)
    return add_exercise(session, course.id, exercise, names[exercise.sample], why)


def free_slug(session: Session, course_id: int, title: str) -> str:
    """A name for addresses and packs that no exercise has yet, made of a title."""
    taken = {exercise.slug for exercise in list_exercises(session, course_id)}
    return plain_name(title, taken, "exercise")


def delete_exercise(scope: CourseScope, slug: str, *, with_answers: bool) -> None:
    """Deletes an exercise. Raises :class:`UnusableInput` where answers would be lost unasked."""
    with scope.records.writing() as session:
        record = exercise_named(session, slug)
        answers = len(submissions_to(session, record.id))
        if answers and not with_answers:
            raise UnusableInput(
                f"{record.title} has {answers} answers, which would be deleted with it."
            )
        session.delete(record)
