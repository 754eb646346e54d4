"""Queries tried on a sample: run, kept in a history, two of them compared; versions compared."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Final

from jentrow.core.comparison.woven import WovenView
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, QueryFailure
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.ruleset import RuleSet
from jentrow.core.samples.sources import SampleSource
from jentrow.core.samples.versiondifference import TableDifference
from jentrow.core.shownrows import ResultView
from jentrow.core.sql.text import Place
from jentrow.records.models import TriedQuery
from jentrow.records.runs import RunsOf, add_run, run_numbered, runs_of
from jentrow.services.errors import NotFound
from jentrow.services.runtime.run_history import KEPT
from jentrow.services.samples.catalogue import open_dataset, record_of
from jentrow.services.scope import CourseScope

ENGINE: Final = "sqlite"
SHOWN_ROWS: Final = 500
LIMITS: Final = Limits()


@dataclass(frozen=True)
class TriedView:
    """What came of a query: its rows, or what is wrong with it and where.

    ``runs_as`` is the translation that a stand-in runs; empty where the text itself is run;
    ``doubts`` are what the stand-in may do otherwise.
    """

    result: ResultView | None
    verdict: str
    message: str
    place: Place | None
    near: str
    runs_as: str = ""
    doubts: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class HistoryLine:
    """A query that was tried before; ``name`` is empty where it has none."""

    id: int
    name: str
    sql: str
    dataset: str
    rows: int | None
    said: str
    tried_at: datetime


@dataclass(frozen=True)
class Compared:
    """Two queries' results, woven; the first is what is due."""

    same: bool
    woven: WovenView | None
    message: str


def try_query(
    scope: CourseScope, sample: str, dataset: str, sql: str, engine_name: str = ENGINE
) -> TriedView:
    """Runs a query on a dataset and keeps it in the history."""
    record = record_of(scope, sample, dataset)
    source = scope.runtime.datasets.source(record)
    engine = scope.runtime.engines.get(engine_name)
    outcome = engine.show(engine.load(source), sql, LIMITS, SHOWN_ROWS)
    rows = None if isinstance(outcome, QueryFailure) else outcome.row_count
    said = outcome.message if isinstance(outcome, QueryFailure) else ""
    run = TriedQuery(
        sample_id=record.sample_id, dataset=dataset, sql=sql, rows=rows, said=said,
        tried_at=datetime.now(UTC), name="",
    )  # fmt: skip
    with scope.records.writing() as session:
        add_run(session, run, KEPT)
    if isinstance(outcome, QueryFailure):
        return TriedView(None, outcome.verdict, outcome.message, outcome.place, outcome.near)
    return TriedView(outcome, "ran", "", None, "")


def history(scope: CourseScope, sample: str) -> list[HistoryLine]:
    """The queries tried on a sample, the last first."""
    with scope.records.session() as session:
        whose = RunsOf(record_of(scope, sample, "").sample_id)
        return [history_line(one) for one in runs_of(session, whose)]


def name_run(scope: CourseScope, sample: str, number: int, name: str) -> HistoryLine:
    """Gives a query of the history a name, by which it is kept. Raises :class:`NotFound`."""
    whose = RunsOf(record_of(scope, sample, "").sample_id)
    with scope.records.writing() as session:
        return named(run_numbered(session, whose, number), name)


def named(run: TriedQuery | None, name: str) -> HistoryLine:
    """The run with its new name. Raises :class:`NotFound` where there is none."""
    if run is None:
        raise NotFound("There is no such run any more: it may have been forgotten.")
    run.name = " ".join(name.split())
    return history_line(run)


def history_line(one: TriedQuery) -> HistoryLine:
    """A run as the history shows it."""
    return HistoryLine(one.id, one.name, one.sql, one.dataset, one.rows, one.said, one.tried_at)


def compare_queries(
    scope: CourseScope, sample: str, dataset: str, first: str, second: str
) -> Compared:
    """Compares two queries' results. Raises :class:`ReferenceFails` where the first does not run."""
    source = scope.runtime.datasets.source(record_of(scope, sample, dataset))
    return compared(
        scope.runtime.engines.get(ENGINE), SampleSource(sample, (source,)), first, second
    )


def compared(
    engine: Engine, sample: SampleSource, first: str, second: str, rules: RuleSet | None = None
) -> Compared:
    """Two queries' results on the open dataset of a sample, as one woven table.

    Raises :class:`ReferenceFails` where the first does not run.
    """
    exercise = Exercise(
        "the first query", "", "", sample.name, first, engine.name, rules=rules or RuleSet()
    )
    looked = Grader(engine, exercise, sample).look(second)
    failure = looked.outcome.datasets[0].failure
    if failure is not None:
        return Compared(False, None, f"The second does not run: {failure.message}")
    message = " ".join(finding.message for finding in looked.outcome.findings)
    return Compared(looked.outcome.verdict == "correct", looked.woven, message)


# versions


def compare_versions(
    scope: CourseScope, sample: str, dataset: str, older: int, newer: int
) -> list[TableDifference]:
    """What was added, changed and removed between two versions, table by table."""
    found: list[TableDifference] = open_dataset(scope, sample, dataset).look(
        "differences", min(older, newer), max(older, newer)
    )
    return found
