"""A step trace with the rows: how many there are at each step, and whether the steps hold."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Final

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset, QueryFailure
from jentrow.core.results import ResultSet
from jentrow.core.sql.scopes import table_columns
from jentrow.core.sql.steps.details import Told
from jentrow.core.sql.steps.queries import BESIDE
from jentrow.core.sql.steps.steps import Beside, Role, Step, StepKind, Trace, take_apart

TRUTHS: Final = {1: "kept", 0: "false", None: "unknown"}
MOST_OVERRUNS: Final = 3
"""Steps of a trace that may be stopped at a limit. A step may be large where the next is not (all
pairs, of which a condition takes few), so that the first says little; each takes all of its time."""
OTHERWISE: Final = (
    "The steps do not give the query's own rows, and are not shown: it holds something that cannot "
    "be taken apart, or that changes from run to run."
)


@dataclass(frozen=True, slots=True)
class TracedStep:
    """A step with its rows counted.

    ``rows`` are those that go on to the next step: of WHERE and HAVING the ones kept, of GROUP BY
    the groups. ``parts`` counts what the step makes of the rows before: kept, false, unknown;
    rows; rounds; of a join the rows without a partner (``lonely_before``, ``lonely_joined``).
    ``sql`` gives the rows; ``telling``, where it is not empty, gives them with a further column for
    each of ``told``. ``problem`` says why there are none.
    """

    kind: StepKind
    clause: str
    beside: Beside
    sql: str
    rows: int | None
    parts: dict[str, int] = field(default_factory=dict)
    problem: str = ""
    told: tuple[Told, ...] = ()
    telling: str = ""


@dataclass(frozen=True, slots=True)
class Traced:
    """A query's steps with their rows; ``note`` is to be known of them, or why there are none."""

    role: Role
    name: str
    sql: str
    steps: tuple[TracedStep, ...]
    nested: tuple[Traced, ...]
    note: str


def trace_query(engine: Engine, dataset: LoadedDataset, sql: str, limits: Limits) -> Traced:
    """Takes a query apart and counts the rows at each step.

    The rows after the last step are compared with the query's own: where they differ, the steps
    are not shown.
    """
    columns = table_columns(dataset.columns)
    run = _Run(engine, dataset, limits)
    trace = take_apart(sql, engine.dialect, columns)
    traced = run.traced(trace)
    if not traced.steps:
        return traced
    last = traced.steps[-1].sql
    if last and engine.same_rows(dataset, (sql, last), limits) is True:
        return traced
    own = engine.show(dataset, sql, limits, 0)
    if isinstance(own, QueryFailure):
        return replace(traced, note=f"The query itself does not run: {own.message}")
    # Where they cannot be compared, nobody can tell that the steps are the query's.
    return replace(traced, steps=(), note=OTHERWISE)


class _Run:
    """One dataset, for counting on."""

    def __init__(self, engine: Engine, dataset: LoadedDataset, limits: Limits) -> None:
        self._ask: Callable[[str], ResultSet | QueryFailure] = lambda sql: engine.run(
            dataset, sql, limits
        )
        self._overran: list[QueryFailure] = []
        self._source: Callable[[str], str] = lambda sql: as_source(engine, dataset, sql, limits)

    def _counts(self, sql: str) -> ResultSet | QueryFailure:
        """What a counting query gives; after some that overran no more are tried."""
        if len(self._overran) >= MOST_OVERRUNS:
            return self._overran[-1]
        counts = self._ask(sql)
        if isinstance(counts, QueryFailure) and counts.verdict == "stopped":
            self._overran.append(counts)
        return counts

    def traced(self, trace: Trace) -> Traced:
        return Traced(
            trace.role,
            trace.name,
            trace.sql,
            tuple(map(self._step, trace.steps)),
            tuple(map(self.traced, trace.nested)),
            trace.note,
        )

    def _step(self, step: Step) -> TracedStep:
        problem = ""
        for at, sql in enumerate(step.queries):
            # Only the first way of counting rounds has them beside the rows.
            beside: Beside = "" if step.beside == "round" and at else step.beside
            counts = self._counts(_count_query(self._source(sql), beside))
            if isinstance(counts, QueryFailure):
                problem = problem or counts.message
                continue
            rows, parts = _counted(counts, beside, step.least)
            telling = step.tellings[at] if at < len(step.tellings) else ""
            return TracedStep(
                step.kind, step.clause, beside, sql, rows, parts | self._partners(step),
                told=step.told if telling else (), telling=telling,
            )  # fmt: skip
        return TracedStep(step.kind, step.clause, step.beside, "", None, problem=problem)

    def _partners(self, step: Step) -> dict[str, int]:
        """The rows of a join without a partner, as far as the engine counts them in time."""
        found: dict[str, int] = {}
        for name, sql in step.partners:
            counts = self._counts(sql)
            if isinstance(counts, ResultSet):
                found[name] = int(str(counts.rows[0][0]))
        return found


def as_source(engine: Engine, dataset: LoadedDataset, sql: str, limits: Limits) -> str:
    """A query as a table in FROM, with a name; what it gives beside its rows keeps its own.

    MariaDB takes no columns of one name there: they are numbered.
    """
    if engine.dialect != "mysql":
        return f"({sql}\n) AS counted"
    seen = engine.show(dataset, sql, limits, 0)
    if isinstance(seen, QueryFailure):
        return f"({sql}\n) AS counted"
    names = [
        BESIDE if column.name == BESIDE else f"c{at}" for at, column in enumerate(seen.columns)
    ]
    return f"(WITH told ({', '.join(names)}) AS ({sql}\n) SELECT * FROM told) AS counted"


def _count_query(source: str, beside: Beside) -> str:
    if not beside:
        return f"SELECT COUNT(*) FROM {source}"
    return f"SELECT {BESIDE}, COUNT(*) FROM {source} GROUP BY {BESIDE}"


def _counted(counts: ResultSet, beside: Beside, least: int) -> tuple[int, dict[str, int]]:
    if not beside:
        return int(str(counts.rows[0][0])), {}
    found = {row[0]: int(str(row[1])) for row in counts.rows}
    if beside == "truth":
        parts = {word: found.get(value, 0) for value, word in TRUTHS.items()}
        return parts["kept"], parts
    whole = sum(found.values())
    if beside == "group":
        return max(len(found), least), {"rows": whole}
    return whole, {"rounds": len(found)}
