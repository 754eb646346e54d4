"""The exercise bench's records: drafts, versions, new exercises and copies of them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from difflib import SequenceMatcher
from typing import Any, Final

from sqlalchemy.orm import Session

from jentrow.core.errors import InvalidExercise, UnusableInput
from jentrow.core.exercises.content import content_of, read_exercise
from jentrow.core.exercises.packwriter import files_of
from jentrow.records.exercises import (
    find_version,
    last_version,
    list_exercises,
    versions_of,
)
from jentrow.records.models import Course, Exercise, ExerciseVersion
from jentrow.records.samples import list_samples
from jentrow.records.submissions import submissions_to
from jentrow.records.tasks import ANEW, add_tasks, renew_tasks
from jentrow.services.contents import new_version, put_content, record_content
from jentrow.services.desk import Desk
from jentrow.services.errors import NotFound
from jentrow.services.importing import add_exercise
from jentrow.services.slugs import plain_name
from jentrow.services.views import exercise_named, the_open_course

DRAFT_LENGTH: Final = 1_000_000
SHOWN_CONTEXT: Final = 3


@dataclass(frozen=True)
class VersionLine:
    """A version of an exercise in the list of them."""

    number: int
    summary: str
    by: str
    made_at: datetime


@dataclass(frozen=True)
class TextLine:
    """A line of two texts woven: on both sides, only before, only after, or left out."""

    kind: str
    text: str


@dataclass(frozen=True)
class FileDifference:
    """What differs in one part of an exercise; the part is named by its file in a pack."""

    part: str
    lines: list[TextLine]


# drafts and versions


def keep_draft(desk: Desk, slug: str, content: Mapping[str, Any]) -> datetime:
    """Keeps a content as it was typed, whatever is wrong with it."""
    with desk.records.writing() as session:
        exercise = exercise_named(session, slug)
        if len(str(content)) > DRAFT_LENGTH:
            raise UnusableInput("the draft is longer than 1,000,000 characters; shorten it.")
        exercise.draft = dict(content)
        exercise.drafted_at = datetime.now(UTC)
        return exercise.drafted_at


def drop_draft(desk: Desk, slug: str) -> None:
    """Forgets the draft: the exercise is as it was kept."""
    with desk.records.writing() as session:
        exercise = exercise_named(session, slug)
        exercise.draft = exercise.drafted_at = None


def keep(desk: Desk, slug: str, content: Mapping[str, Any]) -> int:
    """Keeps a content as the exercise's next version; returns its number.

    Raises :class:`InvalidExercise` with every problem; the draft stays then.
    """
    with desk.records.writing() as session:
        record = exercise_named(session, slug)
        samples = [sample.name for sample in list_samples(session, record.course_id)]
        limits = read_exercise(slug, content, samples).rules.limits
        if problems := desk.settings.problems_of(limits):
            raise InvalidExercise(slug, problems)
        number = keep_content(session, record, content, "")
    desk.queue.wake()
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


def versions(desk: Desk, slug: str) -> list[VersionLine]:
    """The versions of an exercise, the last first."""
    with desk.records.session() as session:
        return [
            VersionLine(one.number, one.summary, one.by, one.made_at)
            for one in versions_of(session, exercise_named(session, slug).id)
        ]


def restore(desk: Desk, slug: str, number: int) -> int:
    """Makes an old version the next one; returns its number."""
    with desk.records.writing() as session:
        record = exercise_named(session, slug)
        old = _find(session, record, number)
        kept = keep_content(session, record, old.content, f"version {number} again")
    desk.queue.wake()
    return kept


def _find(session: Session, record: Exercise, number: int) -> ExerciseVersion:
    found = find_version(session, record.id, number)
    if found is None:
        raise NotFound(f"{record.title} has no version {number}.")
    return found


def compare_versions(desk: Desk, slug: str, older: int, newer: int) -> list[FileDifference]:
    """What differs between two versions, part by part."""
    with desk.records.session() as session:
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
        FileDifference(part, list(_woven(ours.get(part, ""), theirs.get(part, ""))))
        for part in dict.fromkeys([*ours, *theirs])
        if ours.get(part) != theirs.get(part)
    ]


def _woven(before: str, after: str) -> list[TextLine]:
    ours, theirs = before.splitlines(), after.splitlines()
    lines: list[TextLine] = []
    for kind, a, b, c, d in SequenceMatcher(None, ours, theirs, autojunk=False).get_opcodes():
        if kind == "equal":
            lines += _context(ours[a:b], first=a == 0, last=b == len(ours))
            continue
        lines += [TextLine("before", line) for line in ours[a:b]]
        lines += [TextLine("after", line) for line in theirs[c:d]]
    return lines


def _context(same: list[str], *, first: bool, last: bool) -> list[TextLine]:
    head = 0 if first else SHOWN_CONTEXT
    tail = 0 if last else SHOWN_CONTEXT
    if len(same) <= head + tail + 1:
        return [TextLine("both", line) for line in same]
    return [
        *(TextLine("both", line) for line in same[:head]),
        TextLine("left_out", f"{len(same) - head - tail} lines alike"),
        *(TextLine("both", line) for line in same[len(same) - tail :]),
    ]


# exercises as a whole


def new_exercise(desk: Desk, title: str, sample: str) -> str:
    """Begins an exercise; returns its slug. Raises :class:`UnusableInput`."""
    content = {
        "title": title, "sample": sample, "engine": "sqlite", "points": 1, "prompt": "",
        "reference": "",
    }  # fmt: skip
    with desk.records.writing() as session:
        course = the_open_course(session)
        return _begin(session, course, content, "begun").slug


def copy_exercise(desk: Desk, slug: str, title: str) -> str:
    """Begins another exercise with the content of one; returns its slug."""
    with desk.records.writing() as session:
        record = exercise_named(session, slug)
        course = the_open_course(session)
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


def delete_exercise(desk: Desk, slug: str, *, with_answers: bool) -> None:
    """Deletes an exercise. Raises :class:`UnusableInput` where answers would be lost unasked."""
    with desk.records.writing() as session:
        record = exercise_named(session, slug)
        answers = len(submissions_to(session, record.id))
        if answers and not with_answers:
            raise UnusableInput(
                f"{record.title} has {answers} answers, which would be deleted with it."
            )
        session.delete(record)


def regrade(desk: Desk, slug: str) -> int:
    """Lets every answer to an exercise be graded anew, as it is kept now; returns how many."""
    with desk.records.writing() as session:
        exercise = exercise_named(session, slug)
        submissions = submissions_to(session, exercise.id)
        add_tasks(session, submissions, ANEW)
    desk.queue.wake()
    return len(submissions)
