"""Exercises saved in versions, compared and restored."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from difflib import SequenceMatcher
from typing import Any, Final

from sqlalchemy.orm import Session

from jentrow.core.errors import InvalidExercise
from jentrow.core.exercises.content import content_of, read_exercise
from jentrow.core.exercises.packwriter import files_of
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
        FileDifference(part, woven_lines(ours.get(part, ""), theirs.get(part, "")))
        for part in dict.fromkeys([*ours, *theirs])
        if ours.get(part) != theirs.get(part)
    ]


def woven_lines(before: str, after: str) -> list[TextLine]:
    """The lines of two texts woven, with a little of what is alike around what differs."""
    ours, theirs = before.splitlines(), after.splitlines()
    lines: list[TextLine] = []
    for kind, a, b, c, d in _steps_between(ours, theirs):
        if kind == "equal":
            lines += _context(ours[a:b], first=a == 0, last=b == len(ours))
            continue
        lines += [TextLine("before", line) for line in ours[a:b]]
        lines += [TextLine("after", line) for line in theirs[c:d]]
    return lines


MOST_LINES: Final = 2_000
MOST_PAIRS: Final = 40_000
"""Lines, and pairs of equal lines, of which it is looked for what belongs together: the search takes
time by the cube of lines that are all alike, and texts come from anywhere."""


def _steps_between(ours: list[str], theirs: list[str]) -> Sequence[tuple[str, int, int, int, int]]:
    """How the first lines become the second: difflib's steps; one for all where it would take long."""
    counts = Counter(ours), Counter(theirs)
    pairs = sum(count * counts[1][line] for line, count in counts[0].items())
    if len(ours) + len(theirs) <= MOST_LINES and pairs <= MOST_PAIRS:
        return SequenceMatcher(None, ours, theirs, autojunk=False).get_opcodes()
    head = _alike(ours, theirs)
    tail = _alike(ours[head:][::-1], theirs[head:][::-1])
    ends = len(ours) - tail, len(theirs) - tail
    steps = [
        ("equal", 0, head, 0, head),
        ("replace", head, ends[0], head, ends[1]),
        ("equal", ends[0], len(ours), ends[1], len(theirs)),
    ]
    return [step for step in steps if step[1] < step[2] or step[3] < step[4]]


def _alike(ours: list[str], theirs: list[str]) -> int:
    """How many lines at the beginning are the same."""
    return next(
        (at for at, (one, other) in enumerate(zip(ours, theirs, strict=False)) if one != other),
        min(len(ours), len(theirs)),
    )


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
