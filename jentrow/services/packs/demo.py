"""Demo data: a pack, its learners and their submissions, loaded into a new folder and graded."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Final
from zoneinfo import ZoneInfo

from sqlalchemy.orm import Session

from jentrow.core.exercises.packs.reading import opened_pack
from jentrow.core.exercises.submissions import read_submissions
from jentrow.core.rosters import read_roster
from jentrow.records.exercises import list_exercises, list_sheets
from jentrow.records.models import Course, Instructor, Learner, Person
from jentrow.records.people import learners_of
from jentrow.services.accounts.passwords import hashed
from jentrow.services.courses.roster import add_learners
from jentrow.services.errors import FolderInUse
from jentrow.services.exercises.engine_moves import move_sheet
from jentrow.services.packs.demo_marks import mark_answers
from jentrow.services.packs.new_course import import_pack
from jentrow.services.runtime.grading_queue import Progress
from jentrow.services.runtime.runtime import Runtime
from jentrow.services.scope import course_scope
from jentrow.services.submissions.additions import import_submissions

MADE_FOR: Final = datetime(2026, 11, 23, 9)
"""When the demo's sheets and submissions are to be looked at, in the course's own time."""

_WEEK_BEGINS: Final = datetime(2026, 11, 22, 20)
"""When the week begins that :data:`MADE_FOR` is in: a sheet is open all through it, and closes with it."""

ZONE: Final = "Europe/Zurich"
JOIN_CODE: Final = "ALPENWEG"
COMMENTS: Final = "comments.yaml"
INSTRUCTOR: Final = ("instructor", "Alma Rieder")
"""The sign-in name and the name of who teaches the demo's course."""


@dataclass(frozen=True, slots=True)
class Loaded:
    """What demo data came to; everybody in it has the one ``password``."""

    exercises: int
    submissions: int
    instructor: str
    learner: str
    password: str


def load_demo(
    folder: Path,
    pack: Path,
    progress: Progress = lambda done, total: None,
    *,
    answers: Path | None = None,
    password: str = "",
    now: datetime | None = None,
    marked: bool = True,
    engine: str = "",
) -> Loaded:
    """Loads a pack with what lies beside its ``pack.yaml``: ``learners.csv``, ``submissions.csv``.

    ``answers`` are other submissions. With ``marked``, those to sheets that have closed are decided
    with what ``comments.yaml`` says, some of the next sheet too, and the marks are published. Times
    are moved to ``now``, in the course's own time: see :func:`moved_to`. With ``engine``, the
    exercises are moved to it that give the same there, with every trial as it was. Raises
    :class:`FolderInUse` where the folder holds something already.
    """
    if folder.exists() and any(folder.iterdir()):
        raise FolderInUse(
            f"{folder} is not empty: demo data goes into a new folder. Name another with --data, "
            "or serve this one with: jentrow serve --data " + str(folder)
        )
    now = now or datetime.now(ZoneInfo(ZONE)).replace(tzinfo=None)
    moved = moved_to(now)
    password = password or secrets.token_urlsafe(9)
    runtime = Runtime(folder)
    try:
        with opened_pack(pack) as opened, runtime.records.writing() as session:
            course = import_pack(session, folder, opened)
            _fill(session, course, pack, answers or pack / "submissions.csv", moved)
            learner = _give_accounts(session, course, password)
            exercises = len(opened.exercises)
        if engine:
            _move(runtime, course.id, engine)
        graded = runtime.queue.drain(progress)
        if marked and (pack / COMMENTS).is_file():
            mark_answers(runtime, course.id, pack / COMMENTS, INSTRUCTOR[1], now)
        return Loaded(exercises, graded, INSTRUCTOR[0], learner, password)
    finally:
        runtime.close()


def moved_to(now: datetime) -> timedelta:
    """By how many whole weeks times are moved, so that to ``now`` sheets stand as in the demo's week."""
    return timedelta(weeks=(now - _WEEK_BEGINS) // timedelta(weeks=1))


def _fill(session: Session, course: Course, pack: Path, answers: Path, moved: timedelta) -> None:
    """Gives a course its times, its learners and what they handed in, all of it moved."""
    course.zone = ZONE
    course.join_code = JOIN_CODE
    for sheet in list_sheets(session, course.id):
        sheet.opens = sheet.opens and sheet.opens + moved
        sheet.closes = sheet.closes and sheet.closes + moved
    roster = pack / "learners.csv"
    if roster.exists():
        add_learners(session, course, read_roster(roster).classes[0].entries)
    if pack.is_dir() and answers.exists():
        read = read_submissions(answers, [one.slug for one in list_exercises(session, course.id)])
        at_all = [
            replace(one, submitted_at=one.submitted_at and one.submitted_at + moved) for one in read
        ]
        import_submissions(session, course, at_all, _now())


def _move(runtime: Runtime, course_id: int, engine: str) -> None:
    """Moves the course to another engine, as far as it holds there. Raises :class:`EngineUnavailable`."""
    runtime.engines.get(engine).ask_version()
    scope = course_scope(runtime, course_id, INSTRUCTOR[1])
    with scope.records.session() as session:
        sheets = [sheet.slug for sheet in list_sheets(session, course_id)]
    for sheet in sheets:
        move_sheet(scope, sheet, engine)


def _give_accounts(session: Session, course: Course, password: str) -> str:
    """Lets everybody sign in; returns the sign-in name of a learner, empty for none."""
    kept = hashed(password)  # one for all: it is a demo
    login, name = INSTRUCTOR
    teacher = Person(login=login, name=name, password=kept, teaches=True, made_at=_now())
    session.add(teacher)
    session.flush()
    session.add(Instructor(course_id=course.id, person_id=teacher.id))
    learners: Sequence[Learner] = learners_of(session, course.id)
    for one in learners:
        login = (one.email or one.code).casefold()
        person = Person(login=login, name=one.name, email=one.email, password=kept, made_at=_now())
        session.add(person)
        session.flush()
        one.person_id = person.id
    return (learners[0].email or learners[0].code).casefold() if learners else ""


def _now() -> datetime:
    return datetime.now(UTC)
