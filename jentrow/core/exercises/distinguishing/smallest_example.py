"""The smallest example: as few made-up rows as can be found on which a query is wrong."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from decimal import Decimal
from itertools import islice
from math import isfinite
from typing import Any, Final

from jentrow.core.comparison.compare import compare
from jentrow.core.comparison.woven import WovenView, woven_view
from jentrow.core.exercises.distinguishing.bench import Bench, Budget, MadeDataset
from jentrow.core.exercises.distinguishing.shrinking import shrunk
from jentrow.core.exercises.showing import told_names
from jentrow.core.results import ResultSet, Row
from jentrow.core.samples.generated.made_rows import MadeRows
from jentrow.core.sql.edits.draft import Draft
from jentrow.core.values import Value, printed

SEARCH_SECONDS: Final = 0.25
SHRINK_SECONDS: Final = 0.25
_FINDS: Final = 3
_SMALL_ENOUGH: Final = 2


@dataclass(frozen=True)
class ExampleTable:
    """A table of an example: its columns, and its rows."""

    name: str
    columns: tuple[str, ...]
    rows: tuple[tuple[Any, ...], ...]


@dataclass(frozen=True)
class SmallestExample:
    """Rows on which a query gives another result than is due, and both results, woven.

    ``rows`` are the same as they are put in: without computed columns. ``agrees`` tells that a
    query gives on them what is due: one that was mended.
    """

    tables: tuple[ExampleTable, ...]
    rows: tuple[tuple[str, tuple[Row, ...]], ...]
    expected: ResultSet
    actual: ResultSet
    woven: WovenView
    agrees: bool = False

    @property
    def row_count(self) -> int:
        """Rows over all tables."""
        return sum(len(table.rows) for table in self.tables)

    def to_json(self) -> dict[str, Any]:
        """The object that ``jentrow compare --json`` prints."""
        return {
            "tables": {
                table.name: {"columns": list(table.columns), "rows": _rows(table.rows)}
                for table in self.tables
            },
            "expected": _result(self.expected),
            "actual": _result(self.actual),
        }


def _rows(rows: Any) -> list[list[Any]]:
    return [[_plain(value) for value in row] for row in rows]


def _plain(value: Value) -> Any:
    """A cell as plain JSON: a number, a text, true, false or null."""
    if value is None or isinstance(value, bool | int | str):
        return value
    if isinstance(value, float | Decimal) and isfinite(value):
        return float(value)
    return printed(value)


def _result(result: ResultSet) -> dict[str, Any]:
    return {"columns": list(result.names), "rows": _rows(result.rows)}


def distinguishing_datasets(bench: Bench, sql: str, draft: Draft | None) -> Iterator[MadeDataset]:
    """Made-up datasets on which a query is surely wrong, as they are found; in a bounded time."""
    budget = bench.budget(SEARCH_SECONDS)
    for dataset in _candidates(bench, draft, budget):
        bench.scratch.fill(dataset.rows)
        given = bench.run(sql)
        if given is None or bench.is_right(given, dataset.due):
            continue
        found = bench.tells_apart(sql, dataset.rows)
        if found is not None:
            yield found


def _candidates(bench: Bench, draft: Draft | None, budget: Budget) -> Iterator[MadeDataset]:
    """Those of the exercise first, which are made already; then such as the query's words ask for."""
    for dataset in islice(bench.made, 20):
        yield dataset
        if budget.is_spent:
            return
    if draft is not None:
        for dataset in bench.making((draft,)):
            yield dataset
            if budget.is_spent:
                return


def smallest_example(
    bench: Bench, sql: str, *, for_learner: bool = False
) -> SmallestExample | None:
    """The smallest example for a query; None where none is found."""
    rows = smallest_rows(bench, sql)
    return None if rows is None else example_of(bench, sql, rows, for_learner=for_learner)


def smallest_rows(bench: Bench, sql: str) -> MadeRows | None:
    """As few rows as can be found on which a query is surely wrong."""
    draft = bench.draft(sql)
    finds: list[MadeDataset] = []
    for found in distinguishing_datasets(bench, sql, draft):
        finds.append(found)
        if len(finds) == _FINDS or found.size <= _SMALL_ENOUGH:
            break
    budget = bench.budget(SHRINK_SECONDS)
    best: MadeRows | None = None
    for found in sorted(finds, key=lambda one: one.size):
        rows = smaller(bench, sql, found.rows, budget)
        if best is None or _size(rows) < _size(best):
            best = rows
        if _size(best) <= _SMALL_ENOUGH or budget.is_spent:
            break
    return best


def _size(rows: MadeRows) -> int:
    return sum(map(len, rows.values()))


def smaller(
    bench: Bench, sql: str, rows: MadeRows, budget: Budget | None = None, *, usual: bool = False
) -> MadeRows:
    """Fewer rows and plainer values that still tell a query from the answers.

    With ``usual`` they keep the habits of the open data.
    """
    tables = list(bench.all_tables(rows).values())
    within = budget or bench.budget(SHRINK_SECONDS)
    draft = bench.draft(sql)
    read = bench.tables_read(*([draft] if draft is not None else []))

    def still_tells(less: MadeRows) -> bool:
        # A row that a query reads shows more than an empty table does.
        if within.is_spent or not any(less[name] for name in less if name.lower() in read):
            return False
        if usual and not bench.is_usual(less):
            return False
        return bench.tells_apart(sql, less) is not None

    return shrunk(rows, tables, still_tells, bench.open_data.held)


def example_of(
    bench: Bench, sql: str, rows: MadeRows, *, for_learner: bool = False
) -> SmallestExample | None:
    """Rows as an example for a query; None where they do not tell it from the answers."""
    if bench.tells_apart(sql, rows) is None:
        return None
    return on_rows(bench, sql, tuple(rows.items()), for_learner=for_learner)


def on_rows(
    bench: Bench,
    sql: str,
    given: tuple[tuple[str, tuple[Row, ...]], ...],
    *,
    for_learner: bool = False,
) -> SmallestExample | None:
    """What a query gives on given rows, woven with what is due; the tables that matter.

    None where the rows cannot be put in, or the query does not run on them.
    """
    rows = dict(given)
    known = {table.name for table in bench.scratch.schema}
    due = bench.due(rows) if known.issuperset(rows) else None
    actual = bench.run(sql) if due else None
    if due is None or actual is None:
        return None
    draft = bench.draft(sql)
    read = bench.tables_read(*([draft] if draft is not None else []))
    tables = tuple(
        ExampleTable(name, *_shown(bench, name))
        for name in bench.all_tables(rows)
        if rows[name] or name.lower() in read
    )
    held = compare(due[0], actual, bench.rules)
    names = told_names(due[0].result) if for_learner else ()
    return SmallestExample(
        tables, given, due[0].result, actual, woven_view(held, names),
        agrees=bench.is_right(actual, due),
    )  # fmt: skip


def _shown(bench: Bench, name: str) -> tuple[tuple[str, ...], tuple[tuple[Any, ...], ...]]:
    """All columns of a table and its rows, computed columns too, as the engine holds them."""
    table = next(one for one in bench.scratch.schema if one.name == name)
    quote = "`" if bench.measure.dialect == "mysql" else '"'
    names = ", ".join(f"{quote}{column.name}{quote}" for column in table.columns)
    found = bench.run(f"SELECT {names} FROM {quote}{name}{quote}")
    columns = tuple(column.name for column in table.columns)
    return columns, tuple(found.rows) if found is not None else ()
