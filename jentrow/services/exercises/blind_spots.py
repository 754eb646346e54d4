"""Blind spots of an exercise on the bench: seen, looked at with rows, and closed by taking them in."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal, TypeAlias

from jentrow.core.errors import JentrowError, UnusableInput
from jentrow.core.exercises.distinguishing.blind_spots import Sight
from jentrow.core.samples.generated.grafting import grafted
from jentrow.core.samples.rows.edits import Insert
from jentrow.records.contents import record_content
from jentrow.services.exercises.examples import (
    ExampleView,
    MadeTable,
    example_view,
    made_tables,
)
from jentrow.services.exercises.overview import exercise_named
from jentrow.services.exercises.proof import Bench
from jentrow.services.samples.catalogue import open_dataset, open_datasets
from jentrow.services.samples.library import delete_dataset, new_dataset
from jentrow.services.samples.row_changes import edit
from jentrow.services.scope import CourseScope

Into: TypeAlias = Literal["held-back", "open"]


@dataclass(frozen=True)
class SightView:
    """What an exercise's datasets see; ``trouble`` says why nothing can be told."""

    sight: Sight | None
    trouble: str


@dataclass(frozen=True)
class SpotView:
    """The rows that show a blind spot; ``example`` is None where none were found in time."""

    example: ExampleView | None
    rows: list[MadeTable]
    trouble: str


@dataclass(frozen=True)
class MeasuredView:
    """Datasets made to measure: together they tell ``told`` of ``edits`` likely mistakes apart."""

    datasets: list[list[MadeTable]]
    told: int
    edits: int
    trouble: str


def sight(scope: CourseScope, slug: str, content: Mapping[str, Any]) -> SightView:
    """What an exercise's datasets tell apart, and its blind spots."""
    bench = Bench(scope, slug, content)
    try:
        found = bench.whole().analyse(bench.exercise.reference, "sight")
    except JentrowError as problem:
        return SightView(None, str(problem))
    return SightView(found.sight, found.without)


def spot_rows(scope: CourseScope, slug: str, content: Mapping[str, Any], sql: str) -> SpotView:
    """The fewest rows that were found on which a query gives another result than is due."""
    bench = Bench(scope, slug, content)
    try:
        found = bench.whole().analyse(sql, "example")
    except JentrowError as problem:
        return SpotView(None, [], str(problem))
    if found.example is None:
        return SpotView(None, [], found.without)
    rows = made_tables(found.example.rows, _columns(scope, bench.sample.name))
    return SpotView(example_view(found.example), rows, "")


def made_to_measure(scope: CourseScope, slug: str, content: Mapping[str, Any]) -> MeasuredView:
    """A few small datasets that together see every likely mistake that can be seen."""
    bench = Bench(scope, slug, content)
    try:
        found = bench.whole().analyse(bench.exercise.reference, "made_to_measure")
    except JentrowError as problem:
        return MeasuredView([], 0, 0, str(problem))
    if found.made is None:
        return MeasuredView([], 0, 0, found.without)
    columns = _columns(scope, bench.sample.name)
    datasets = [made_tables(tuple(one.items()), columns) for one in found.made.datasets]
    return MeasuredView(datasets, found.made.told, found.made.edits, "")


def sight_of_kept(scope: CourseScope, slug: str) -> SightView:
    """The same of an exercise as it is kept. Raises :class:`NotFound`."""
    with scope.records.session() as session:
        content = record_content(exercise_named(session, slug))
    return sight(scope, slug, content)


def _columns(scope: CourseScope, sample: str) -> dict[str, list[str]]:
    tables = open_dataset(scope, sample, "").dataset.tables
    return {one.name: [column.name for column in one.writable] for one in tables}


def take_in(
    scope: CourseScope, sample: str, datasets: Sequence[Sequence[MadeTable]], into: Into, name: str
) -> list[str]:
    """Puts made-up rows into datasets of a sample; gives the names of those datasets.

    Held back, each is a dataset of its own called ``name``, numbered where there are several; into
    the open one they come with fresh keys. Raises :class:`UnusableInput`.
    """
    if not datasets or not any(table.rows for one in datasets for table in one):
        raise UnusableInput("there are no rows to be taken in.")
    for table in (table for one in datasets for table in one):
        if any(len(row) != len(table.columns) for row in table.rows):
            raise UnusableInput(f"{table.table}: a row has more or fewer values than columns.")
    known = open_datasets(scope, sample)
    first, opened = next(iter(known.items()))
    if into == "open":
        for one in datasets:
            rows = {
                table.table: [dict(zip(table.columns, row, strict=True)) for row in table.rows]
                for table in one
            }
            edit(scope, sample, first, grafted(opened, rows))
        return [first]
    made: list[str] = []
    for number, one in enumerate(datasets, 1):
        wanted = _free_name(name if len(datasets) == 1 else f"{name}-{number}", {*known, *made})
        made.append(new_dataset(scope, sample, wanted, first, empty=True))
        try:
            edit(scope, sample, wanted, [insert for table in one for insert in _inserts(table)])
        except UnusableInput:
            delete_dataset(scope, sample, wanted)
            raise
    return made


def _free_name(name: str, taken: set[str]) -> str:
    lower = {one.lower() for one in taken}
    at, free = 2, name
    while free.lower() in lower:
        free, at = f"{name}-{at}", at + 1
    return free


def _inserts(table: MadeTable) -> list[Insert]:
    return [Insert(table.table, dict(zip(table.columns, row, strict=True))) for row in table.rows]
