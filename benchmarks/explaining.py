"""Near misses, smallest examples, blind spots and luck over a corpus written by hand.

Counts are shares of the corpus; times are on a processor, in this process.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import partial
from itertools import islice
from time import perf_counter, process_time
from typing import Any, TypeVar

from jentrow.core.engines.labels import RUNNING
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.distinguishing.blind_spots import sight_of
from jentrow.core.exercises.distinguishing.made_to_measure import made_to_measure
from jentrow.core.exercises.distinguishing.near_misses import near_misses
from jentrow.core.exercises.distinguishing.right_by_luck import right_by_luck
from jentrow.core.exercises.distinguishing.smallest_example import smallest_example
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.grader import Grader
from jentrow.services.runtime.engines import opened_engine
from tests.core.exercises.distinguishing.benches import (
    CORPUS,
    Laboratory,
    laboratory,
    sample_named,
)

OTHER_SEED = 991
OTHER_DATASETS = 300
MADE = 150
ENTRIES = 8

_T = TypeVar("_T")


def run() -> Iterator[str]:
    engine = SQLiteEngine(workers=1)
    try:
        yield from _run(engine)
    finally:
        engine.close()
    yield from _on_every_engine()


class _Times:
    """Milliseconds of a kind of search, one entry a search."""

    def __init__(self) -> None:
        self.taken: list[float] = []

    def timed(self, work: Callable[[], _T]) -> _T:
        began = process_time()
        found = work()
        self.taken.append(1000 * (process_time() - began))
        return found

    def __str__(self) -> str:
        return f"{_at(self.taken, 0.5):.0f} ms at the median, {_at(self.taken, 0.95):.0f} at p95"


def _on_every_engine() -> Iterator[str]:
    """The same mistakes on each engine, where its dialect has the words of the text."""
    on_sqlite = 0.0
    for name in RUNNING:
        wrong = examples = near = 0
        with opened_engine(name, workers=1) as engine:
            began = perf_counter()
            for entry in CORPUS[:ENTRIES]:
                exercise = Exercise("one", "One", "", entry["sample"], entry["reference"], name)
                grader = Grader(engine, exercise, sample_named(entry["sample"]))
                for sql in entry["wrong"]:
                    found = grader.analyse(sql, "explanation")
                    if found.outcome.standing == "incorrect":
                        wrong += 1
                        examples += found.example is not None
                        near += bool(found.near_misses)
            taken = (perf_counter() - began) / wrong
        on_sqlite = on_sqlite or taken
        yield (
            f"{name}: {examples} smallest examples and {near} near misses of {wrong} wrong answers, "
            f"{1000 * taken:.0f} ms each, {taken / on_sqlite:.1f} times as long as on SQLite"
        )


def _at(values: Sequence[float], share: float) -> float:
    return sorted(values)[min(len(values) - 1, int(len(values) * share))]


def _run(engine: SQLiteEngine) -> Iterator[str]:
    near, example, sight, luck = _Times(), _Times(), _Times(), _Times()
    wrong = found = examples = misled = lucky = caught = right = alarms = told = edits = 0
    sizes: list[int] = []
    for entry in CORPUS:
        lab = laboratory(engine, entry["sample"], entry["reference"], patience=1.0)
        lab.bench.first_made(MADE)
        for sql in entry["wrong"]:
            if lab.standing(sql) != "incorrect":
                continue
            wrong += 1
            smallest = example.timed(partial(smallest_example, lab.bench, sql))
            if smallest is not None:
                examples += 1
                sizes.append(smallest.row_count)
            misses = near.timed(partial(near_misses, lab.bench, sql, lab.is_right))
            found += bool(misses)
            misled += sum(not _right_elsewhere(lab, one.sql) for one in misses)
        for sql in entry["right"]:
            right += 1
            said = luck.timed(partial(right_by_luck, lab.bench, sql))
            alarms += bool(said.grade)
        sight.timed(partial(sight_of, lab.bench, lab.run))
        made = made_to_measure(lab.bench)
        told, edits = told + made.told, edits + made.edits
        alone = laboratory(
            engine, entry["sample"], entry["reference"], only_open=True, patience=1.0
        )
        for sql in (*entry["wrong"], *entry.get("lucky", ())):
            if alone.standing(sql) == "correct":
                lucky += 1
                caught += bool(right_by_luck(alone.bench, sql).grade)
    yield f"near misses: {found} of {wrong} (85 of 100 meant), {misled} wrong elsewhere (0 meant)"
    yield f"  {near} (100 and 200 meant)"
    yield f"smallest examples: {examples} of {wrong} (98 of 100 meant)"
    yield f"  {_at(sizes, 0.5)} rows at the median, {_at(sizes, 0.9)} at p90 (2 and 4 meant)"
    yield f"  {example} (20 and 200 meant)"
    yield f"blind spots: {sight} (1,000 meant)"
    yield f"made to measure: {told} of {edits} edits told apart (95 of 100 meant)"
    yield f"right by luck: {caught} of {lucky} (95 of 100 meant), {alarms} alarms in {right} (1 in 100 meant)"
    yield f"  {luck}"


def _right_elsewhere(lab: Laboratory, sql: str) -> bool:
    draft = lab.bench.draft(sql)
    assert draft is not None
    made: Any = lab.bench.making([draft], seed=OTHER_SEED)
    for dataset in islice(made, OTHER_DATASETS):
        lab.bench.scratch.fill(dataset.rows)
        if not lab.bench.is_right(lab.bench.run(sql), dataset.due):
            return False
    return True
