"""A bench on which an exercise's right answers and any other query are run on made-up rows."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import islice, repeat
from typing import Final

from jentrow.core.comparison.cells import ComparisonTooLong
from jentrow.core.comparison.compare import compare
from jentrow.core.engines.answers import FAILED, ROWS
from jentrow.core.engines.labels import STAND_INS
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import LoadedDataset, QueryFailure, QueryOutcome, Run
from jentrow.core.engines.scratch import Scratch
from jentrow.core.errors import ReferenceFails
from jentrow.core.exercises.distinguishing.open_data import OpenData, looked_at
from jentrow.core.exercises.grading.expectations import expect
from jentrow.core.exercises.grading.measure import Measure
from jentrow.core.results import Column, Expectation, ResultSet
from jentrow.core.samples.generated.habits import HabitCheck
from jentrow.core.samples.generated.made_rows import MadeRows, RowMaker, with_parents
from jentrow.core.samples.generated.value_pools import pools_for
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.sql.edits.draft import Draft, draft_of
from jentrow.core.sql.mentions import Mentions
from jentrow.core.sql.stand_ins.stand_in import RUNS_ON, foreign_word, stood_in

SMALL: Final = Limits(seconds=0.02, rows=2_000, memory_mb=64)
"""What one query on made-up rows may use: there are few of them."""

_AGAIN: Final = 3
"""How many times as long a query may take that is run once more, since its time was up."""

SEED: Final = 20260301
_UNSETTLED: Final = 40
"""Where on so many more datasets than not nobody can say what is due, no more are made."""

_NOTHING: Final = QueryFailure("error", "sql.runtime", "")


@dataclass(frozen=True, slots=True)
class MadeDataset:
    """Made-up rows, and what is due on them: for the reference and each alternative."""

    rows: MadeRows
    due: tuple[Expectation, ...]

    @property
    def size(self) -> int:
        """How many rows there are in all."""
        return sum(map(len, self.rows.values()))


class Budget:
    """Time that a search may take, by a clock that says it in seconds."""

    def __init__(self, seconds: float, clock: Callable[[], float]) -> None:
        self._clock = clock
        self._until = clock() + seconds

    @property
    def is_spent(self) -> bool:
        """Whether it is over."""
        return self._clock() > self._until


class Bench:
    """An exercise's right answers, and a scratch database to run them and others on."""

    def __init__(self, measure: Measure, scratch: Scratch, run: Run, patience: float = 1.0) -> None:
        """``patience`` is how many times the usual time searches may take."""
        self.measure, self.scratch = measure, scratch
        self._patience = patience
        self.rules = measure.exercise.rules.comparison
        self.small = replace(SMALL, minds_case=measure.limits.minds_case)
        self._run = run
        self._querying = _OnScratch(scratch, measure.dialect, measure.datasets[0])
        self._made: list[MadeDataset] = []
        self._making: Iterator[MadeDataset] | None = None

    def budget(self, seconds: float) -> Budget:
        """Time for a search that takes ``seconds`` at most where queries run quickest."""
        return Budget(seconds * self.scratch.slowness * self._patience, self.scratch.clock)

    def count(self, datasets: int) -> int:
        """How many datasets to try where queries run slower: fewer, by the root of how much."""
        return math.ceil(datasets / math.sqrt(self.scratch.slowness))

    @cached_property
    def open_data(self) -> OpenData:
        """What the open dataset holds."""
        limits = self.measure.limits

        def rows_of(sql: str) -> ResultSet | None:
            found = self._run(self.measure.datasets[0], sql, limits)
            return None if isinstance(found, QueryFailure) else found

        return looked_at(self.scratch.schema, rows_of, self.measure.dialect)

    @cached_property
    def answers(self) -> tuple[Draft, ...]:
        """The reference and the alternatives, as far as they can be read."""
        found = (self.draft(one.sql) for one in self.measure.answers)
        return tuple(one for one in found if one is not None)

    def draft(self, sql: str, others: Sequence[Draft] = ()) -> Draft | None:
        """A text, to be edited; None where it cannot be read."""
        return draft_of(sql, self.measure.dialect, self.open_data.facts, others)

    # rows

    @property
    def made(self) -> Iterator[MadeDataset]:
        """Datasets made of the answers' own words; the same ones each time, without end."""
        at = 0
        while True:
            if at == len(self._made):
                if self._making is None:
                    self._making = self.making(())
                following = next(self._making, None)
                if following is None:
                    return
                self._made.append(following)
            yield self._made[at]
            at += 1

    def first_made(self, count: int) -> list[MadeDataset]:
        """The first of them."""
        return list(islice(self.made, count))

    def making(
        self, drafts: Sequence[Draft], *, usual: bool | None = None, seed: int = SEED
    ) -> Iterator[MadeDataset]:
        """Datasets made of the words of the answers and of other texts, on which it is settled what is due."""
        mentions = Mentions()
        for draft in (*self.answers, *drafts):
            mentions.add(draft)
        tables = with_parents(self.scratch.schema, self._read_tables(mentions))
        if not tables:
            # Nothing is read, and so there is but one dataset: none at all.
            due = self.due({})
            if due is not None:
                yield from repeat(MadeDataset({}, due))
            return
        data = self.open_data
        maker = RowMaker(
            tables, pools_for(tables, mentions, data.held), data.habits, self.scratch.allows, seed
        )
        settled = unsettled = 0
        for rows in maker.datasets(usual=usual):
            due = self.due(rows)
            if due is not None:
                settled += 1
                yield MadeDataset(rows, due)
            else:
                unsettled += 1
                if unsettled > _UNSETTLED + settled:
                    return

    def _read_tables(self, mentions: Mentions) -> set[str]:
        """The tables that texts read; behind a view, all of them."""
        views = {one.name.lower() for one in self.scratch.schema if one.kind == "view"}
        if mentions.tables & views:
            return {one.name.lower() for one in self.scratch.schema if one.kind == "table"}
        return mentions.tables

    def tables_read(self, *drafts: Draft) -> set[str]:
        """The names, in small letters, of the tables that some texts and the reference read."""
        mentions = Mentions()
        for draft in (*self.answers[:1], *drafts):
            mentions.add(draft)
        return self._read_tables(mentions)

    # running

    def due(self, rows: MadeRows) -> tuple[Expectation, ...] | None:
        """What is due on rows, which are held from now on; None where that is not settled."""
        if not self.scratch.fill(rows):
            return None
        found: list[Expectation] = []
        for number, answer in enumerate(self.measure.answers):
            try:
                expected = expect(
                    self._querying, self.measure.datasets[0], answer.sql, self.small, answer.name
                )
            except ReferenceFails:
                if number == 0:
                    return None
                continue
            if number == 0 and not _is_settled(expected):
                return None
            found.append(expected)
        return tuple(found)

    def run(self, sql: str) -> ResultSet | None:
        """What a query gives on the rows that are held; None where it does not run."""
        found = self._querying.run(self.measure.datasets[0], sql, self.small)
        return None if isinstance(found, QueryFailure) else found

    def is_right(self, given: ResultSet | None, due: Sequence[Expectation]) -> bool:
        """Whether a result is what one of the answers gives."""
        if given is None:
            return False
        return any(self._agrees(given, one, due[0]) for one in due)

    def _agrees(self, given: ResultSet, due: Expectation, reference: Expectation) -> bool:
        rules = self.rules
        width, count = len(due.result.columns), len(due.result.rows)
        if len(given.columns) != width and rules.extra_columns == "refuse":
            return False
        if rules.duplicates == "count" and not due.choices and len(given.rows) != count:
            return False
        plain = rules.column_names == "ignore" and len(given.columns) == width
        if plain and given.rows == due.result.rows and rules.value_types != "strict":
            return True
        try:
            return compare(due, given, rules, reference=reference).verdict == "correct"
        except (ReferenceFails, ComparisonTooLong):
            return False

    def tells_apart(self, sql: str, rows: MadeRows) -> MadeDataset | None:
        """The dataset of some rows, where a query surely gives another result on them than is due.

        Surely: whatever sequence rows come in that nobody sorts.
        """
        due = self.due(rows)
        if due is None:
            return None
        if not self._is_wrong(sql, due):
            return None
        if not self.scratch.fill(rows, backwards=True):
            return None
        reference = self.run(self.measure.answers[0].sql)
        if not self.is_right(reference, due[:1]) or not self._is_wrong(sql, due):
            return None
        return MadeDataset(rows, due)

    def _is_wrong(self, sql: str, due: Sequence[Expectation]) -> bool:
        """Whether a query runs, and gives what is not due."""
        given = self.run(sql)
        return given is not None and not self.is_right(given, due)

    def is_usual(self, rows: MadeRows) -> bool:
        """Whether rows keep the habits of the open data."""
        for name, table in self.all_tables(rows).items():
            habits = self.open_data.habits.get(name.lower())
            if habits is None:
                continue
            check, held = HabitCheck(habits, table), rows[name]
            if not all(check.passes(row, held[:at]) for at, row in enumerate(held)):
                return False
        return True

    def all_tables(self, rows: MadeRows) -> Mapping[str, TableSchema]:
        """The tables of some rows, by their names."""
        return {one.name: one for one in self.scratch.schema if one.name in rows}


def _is_settled(expected: Expectation) -> bool:
    return not expected.choices and expected.ties_known


class _OnScratch:
    """The scratch database, as expectations ask an engine."""

    def __init__(self, scratch: Scratch, dialect: str, dataset: LoadedDataset) -> None:
        self.dialect = dialect
        self._scratch, self._dataset = scratch, dataset

    def as_run(self, dataset: LoadedDataset, sql: str) -> tuple[LoadedDataset, str, str]:
        """The text as it is, or what a stand-in runs of it."""
        if dataset.engine not in STAND_INS:
            return dataset, sql, self.dialect
        made = stood_in(self.dialect, sql, dataset.kinds)
        return replace(dataset, engine=RUNS_ON), made.sql or sql, RUNS_ON

    def run(self, dataset: LoadedDataset, sql: str, limits: Limits) -> QueryOutcome:
        """The rows, or that there are none to speak of."""
        if dataset.engine in STAND_INS:
            made = stood_in(self.dialect, sql, dataset.kinds)
            if not made.sql or made.lost or foreign_word(self.dialect, sql) is not None:
                return _NOTHING
            sql = made.sql
        answer = self._scratch.run(sql, limits)
        if answer[:3] == (FAILED, "stopped", "limit.time"):
            # So little time is up, too, where the machine halted for a moment.
            answer = self._scratch.run(sql, replace(limits, seconds=_AGAIN * limits.seconds))
        if answer[0] != ROWS:
            return _NOTHING
        _, names, rows, _ = answer
        return ResultSet(tuple(map(Column, names)), rows)
