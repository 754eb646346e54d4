"""Rows of a sample, looked at: pages, profiles, partners, what there is to show and to add."""

from __future__ import annotations

from collections.abc import Sequence

from jentrow.core.samples.rows.pages import Page, SortKey
from jentrow.core.samples.rows.profile import (
    Referring,
    TableProfile,
)
from jentrow.core.samples.rows.showing import Showing, Wanted
from jentrow.core.samples.rows.suggestions import Suggestion
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.sql.boundaries import boundaries_in
from jentrow.records.samples import (
    exercises_over,
)
from jentrow.services.errors import NotFound
from jentrow.services.samples.catalogue import dataset_named, open_dataset, sample_named
from jentrow.services.scope import CourseScope


def table_page(
    scope: CourseScope,
    sample: str,
    dataset: str,
    table: str,
    *,
    sort: Sequence[SortKey],
    where: str,
    offset: int,
    limit: int,
) -> tuple[TableSchema, Page]:
    """Rows of a table, with what the table is."""
    opened = open_dataset(scope, sample, dataset)
    shape = opened.dataset.table(table)
    return shape, opened.look(
        "page", table, sort=tuple(sort), where=where, offset=offset, limit=limit
    )


def place_of_row(
    scope: CourseScope,
    sample: str,
    dataset: str,
    table: str,
    row: int,
    sort: Sequence[SortKey],
    where: str,
) -> int | None:
    """How many rows come before a row."""
    found: int | None = open_dataset(scope, sample, dataset).look(
        "place", table, row, sort=tuple(sort), where=where
    )
    return found


def profile(scope: CourseScope, sample: str, dataset: str, table: str) -> TableProfile:
    """What the columns of a table hold."""
    opened = open_dataset(scope, sample, dataset)
    found: TableProfile = opened.looked_at("profile", opened.dataset.table(table).name)
    return found


def parent_of(
    scope: CourseScope, sample: str, dataset: str, table: str, row: int, column: str
) -> tuple[str, int] | None:
    """The row that a foreign key value refers to."""
    found: tuple[str, int] | None = open_dataset(scope, sample, dataset).look(
        "parent", table, column, row
    )
    return found


def children_of(
    scope: CourseScope, sample: str, dataset: str, table: str, row: int
) -> list[Referring]:
    """The rows that refer to a row."""
    found: list[Referring] = open_dataset(scope, sample, dataset).look("children", table, row)
    return found


def showing(scope: CourseScope, sample: str, dataset: str) -> list[Showing]:
    """What the rows can show and what they cannot, the exercises' own boundaries among it."""
    with scope.records.session() as session:
        record = sample_named(session, sample)
        opened = scope.runtime.datasets.open(dataset_named(record, dataset))
        columns = [
            (table.name, [column.name for column in table.columns])
            for table in opened.dataset.tables
        ]
        wanted = [
            Wanted(boundary, exercise.title)
            for exercise in exercises_over(session, record.id)
            for boundary in boundaries_in(exercise.reference, columns, exercise.engine)
        ]
    found: list[Showing] = opened.looked_at("showing", tuple(wanted))
    return found


def suggestion(scope: CourseScope, sample: str, dataset: str, id: str) -> Suggestion:
    """Rows that would show what is missing. Raises :class:`NotFound`."""
    for one in showing(scope, sample, dataset):
        if one.id == id:
            found: Suggestion = open_dataset(scope, sample, dataset).look("suggest", one)
            return found
    raise NotFound(f"There is nothing called {id!r} that these rows could show.")
