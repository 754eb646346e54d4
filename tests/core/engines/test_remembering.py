from __future__ import annotations

from collections.abc import Iterator, Sequence

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import LoadedDataset, QueryFailure, QueryOutcome
from jentrow.core.engines.remembering import RememberingEngine
from jentrow.core.results import Column, ResultSet
from jentrow.core.samples.sources import DatasetSource

DATA = LoadedDataset("sqlite", "one", "", (), ())
OTHER = LoadedDataset("sqlite", "two", "", (), ())


class Counting:
    """An engine that gives each text back as a row, and counts what it executed."""

    name = version = "counting"
    dialect = "sqlite"

    def __init__(self) -> None:
        self.executed: list[str] = []

    def load(self, dataset: DatasetSource) -> LoadedDataset:
        return DATA

    def run(self, dataset: LoadedDataset, sql: str, limits: Limits) -> QueryOutcome:
        raise AssertionError

    def run_many(
        self, dataset: LoadedDataset, queries: Sequence[str], limits: Limits
    ) -> Iterator[tuple[int, QueryOutcome]]:
        for at, sql in reversed(list(enumerate(queries))):
            self.executed.append(sql)
            if sql == "endless":
                yield at, QueryFailure("stopped", "limit.time", "stopped")
            else:
                yield at, ResultSet((Column("text"),), [(dataset.key + sql,)])

    def close(self) -> None:
        self.executed.clear()


def test_what_ran_before_does_not_run_again() -> None:
    inner = Counting()
    engine = RememberingEngine(inner)
    first = dict(engine.run_many(DATA, ["a", "b", "endless"], Limits()))
    again = dict(engine.run_many(DATA, ["c", "b", "a", "endless"], Limits()))
    assert [list(again[at].rows) for at in (0, 1, 2)] == [[("onec",)], [("oneb",)], [("onea",)]]  # type: ignore[union-attr]
    assert again[2] is first[0]
    assert inner.executed == ["endless", "b", "a", "c"]
    engine.run(OTHER, "a", Limits())
    engine.run(DATA, "a", Limits(rows=7))
    assert inner.executed[4:] == ["a", "a"]
    assert engine.fresh is inner


def test_what_was_asked_for_longest_ago_goes_first() -> None:
    inner = Counting()
    engine = RememberingEngine(inner, kept_cells=9)  # four results of one row
    for sql in ("a", "b", "c", "d", "a", "e", "a", "b"):
        engine.run(DATA, sql, Limits())
    assert inner.executed == ["a", "b", "c", "d", "e", "b"]
