"""The proof that an exercise works, worked out for a content that need not be kept yet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from jentrow.core.comparison.woven import WovenView
from jentrow.core.engines.protocol import QueryFailure
from jentrow.core.errors import UnusableInput
from jentrow.core.exercises.exercise import Exercise as CoreExercise
from jentrow.core.exercises.files.content import exercise_from
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.markscheme import LedgerLine
from jentrow.core.exercises.showing import glimpse
from jentrow.core.exercises.trials import run_trials
from jentrow.core.exercises.warnings import Warning, unlimited_attempts, warnings_of
from jentrow.core.shownrows import shown_rows
from jentrow.core.sql.constructs import CONSTRUCTS, find_construct, read_query
from jentrow.core.sql.layout import LayoutChange, LayoutRules, lay_out
from jentrow.core.sql.scopes import table_columns
from jentrow.core.sql.text import Place, is_blank
from jentrow.records.contents import core_exercise
from jentrow.records.exercises import list_exercises, sheets_with
from jentrow.records.models import Exercise, Sample
from jentrow.records.samples import find_sample, list_samples
from jentrow.records.submissions import submissions_to
from jentrow.services.errors import NotFound
from jentrow.services.exercises.overview import GlimpseView, exercise_named, glimpse_view
from jentrow.services.exercises.verdicts import (
    DatasetVerdict,
    FindingView,
    dataset_verdict,
    finding_view,
)
from jentrow.services.runtime.engines import translation_of
from jentrow.services.samples.tried_queries import SHOWN_ROWS, TriedView
from jentrow.services.scope import CourseScope


@dataclass(frozen=True)
class AlternativeView:
    """An accepted alternative held against the reference answer alone."""

    name: str
    verdict: str
    message: str


@dataclass(frozen=True)
class LayoutView:
    """A text as it could be, and the places that do not follow the rules."""

    text: str
    changes: Sequence[LayoutChange]


@dataclass(frozen=True)
class ProofView:
    """Whether an exercise can be used, and what its reference answer comes to.

    ``problems`` are what is wrong with the content; then the rest is as far as it can be told.
    ``trouble`` says why answers cannot be graded. ``constructs`` are those of the reference answer.
    """

    problems: list[str]
    reference: TriedView | None
    row_order: str
    trouble: str
    alternatives: list[AlternativeView]
    constructs: list[str]
    layout: LayoutView | None
    shown: GlimpseView | None


@dataclass(frozen=True)
class TrialView:
    """A trial with what it got."""

    name: str
    expected: str
    actual: str
    mark: float
    holds: bool
    said: str


@dataclass(frozen=True)
class TrialsView:
    """The trials and the warnings; ``trouble`` says why there are none."""

    trials: list[TrialView]
    warnings: Sequence[Warning]
    trouble: str


@dataclass(frozen=True)
class AnswerChange:
    """A submission that would come out otherwise than it was graded."""

    id: int
    learner: str
    before: str
    after: str
    mark_before: float | None
    mark_after: float


@dataclass(frozen=True)
class ChangesView:
    """The submissions that would come out otherwise, out of how many."""

    changes: list[AnswerChange]
    answers: int
    trouble: str


@dataclass(frozen=True)
class JudgedView:
    """One query held against an exercise: its verdict, mark, ledger, and the woven table.

    ``runs_as`` is what a stand-in runs in its place, empty on any other engine, and ``doubts`` are
    what the stand-in may do otherwise: the reasons why it is undecided, if there are any.
    """

    verdict: str
    mark: float
    points: float
    answer: str
    ledger: Sequence[LedgerLine]
    findings: list[FindingView]
    datasets: list[DatasetVerdict]
    shown_dataset: str
    woven: WovenView | None
    place: Place | None
    near: str
    layout: LayoutView | None
    runs_as: str
    doubts: list[str]


class Bench:
    """A content of an exercise that is looked at: read as far as it goes."""

    def __init__(self, scope: CourseScope, slug: str, content: Mapping[str, Any]) -> None:
        self.scope = scope
        self.problems: list[str] = []
        with scope.records.session() as session:
            self.record: Exercise = exercise_named(session, slug)
            names = [sample.name for sample in list_samples(session, self.record.course_id)]
            self.exercise: CoreExercise = exercise_from(slug, content, names, self.problems)
            found = find_sample(session, self.record.course_id, self.exercise.sample)
        self.sample: Sample = found or self.record.sample
        self.problems += scope.runtime.settings.problems_of(self.exercise.rules.limits)
        if is_blank(self.exercise.reference):
            self.problems.append("there is no reference answer yet")

    def grader(self, exercise: CoreExercise) -> Grader:
        return self.scope.runtime.graders.of_content(exercise, self.sample)

    @property
    def without_alternatives(self) -> CoreExercise:
        return replace(self.exercise, alternatives=())

    def whole(self, *, alone: bool = False) -> Grader:
        """The grader of all of it, or of the reference answer ``alone``.

        Raises :class:`UnusableInput` where there are problems.
        """
        if self.problems:
            raise UnusableInput("; ".join(self.problems) + ".")
        return self.grader(self.without_alternatives if alone else self.exercise)


def prove(scope: CourseScope, slug: str, content: Mapping[str, Any]) -> ProofView:
    """Looks at a content: its problems, its reference answer and alternatives."""
    bench = Bench(scope, slug, content)
    exercise = bench.exercise
    engine = scope.runtime.engines.get(exercise.engine)
    dataset = engine.load(scope.runtime.datasets.source(bench.sample.datasets[0]))
    if is_blank(exercise.reference):
        return ProofView(bench.problems, None, "ignore", "", [], [], None, None)
    reading = read_query(exercise.reference, engine.dialect, table_columns(dataset.columns))
    constructs = [
        name
        for name, kind in CONSTRUCTS.items()
        if reading is not None and not kind.named and find_construct(reading, name)
    ]
    layout = _layout(exercise.reference, exercise.layout, engine.dialect)
    outcome = engine.run(dataset, exercise.reference, exercise.rules.limits)
    if isinstance(outcome, QueryFailure):
        failed = TriedView(None, outcome.verdict, outcome.message, outcome.place, outcome.near)
        return ProofView(
            bench.problems, failed, "ignore", outcome.message, [], constructs, layout, None
        )
    ran = TriedView(shown_rows(outcome.columns, outcome.rows, SHOWN_ROWS), "ran", "", None, "")
    order, trouble, alternatives = "ignore", "", list[AlternativeView]()
    try:
        alone = bench.grader(bench.without_alternatives)
        order = _row_order(exercise, alone)
        alternatives = _alternatives(alone, exercise)
        bench.grader(exercise)
    except UnusableInput as problem:
        trouble = str(problem)
    seen = glimpse(outcome, exercise.shown)
    return ProofView(
        bench.problems, ran, order, trouble, alternatives, constructs, layout, glimpse_view(seen)
    )


def _row_order(exercise: CoreExercise, grader: Grader) -> str:
    rule = exercise.rules.comparison.row_order
    if rule != "auto":
        return rule
    return "required" if grader.expectations[0][0].ordered else "ignore"


def _alternatives(alone: Grader, exercise: CoreExercise) -> list[AlternativeView]:
    given = exercise.alternatives
    outcomes = dict(alone.grade_many([one.sql for one in given])) if given else {}
    return [
        AlternativeView(
            one.name,
            outcomes[at].standing,
            " ".join(finding.message for finding in outcomes[at].findings),
        )
        for at, one in enumerate(given)
    ]


def _layout(sql: str, rules: LayoutRules, dialect: str) -> LayoutView | None:
    if not rules.chosen:
        return None
    layout = lay_out(sql, rules, dialect)
    return LayoutView(layout.text, layout.changes)


def prove_trials(scope: CourseScope, slug: str, content: Mapping[str, Any]) -> TrialsView:
    """Runs the trials, and looks for what an instructor should know."""
    bench = Bench(scope, slug, content)
    try:
        grader = bench.whole()
    except UnusableInput as problem:
        return TrialsView([], (), str(problem))
    trials = [
        TrialView(one.trial.name, one.trial.expected, one.standing, one.mark, one.holds, one.said)
        for one in run_trials(grader)
    ]
    with scope.records.session() as session:
        endless = [
            sheet.title
            for sheet, _ in sheets_with(session, bench.record.id)
            if sheet.attempts is None
        ]
    warnings = (
        *warnings_of(grader, _others(scope, bench)),
        *unlimited_attempts(grader.dataset_names, endless),
    )
    return TrialsView(trials, warnings, "")


def _others(scope: CourseScope, bench: Bench) -> list[Grader]:
    """Graders of the other exercises on the same sample; one that cannot be used is left out."""
    found: list[Grader] = []
    with scope.records.session() as session:
        records = list(list_exercises(session, bench.record.course_id))
    for record in records:
        if record.id == bench.record.id or record.sample_id != bench.sample.id:
            continue
        try:
            found.append(scope.runtime.graders.of_content(core_exercise(record), record.sample))
        except UnusableInput:
            continue
    return found


def prove_answers(scope: CourseScope, slug: str, content: Mapping[str, Any]) -> ChangesView:
    """Which submissions would come out otherwise than they were graded."""
    bench = Bench(scope, slug, content)
    with scope.records.session() as session:
        submissions = list(submissions_to(session, bench.record.id))
    try:
        grader = bench.whole()
    except UnusableInput as problem:
        return ChangesView([], len(submissions), str(problem))
    outcomes = dict(grader.grade_many([one.sql for one in submissions])) if submissions else {}
    changes = []
    for at, one in enumerate(submissions):
        after, before = outcomes[at], one.grading
        if before is None or (before.standing, before.mark) != (after.standing, after.mark):
            changes.append(
                AnswerChange(
                    one.id, one.learner.name, before.standing if before else "waiting",
                    after.standing, before.mark if before else None, after.mark,
                )
            )  # fmt: skip
    return ChangesView(changes, len(submissions), "")


def judge(
    scope: CourseScope,
    slug: str,
    content: Mapping[str, Any],
    sql: str,
    *,
    dataset: str = "",
    alone: bool = False,
) -> JudgedView:
    """Holds a query against an exercise; ``alone`` against its reference answer only."""
    bench = Bench(scope, slug, content)
    exercise = bench.exercise
    grader = bench.whole(alone=alone)
    names = grader.dataset_names
    if dataset and dataset not in names:
        raise NotFound(f"The exercise has no dataset {dataset!r}; it has {', '.join(names)}.")
    at = names.index(dataset) if dataset else 0
    looked = grader.look(sql, at)
    outcome = looked.outcome
    failure = outcome.datasets[0].failure
    engine = scope.runtime.engines.get(exercise.engine)
    runs_as, doubts = translation_of(engine, grader.datasets[at], sql, undecided=outcome.undecided)
    return JudgedView(
        verdict=outcome.standing,
        mark=outcome.mark,
        points=exercise.points,
        answer=outcome.answer,
        ledger=outcome.ledger,
        findings=[finding_view(one) for one in outcome.findings],
        datasets=[dataset_verdict(one) for one in outcome.datasets],
        shown_dataset=names[at],
        woven=looked.woven,
        place=failure.place if failure else None,
        near=failure.near if failure else "",
        layout=_layout(sql, exercise.layout, grader.dialect),
        runs_as=runs_as,
        doubts=doubts,
    )
