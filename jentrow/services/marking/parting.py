"""Where an answer parts from the reference: both step by step, and the first step that differs."""

from __future__ import annotations

from dataclasses import dataclass, replace
from difflib import SequenceMatcher

from jentrow.core.comparison.woven import WovenView, without_column
from jentrow.core.errors import JentrowError
from jentrow.core.exercises.exercise import Exercise as CoreExercise
from jentrow.core.exercises.markscheme import MarkScheme
from jentrow.core.exercises.tracing import Traced, TracedStep, trace_query
from jentrow.core.sql.steps.queries import BESIDE
from jentrow.records.contents import core_exercise
from jentrow.records.models import Exercise, Submission
from jentrow.services.errors import NotFound
from jentrow.services.exercises.overview import exercise_named
from jentrow.services.scope import CourseScope


@dataclass(frozen=True)
class StepPair:
    """A step of either side, or of both; ``differs`` where they give other rows, or one lacks it.

    ``due`` and ``given`` are its rows, None where it is not there or could not be counted.
    """

    kind: str
    due_clause: str
    given_clause: str
    due: int | None
    given: int | None
    differs: bool


@dataclass(frozen=True)
class Parting:
    """The steps of reference and answer side by side.

    ``first`` is the place of the first that differs, None where none does; ``woven`` are its rows.
    ``note`` says why there are no steps, or no rows.
    """

    steps: list[StepPair]
    first: int | None
    woven: WovenView | None
    note: str


def parting(scope: CourseScope, slug: str, submission_id: int, dataset: str = "") -> Parting:
    """Where an answer parts from the reference on a dataset (the open one unless named)."""
    with scope.records.session() as session:
        exercise = exercise_named(session, slug)
        submission = session.get(Submission, submission_id)
        if submission is None or submission.exercise_id != exercise.id:
            raise NotFound(f"There is no answer {submission_id} to {exercise.title}.")
    grader = scope.runtime.graders.of(exercise)
    names = grader.dataset_names
    if dataset and dataset not in names:
        raise NotFound(f"The exercise has no dataset {dataset!r}; it has {', '.join(names)}.")
    at = names.index(dataset) if dataset else 0
    engine = scope.runtime.engines.get(exercise.engine)
    limits = grader.exercise.rules.limits
    due = trace_query(engine, grader.datasets[at], exercise.reference, limits)
    given = trace_query(engine, grader.datasets[at], submission.sql, limits)
    for traced, whose in ((due, "reference answer"), (given, "answer")):
        if not traced.steps:
            why = traced.note or "it is not taken apart"
            return Parting([], None, None, f"The {whose} has no steps to show: {why}")
    return _side_by_side(scope, exercise, due, given, at)


def _side_by_side(
    scope: CourseScope, exercise: Exercise, due: Traced, given: Traced, dataset: int
) -> Parting:
    steps: list[StepPair] = []
    first: int | None = None
    woven: WovenView | None = None
    note = ""
    for ours, theirs in _aligned(due.steps, given.steps):
        differs = ours is None or theirs is None or ours.rows != theirs.rows
        if first is None and ours is not None and theirs is not None:
            try:
                looked = _woven(scope, exercise, ours, theirs, dataset)
            except JentrowError as problem:
                looked, note = None, str(problem)
            if looked is not None:
                woven, differs = looked, True
        if differs and first is None:
            first = len(steps)
        one = ours or theirs
        assert one is not None
        steps.append(
            StepPair(
                one.kind,
                ours.clause if ours else "",
                theirs.clause if theirs else "",
                ours.rows if ours else None,
                theirs.rows if theirs else None,
                differs,
            )
        )
    return Parting(steps, first, woven, note)


def _aligned(
    due: tuple[TracedStep, ...], given: tuple[TracedStep, ...]
) -> list[tuple[TracedStep | None, TracedStep | None]]:
    """The steps of both sides, those of one kind beside each other."""
    kinds = [one.kind for one in due], [one.kind for one in given]
    pairs: list[tuple[TracedStep | None, TracedStep | None]] = []
    for what, a, b, c, d in SequenceMatcher(None, *kinds, autojunk=False).get_opcodes():
        if what == "equal":
            pairs += zip(due[a:b], given[c:d], strict=True)
        else:
            pairs += [(one, None) for one in due[a:b]]
            pairs += [(None, one) for one in given[c:d]]
    return pairs


def _woven(
    scope: CourseScope, exercise: Exercise, due: TracedStep, given: TracedStep, dataset: int
) -> WovenView | None:
    """The rows of a step of both sides woven; None where they are the same, or cannot be had.

    Of a condition only the rows that it keeps.
    """
    if not due.sql or not given.sql:
        return None
    due, given = _kept(due), _kept(given)
    grader = scope.runtime.graders.of_content(
        _for_a_step(core_exercise(exercise), due), exercise.sample
    )
    looked = grader.look(given.sql, dataset)
    if looked.outcome.datasets[dataset].verdict == "correct" or looked.woven is None:
        return None
    return without_column(looked.woven, BESIDE) if due.beside == "truth" else looked.woven


def _kept(step: TracedStep) -> TracedStep:
    if step.beside != "truth":
        return step
    return replace(step, sql=f"SELECT * FROM ({step.sql}\n) AS told WHERE {BESIDE} IS 1")


def _for_a_step(exercise: CoreExercise, step: TracedStep) -> CoreExercise:
    """An exercise that asks for the rows of a step, in any order of columns.

    The order of rows counts from ORDER BY on.
    """
    rules = exercise.rules
    comparison = replace(
        rules.comparison,
        row_order="auto" if step.kind in ("order", "limit") else "ignore",
        column_order="any",
        column_names="ignore",
        extra_columns="refuse",
        duplicates="count",
    )
    return replace(
        exercise,
        reference=step.sql,
        alternatives=(),
        trials=(),
        constructs=(),
        marks=MarkScheme(),
        rules=replace(rules, comparison=comparison),
    )
