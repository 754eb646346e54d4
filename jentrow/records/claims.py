"""Who grades what waits: claims of tasks, and what comes of them."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import cache
from typing import Final, NamedTuple

from sqlalchemy import Result, Select, bindparam, case, delete, func, select, update
from sqlalchemy.orm import Session

from jentrow.records.models import Course, Exercise, GradingTask, Submission
from jentrow.records.numbers import among, among_given, given
from jentrow.records.tasks import ALL_PAUSED, SLOW

TRIES: Final = 3
"""After so many claims that ended with a process, a submission is set aside. After the first it is
graded alone: it may have been another's fault."""

MOST_SLOW: Final = 50
"""Of answers that are known to take long so few are claimed together: nobody else writes meanwhile."""

BATCH_CHARACTERS: Final = 16_000_000
READ_AT_ONCE: Final = 100
"""Of the texts that are claimed together: no more are read after so many characters."""

SET_ASIDE: Final = "The processes that graded it were ended each time. Look at the answer before it is graded again."


class Claimed(NamedTuple):
    """A submission that somebody grades, with the generation of its task."""

    submission_id: int
    sql: str
    generation: int


@dataclass(frozen=True, slots=True)
class Batch:
    """Submissions to one exercise, of one priority, that are claimed to be graded together."""

    exercise_id: int
    priority: int
    claimed: tuple[Claimed, ...]

    @property
    def generations(self) -> dict[int, int]:
        """The generation of each submission's task."""
        return {one.submission_id: one.generation for one in self.claimed}


def is_any_waiting(session: Session, priorities: tuple[int, ...]) -> bool:
    """Whether something waits of these priorities that may be graded now: asked without writing."""
    return session.connection().scalar(_some_waiting(priorities)) is not None


def claim_batch(
    session: Session, claimer: str, most: int, priorities: tuple[int, ...]
) -> Batch | None:
    """Claims what comes next of these priorities, all of one exercise and one priority.

    The session must be a writing one. None where nothing waits that may be graded now.
    """
    # Each answer that is handed in passes here: a statement that is written once, and run without
    # objects being made of its rows, takes a fourth of the time.
    connection = session.connection()
    if connection.scalar(ALL_PAUSED) is not None:
        return None
    first = connection.execute(_first_waiting(priorities)).one_or_none()
    if first is None:
        return None
    if first.priority == SLOW:
        most = min(most, MOST_SLOW)
    if first.tries == 0 and most > 1:
        like_it = {"exercise": first.exercise_id, "of": first.priority, "in_turn": first.turn}
        texts = connection.execute(_texts_together(priorities), like_it | {"most": most})
    else:
        texts = connection.execute(_TEXT, {"submission": first.submission_id})
    claimed = tuple(_read(texts))
    ids = [one.submission_id for one in claimed]
    connection.execute(_CLAIM, given(ids) | {"claimer": claimer})
    return Batch(first.exercise_id, first.priority, claimed)


def _read(rows: Result[int, str, int]) -> Iterator[Claimed]:
    """The texts of a batch, as many as may be in memory at once; one at least."""
    characters = 0
    for part in rows.partitions(READ_AT_ONCE):
        yield from map(Claimed._make, part)
        characters += sum(len(sql) for _, sql, _ in part)
        if characters > BATCH_CHARACTERS:
            return


def begin(session: Session, submission_ids: Iterable[int]) -> None:
    """Notes that what was claimed is being judged from now on: a death may be its doing."""
    session.connection().execute(_BEGIN, given(submission_ids) | {"now": datetime.now(UTC)})


_ITS: Final = among_given(GradingTask.submission_id)
_CLAIM: Final = (
    update(GradingTask).where(_ITS).values(claimed_by=bindparam("claimer"), claimed_at=None)
)
_BEGIN: Final = update(GradingTask).where(_ITS).values(claimed_at=bindparam("now"))
_RELEASE: Final = update(GradingTask).where(_ITS).values(claimed_by=None, claimed_at=None)
_DROP: Final = delete(GradingTask).where(_ITS, GradingTask.generation == bindparam("graded_at"))
_READ: Final = (GradingTask.submission_id, Submission.sql, GradingTask.generation)
_TEXT: Final = (
    select(*_READ)
    .join(Submission, Submission.id == GradingTask.submission_id)
    .where(GradingTask.submission_id == bindparam("submission"))
)


@cache
def _some_waiting(priorities: tuple[int, ...]) -> Select[int]:
    """The number of any task that may be claimed."""
    return _waiting(priorities).with_only_columns(GradingTask.submission_id).limit(1)


@cache
def _first_waiting(priorities: tuple[int, ...]) -> Select[int, int, int, int, int]:
    """What decides what is claimed with the task that comes next."""
    return _waiting(priorities).order_by(*_IN_ORDER).limit(1)


@cache
def _texts_together(priorities: tuple[int, ...]) -> Select[int, str, int]:
    """What is claimed with the task that comes next, itself first, in their order."""
    together = _waiting(priorities).where(
        GradingTask.exercise_id == bindparam("exercise"),
        GradingTask.priority == bindparam("of"),
        GradingTask.turn == bindparam("in_turn"),
        GradingTask.tries == 0,
    )
    texts = together.join(Submission, Submission.id == GradingTask.submission_id)
    return texts.with_only_columns(*_READ).order_by(*_IN_ORDER).limit(bindparam("most"))


def _waiting(priorities: Collection[int]) -> Select[int, int, int, int, int]:
    """Tasks that may be claimed."""
    return (
        select(
            GradingTask.submission_id,
            GradingTask.exercise_id,
            GradingTask.priority,
            GradingTask.tries,
            GradingTask.turn,
        )
        .join(Exercise, Exercise.id == GradingTask.exercise_id)
        .join(Course, Course.id == Exercise.course_id)
        .where(
            GradingTask.problem == "",
            GradingTask.claimed_by.is_(None),
            GradingTask.priority.in_(priorities),
            Course.grading_paused.is_(False),
        )
    )


_IN_ORDER: Final = (
    GradingTask.priority,
    GradingTask.tries,
    GradingTask.turn,
    GradingTask.queued_at,
    GradingTask.submission_id,
)
"""What comes next first.

What was in hand when a process ended comes after what was not: it may be its doing, and nobody
waits for it again and again; and where it is not, it is not in hand at the next end as well.
"""


def drop_tasks(session: Session, taken: Mapping[int, int]) -> None:
    """Takes submissions off the queue that were graded at this generation; others are free again."""
    of_generation: dict[int, list[int]] = {}
    for id, generation in taken.items():
        of_generation.setdefault(generation, []).append(id)
    dropped = 0
    for generation, ids in of_generation.items():
        done = session.connection().execute(_DROP, given(ids) | {"graded_at": generation})
        dropped += done.rowcount
    if dropped < len(taken):
        release(session, taken)


def release(session: Session, submission_ids: Iterable[int]) -> None:
    """Gives claims up: whoever comes next may take the submissions."""
    session.connection().execute(_RELEASE, given(submission_ids))


def release_all_of(session: Session, claimer: str) -> None:
    """Gives up all claims of somebody who ends in order."""
    session.execute(
        update(GradingTask)
        .where(GradingTask.claimed_by == claimer)
        .values(claimed_by=None, claimed_at=None)
    )


def note_lost(session: Session, submission_ids: Sequence[int]) -> None:
    """Notes that a process ended over submissions which it graded alone; some are set aside."""
    if submission_ids:
        _note_ended(session, among(GradingTask.submission_id, submission_ids), at_least=2)


def release_stale(session: Session, claimer: str) -> None:
    """Takes over what others had claimed who are no more: only one server uses the records."""
    stale = GradingTask.claimed_by.is_not(None) & (GradingTask.claimed_by != claimer)
    _note_ended(session, stale & GradingTask.claimed_at.is_not(None), at_least=1)
    session.execute(update(GradingTask).where(stale).values(claimed_by=None))


def _note_ended(session: Session, which, *, at_least: int) -> None:  # type: ignore[no-untyped-def]
    tries = func.max(GradingTask.tries + 1, at_least)
    session.execute(
        update(GradingTask)
        .where(which)
        .values(
            tries=tries,
            problem=case((tries >= TRIES, SET_ASIDE), else_=GradingTask.problem),
            claimed_by=None,
            claimed_at=None,
        ),
        execution_options={"synchronize_session": False},
    )
