"""Exercises saved in versions, compared and restored."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from jentrow.core.errors import InvalidExercise
from jentrow.core.exercises.files.content import content_of, read_exercise
from jentrow.core.exercises.packs.writing import files_of
from jentrow.records.contents import new_version, put_content, record_content
from jentrow.records.exercises import (
    find_version,
    last_version,
    versions_of,
)
from jentrow.records.models import Exercise, ExerciseVersion
from jentrow.records.samples import list_samples
from jentrow.records.tasks import renew_tasks
from jentrow.services.errors import NotFound
from jentrow.services.exercises.overview import exercise_named
from jentrow.services.scope import CourseScope


@dataclass(frozen=True)
class VersionLine:
    """A version of an exercise in the list of them."""

    number: int
    summary: str
    by: str
    made_at: datetime


@dataclass(frozen=True)
class FileDifference:
    """A part of an exercise before and after; it is named by its file in a pack."""

    part: str
    before: str
    after: str


def keep(scope: CourseScope, slug: str, content: Mapping[str, Any]) -> int:
    """Keeps a content as the exercise's next version; returns its number.

    Raises :class:`InvalidExercise` with every problem; the draft stays then.
    """
    with scope.records.writing() as session:
        record = exercise_named(session, slug)
        samples = [sample.name for sample in list_samples(session, record.course_id)]
        limits = read_exercise(slug, content, samples).rules.limits
        if problems := scope.runtime.settings.problems_of(limits):
            raise InvalidExercise(slug, problems)
        number = keep_content(session, record, content, "")
    scope.runtime.queue.wake()
    return number


def keep_content(
    session: Session, record: Exercise, content: Mapping[str, Any], summary: str
) -> int:
    """Keeps a content as the next version, unless nothing changed; returns its number.

    Answers that could not be graded may be so now: the caller wakes the queue.
    """
    renew_tasks(session, [record.id])
    samples = {sample.name: sample for sample in list_samples(session, record.course_id)}
    exercise = read_exercise(record.slug, content, samples)
    before = record_content(record)
    number = last_version(session, record.id)
    if number == 0:
        number = 1
        session.add(new_version(session, record, 1, before, "as it was before versions were kept"))
    after = content_of(exercise)
    record.draft = record.drafted_at = None
    changed = [part for part in {**before, **after} if before.get(part) != after.get(part)]
    if not changed:
        return number
    record.sample = samples[exercise.sample]
    record.sample_id = record.sample.id
    put_content(session, record, exercise)
    session.add(new_version(session, record, number + 1, after, summary or ", ".join(changed)))
    return number + 1


def versions(scope: CourseScope, slug: str) -> list[VersionLine]:
    """The versions of an exercise, the last first."""
    with scope.records.session() as session:
        return [
            VersionLine(one.number, one.summary, one.by, one.made_at)
            for one in versions_of(session, exercise_named(session, slug).id)
        ]


def restore(scope: CourseScope, slug: str, number: int) -> int:
    """Makes an old version the next one; returns its number."""
    with scope.records.writing() as session:
        record = exercise_named(session, slug)
        old = _find(session, record, number)
        kept = keep_content(session, record, old.content, f"version {number} again")
    scope.runtime.queue.wake()
    return kept


def _find(session: Session, record: Exercise, number: int) -> ExerciseVersion:
    found = find_version(session, record.id, number)
    if found is None:
        raise NotFound(f"{record.title} has no version {number}.")
    return found


def compare_versions(scope: CourseScope, slug: str, older: int, newer: int) -> list[FileDifference]:
    """What differs between two versions, part by part."""
    with scope.records.session() as session:
        record = exercise_named(session, slug)
        first, second = (_find(session, record, number).content for number in (older, newer))
        names = [sample.name for sample in list_samples(session, record.course_id)]
    return differences(slug, first, second, names)


def differences(
    slug: str, before: Mapping[str, Any], after: Mapping[str, Any], samples: list[str]
) -> list[FileDifference]:
    """What differs between two contents, as the files that a pack has of them."""
    names = [*samples, str(before.get("sample")), str(after.get("sample"))]
    ours, theirs = (files_of(read_exercise(slug, one, names)) for one in (before, after))
    return [
        FileDifference(part, ours.get(part, ""), theirs.get(part, ""))
        for part in dict.fromkeys([*ours, *theirs])
        if ours.get(part) != theirs.get(part)
    ]
