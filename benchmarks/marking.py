"""Marking a made course: 500 learners, 60 exercises, 60,000 submissions."""

from __future__ import annotations

import gc
import random
import tempfile
import time
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import insert, select, update
from sqlalchemy.orm import Session

from jentrow.api.server import YOUNG_OBJECTS
from jentrow.records.exercises import list_exercises
from jentrow.records.models import (
    Course,
    Exercise,
    Grading,
    Learner,
    Sheet,
    SheetEntry,
    Submission,
)
from jentrow.services.marking.decisions import Wish, decide
from jentrow.services.marking.desk import desk_view
from jentrow.services.marking.gradebook import gradebook
from jentrow.services.marking.plots import course_plots
from jentrow.services.packs.demo import load_demo
from jentrow.services.runtime.runtime import Runtime
from jentrow.services.scope import CourseScope, course_scope

DEMO = Path(__file__).resolve().parents[1] / "demo"
LEARNERS, EXERCISES, SHEETS = 500, 60, 6
LARGE = 5_000
NOW = datetime(2026, 11, 23, 12, tzinfo=UTC)


def made_course(runtime: Runtime) -> None:
    """Adds learners, sheets and graded submissions; one exercise has as many as a desk must hold."""
    chance = random.Random(1)
    with runtime.records.writing() as session:
        course = session.scalars(select(Course)).one()
        base = next(iter(list_exercises(session, course.id)))
        exercises = [_exercise(session, base, at) for at in range(EXERCISES)]
        sheets = [_sheet(session, course, at, exercises) for at in range(SHEETS)]
        learners = [Learner(course_id=course.id, code=f"x{at}", name=f"Learner {at}")
                    for at in range(LEARNERS)]  # fmt: skip
        session.add_all(learners)
        session.flush()
        rows: list[tuple[int, int, int]] = [
            (exercise.id, learner.id, sheets[at * SHEETS // EXERCISES].id)
            for at, exercise in enumerate(exercises)
            for learner in learners
            for _ in range(LARGE // LEARNERS if at == 0 else 2)
        ]
        measures = {one.id: runtime.graders.made_with(one).measure for one in exercises}
        session.execute(insert(Submission), [_submission(at, row) for at, row in enumerate(rows)])
        session.execute(
            insert(Grading),
            [_grading(at, measures[row[0]], chance.randrange(30)) for at, row in enumerate(rows)],
        )
        session.execute(
            update(Submission).where(Submission.id >= FIRST).values(grading_id=Submission.id)
        )


FIRST = 100_000


def _exercise(session: Session, base: Exercise, at: int) -> Exercise:
    made = Exercise(
        course_id=base.course_id, sample_id=base.sample_id, slug=f"made-{at}", position=100 + at,
        title=f"Made {at}", prompt="", engine="sqlite", points=4, reference=base.reference, rules={},
    )  # fmt: skip
    session.add(made)
    session.flush()
    return made


def _sheet(session: Session, course: Course, at: int, exercises: list[Exercise]) -> Sheet:
    made = Sheet(
        course_id=course.id, slug=f"made-{at}", position=10 + at, title=f"Made {at}",
        opens=datetime(2026, 11, 1), closes=datetime(2026, 11, 10), attempts=20,
        late={"rule": "accept"},
    )  # fmt: skip
    session.add(made)
    session.flush()
    each = EXERCISES // SHEETS
    for place, one in enumerate(exercises[at * each : (at + 1) * each]):
        session.add(SheetEntry(sheet_id=made.id, exercise_id=one.id, position=place))
    return made


def _submission(at: int, row: tuple[int, int, int]) -> dict[str, Any]:
    exercise, learner, sheet = row
    return {
        "id": FIRST + at, "exercise_id": exercise, "learner_id": learner, "sheet_id": sheet,
        "sql": f"SELECT name, altitude_m FROM huts WHERE altitude_m > {at % 500} ORDER BY 2 DESC",
        "submitted_at": NOW - timedelta(days=14, minutes=at % 1000),
    }  # fmt: skip


def _grading(at: int, measure: str, kind: int) -> dict[str, Any]:
    right = kind < 18
    found = {
        "code": "rows.missing",
        "message": "3 rows are missing.",
        "count": 3,
        "dataset": "open",
    }
    return {
        "id": FIRST + at, "submission_id": FIRST + at, "measure": measure, "engine": "sqlite",
        "verdict": "correct" if right else "incorrect", "mark": 4.0 if right else 0.0,
        "answer": "reference", "findings": [] if right else [found], "ledger": [],
        "graded_at": NOW, "exercise_version": 1, "datasets": [],
        "outcome": "correct" if right else f"kind {kind}", "wording": f"wording {kind * 7 % 50}",
        "codes": "" if right else "rows.missing",
    }  # fmt: skip


def milliseconds(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return (time.perf_counter() - start) * 1000


def run() -> Iterator[str]:
    """One line for each measure, beside what is wanted of it."""
    gc.set_threshold(YOUNG_OBJECTS, 20, 20)  # as a server has it
    with tempfile.TemporaryDirectory() as folder:
        load_demo(Path(folder) / "data", DEMO)
        runtime = Runtime(Path(folder) / "data", lambda: NOW)
        try:
            made_course(runtime)
            yield from _measured(course_scope(runtime, 1, "Somebody"))
        finally:
            runtime.close()


def _measured(scope: CourseScope) -> Iterator[str]:
    def desk() -> object:
        return desk_view(scope, "made-0", "all")

    desk()  # the engine is started
    yield f"desk of an exercise with 5,000 submissions: {milliseconds(desk):.0f} ms (300 wanted)"
    first = milliseconds(lambda: gradebook(scope))
    yield f"marks of 500 x 60, looked at first: {first:.0f} ms"
    again = milliseconds(lambda: gradebook(scope))
    yield f"marks of 500 x 60, once more: {again:.0f} ms (500 wanted)"
    plots = milliseconds(lambda: course_plots(scope))
    yield f"plots of all submissions: {plots:.0f} ms (500 wanted)"
    groups = desk_view(scope, "made-0", "all").groups
    ids = [one.id for group in groups if group.verdict != "correct" for one in group.answers][:1000]
    wish = Wish(ids, (), 1.0, (), "", "", 0)
    deciding = milliseconds(lambda: decide(scope, "made-0", wish))
    yield f"a decision for {len(ids)} answers: {deciding:.0f} ms (500 wanted)"
    after = milliseconds(lambda: gradebook(scope))
    yield f"marks of 500 x 60, after the decision: {after:.0f} ms (500 wanted)"
