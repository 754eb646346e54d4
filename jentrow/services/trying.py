"""Queries tried on a sample: run, kept in a history, two of them compared; versions compared."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, Final

import apsw

from jentrow.core.comparison.woven import WovenColumn, WovenLine, WovenView
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import QueryFailure
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.grading import Grader
from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.schema import TableSchema
from jentrow.core.samples.sources import SampleSource
from jentrow.core.shownrows import ResultView
from jentrow.core.sql.text import Place, quoted_name
from jentrow.core.values import kind_of_column, to_json
from jentrow.records.models import TriedQuery
from jentrow.records.samples import forget_tried_queries, tried_queries
from jentrow.services.desk import Desk
from jentrow.services.samples import record_of, shelved_dataset, typed

ENGINE: Final = "sqlite"
HISTORY: Final = 200
SHOWN_ROWS: Final = 500
LIMITS: Final = Limits()


@dataclass(frozen=True)
class TriedView:
    """What came of a query: its rows, or what is wrong with it and where."""

    result: ResultView | None
    verdict: str
    message: str
    place: Place | None
    near: str


@dataclass(frozen=True)
class HistoryLine:
    """A query that was tried before."""

    id: int
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


def try_query(desk: Desk, sample: str, dataset: str, sql: str) -> TriedView:
    """Runs a query on a dataset and keeps it in the history."""
    record = record_of(desk, sample, dataset)
    source = desk.shelf.source(record)
    engine = desk.engine(ENGINE)
    outcome = engine.show(engine.load(source), sql, LIMITS, SHOWN_ROWS)
    rows = None if isinstance(outcome, QueryFailure) else outcome.row_count
    said = outcome.message if isinstance(outcome, QueryFailure) else ""
    with desk.records.writing() as session:
        sample_id = record.sample_id
        last = tried_queries(session, sample_id, 1)
        if last and last[0].sql == sql and last[0].dataset == dataset:
            session.delete(last[0])
        session.add(
            TriedQuery(
                sample_id=sample_id, dataset=dataset, sql=sql, rows=rows, said=said,
                tried_at=datetime.now(UTC),
            )
        )  # fmt: skip
        session.flush()
        forget_tried_queries(session, sample_id, HISTORY)
    if isinstance(outcome, QueryFailure):
        return TriedView(None, outcome.verdict, outcome.message, outcome.place, outcome.near)
    return TriedView(outcome, "ran", "", None, "")


def history(desk: Desk, sample: str) -> list[HistoryLine]:
    """The queries tried on a sample, the last first."""
    with desk.records.session() as session:
        sample_id = record_of(desk, sample, "").sample_id
        return [
            HistoryLine(one.id, one.sql, one.dataset, one.rows, one.said, one.tried_at)
            for one in tried_queries(session, sample_id, HISTORY)
        ]


def compare_queries(desk: Desk, sample: str, dataset: str, first: str, second: str) -> Compared:
    """Compares two queries' results. Raises :class:`ReferenceFails` where the first does not run."""
    source = desk.shelf.source(record_of(desk, sample, dataset))
    exercise = Exercise("the first query", "", "", sample, first, ENGINE)
    grader = Grader(desk.engine(ENGINE), exercise, SampleSource(sample, (source,)))
    looked = grader.look(second)
    failure = looked.outcome.datasets[0].failure
    if failure is not None:
        return Compared(False, None, f"the second query does not run: {failure.message}")
    message = " ".join(finding.message for finding in looked.outcome.findings)
    return Compared(looked.outcome.verdict == "correct", looked.woven, message)


# versions


@dataclass(frozen=True)
class TableDifference:
    """What happened to a table's rows between two versions, woven: the older is what was due."""

    table: str
    added: int
    changed: int
    removed: int
    woven: WovenView


def compare_versions(
    desk: Desk, sample: str, dataset: str, older: int, newer: int
) -> list[TableDifference]:
    """What was added, changed and removed between two versions, table by table."""
    kept = shelved_dataset(desk, sample, dataset).dataset
    if older > newer:
        older, newer = newer, older
    changes: dict[str, list[Any]] = {}
    for one in apsw.Changeset.iter(kept.net_changeset(older, newer)):
        changes.setdefault(one.name, []).append((one.op, one.old, one.new, sorted(one.pk_columns)))
    with kept.at_version(newer) as db:
        return [
            _table_difference(db, kept, table, changes[table.name])
            for table in kept.tables
            if table.name in changes
        ]


def _table_difference(
    db: apsw.Connection, kept: Dataset, table: TableSchema, changes: list[Any]
) -> TableDifference:
    lines: list[WovenLine] = []
    kinds = {"INSERT": 0, "UPDATE": 0, "DELETE": 0}
    for op, old, new, key in changes:
        kinds[op] += 1
        if len(lines) < SHOWN_ROWS:
            lines.append(_line(db, table, op, old, new, key))
    order = {"absent": 0, "differs": 1, "extra": 2}
    lines.sort(key=lambda line: order[line.kind])
    stored = [column for column in table.columns if column.generated is None]
    columns = [
        WovenColumn(column.name, column.name, _kind(lines, at)) for at, column in enumerate(stored)
    ]
    counts = {"absent": kinds["DELETE"], "differs": kinds["UPDATE"], "extra": kinds["INSERT"]}
    woven = WovenView(
        columns,
        lines,
        {kind: count for kind, count in counts.items() if count},
        0,
        0,
        False,
        len(changes) - len(lines),
        False,
    )
    return TableDifference(table.name, kinds["INSERT"], kinds["UPDATE"], kinds["DELETE"], woven)


def _kind(lines: list[WovenLine], at: int) -> str:
    values = [line.due[at] for line in lines if line.due] + [
        line.given[at] for line in lines if line.given
    ]
    plain = [value for value in values if not isinstance(value, dict)]
    return kind_of_column(plain) if plain else "text"


def _line(
    db: apsw.Connection, table: TableSchema, op: str, old: Any, new: Any, key: list[int]
) -> WovenLine:
    """A change as a row of the woven table; a changed row is completed from the newer rows."""
    skip = 0 if table.primary_key else 1  # without a key the row's number comes first

    def cells(values: Any) -> list[Any]:
        stored = [at for at, column in enumerate(table.columns) if column.generated is None]
        return [
            to_json(typed(value, table, at))
            for at, value in zip(stored, values[skip:], strict=False)
        ]

    if op == "INSERT":
        return WovenLine("extra", None, cells(new), [], None, None, None, None, None)
    if op == "DELETE":
        return WovenLine("absent", cells(old), None, [], None, None, None, None, None)
    number = table.row_name if skip else ""
    names = [number] if skip else []
    names += [column.name for column in table.columns if column.generated is None]
    same = " AND ".join(f"{_named(names[at], number)} IS ?" for at in key)
    shown = ", ".join(_named(name, number) for name in names)
    found = list(
        db.execute(
            f"SELECT {shown} FROM {quoted_name(table.name)} WHERE {same}", [old[at] for at in key]
        )
    )
    after = list(found[0]) if found else [None] * len(names)
    before = [after[at] if value is apsw.no_change else value for at, value in enumerate(old)]
    changed = [at - skip for at, value in enumerate(new) if value is not apsw.no_change]
    return WovenLine("differs", cells(before), cells(after), changed, None, None, None, None, None)


def _named(name: str, number: str) -> str:
    return name if name == number and number else quoted_name(name)
