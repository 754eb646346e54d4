"""Pages of a table's rows: sorted, narrowed by a condition, quick in the middle of millions."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Sequence
from contextlib import AbstractContextManager
from dataclasses import dataclass
from typing import Any, Final

import apsw
import numpy as np
from numpy.typing import NDArray

from jentrow.core.errors import UnusableInput
from jentrow.core.samples.dataset import Dataset, version_of
from jentrow.core.samples.schema.problems import expression_problem
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.sql.text import quoted_name
from jentrow.core.values import Value

LARGEST_PAGE: Final = 500
_KEPT_ORDERS: Final = 12


@dataclass(frozen=True, slots=True)
class SortKey:
    """A column to sort by."""

    column: str
    descending: bool = False


@dataclass(frozen=True, slots=True)
class TableRow:
    """A row with the number by which it is changed; 0 in a view."""

    number: int
    values: tuple[Value, ...]


@dataclass(frozen=True, slots=True)
class Page:
    """Some rows of a table. ``total`` counts all its rows, ``matching`` those of the condition."""

    version: int
    total: int
    matching: int
    offset: int
    rows: tuple[TableRow, ...]


@dataclass(frozen=True, slots=True)
class _Order:
    """The numbers of the matching rows in their order; None where they follow one another."""

    numbers: NDArray[np.int64] | None
    first: int
    matching: int
    total: int


class RowReader:
    """Reads pages of a dataset's tables; an order that was worked out once is kept for a while."""

    def __init__(self, dataset: Dataset) -> None:
        self._dataset = dataset
        self._orders: OrderedDict[tuple[Any, ...], _Order] = OrderedDict()
        self._lock = threading.Lock()

    def page(
        self,
        table_name: str,
        *,
        sort: Sequence[SortKey] = (),
        where: str = "",
        offset: int = 0,
        limit: int = 100,
    ) -> Page:
        """The rows at ``offset`` and after it. Raises :class:`UnusableInput`.

        ``where`` is an SQL condition on the table's columns. NULL sorts first, as in SQLite.
        """
        table = self._dataset.table(table_name)
        limit = max(0, min(limit, LARGEST_PAGE))
        offset = max(0, offset)
        with self._reading(where) as db:
            version = version_of(db)
            if table.kind == "view":
                return self._page_of_view(db, table, version, sort, where, offset, limit)
            order = self._order(db, table, version, tuple(sort), where)
            rows = _rows_at(db, table, order, offset, limit)
            return Page(version, order.total, order.matching, offset, rows)

    def place_of(
        self, table_name: str, number: int, *, sort: Sequence[SortKey] = (), where: str = ""
    ) -> int | None:
        """How many rows come before the row with this number; None where it is not among them."""
        table = self._dataset.table(table_name)
        with self._reading(where) as db:
            version = version_of(db)
            order = self._order(db, table, version, tuple(sort), where)
        if order.numbers is None:
            at = number - order.first
            return at if 0 <= at < order.matching else None
        found = np.flatnonzero(order.numbers == number)
        return int(found[0]) if len(found) else None

    def _reading(self, where: str) -> AbstractContextManager[apsw.Connection]:
        if where and (said := expression_problem(where)):
            raise UnusableInput(f"the condition cannot be read: {said}.")
        return self._dataset.reading()

    def _page_of_view(
        self,
        db: apsw.Connection,
        view: TableSchema,
        version: int,
        sort: Sequence[SortKey],
        where: str,
        offset: int,
        limit: int,
    ) -> Page:
        name = quoted_name(view.name)
        total = _one(db, f"SELECT count(*) FROM {name}")
        matching = _one(db, f"SELECT count(*) FROM {name}{_condition(where)}") if where else total
        rows = _run(
            db,
            f"SELECT * FROM {name}{_condition(where)}{_ordering(view, sort, '')} "
            f"LIMIT {limit} OFFSET {offset}",
        )
        return Page(
            version, total, matching, offset, tuple(TableRow(0, tuple(row)) for row in rows)
        )

    def _order(
        self,
        db: apsw.Connection,
        table: TableSchema,
        version: int,
        sort: tuple[SortKey, ...],
        where: str,
    ) -> _Order:
        key = (version, table.name, sort, where)
        with self._lock:
            if key in self._orders:
                self._orders.move_to_end(key)
                return self._orders[key]
        order = _work_out(db, table, sort, where)
        with self._lock:
            self._orders[key] = order
            while len(self._orders) > _KEPT_ORDERS:
                self._orders.popitem(last=False)
        return order


def _work_out(
    db: apsw.Connection, table: TableSchema, sort: tuple[SortKey, ...], where: str
) -> _Order:
    name, row = quoted_name(table.name), table.row_name
    total = _one(db, f"SELECT count(*) FROM {name}")
    if not sort and not where:
        first, last = next(_run(db, f"SELECT min({row}), max({row}) FROM {name}"))
        if total and last - first + 1 == total:
            return _Order(None, first, total, total)
    found = _run(db, f"SELECT {row} FROM {name}{_condition(where)}{_ordering(table, sort, row)}")
    numbers = np.fromiter((number for (number,) in found), dtype=np.int64)
    return _Order(numbers, 0, len(numbers), total)


def _rows_at(
    db: apsw.Connection, table: TableSchema, order: _Order, offset: int, limit: int
) -> tuple[TableRow, ...]:
    if order.numbers is None:
        wanted = list(
            range(order.first + offset, order.first + min(offset + limit, order.matching))
        )
    else:
        wanted = [int(number) for number in order.numbers[offset : offset + limit]]
    if not wanted:
        return ()
    marks = ", ".join("?" * len(wanted))
    found = db.execute(
        f"SELECT {table.row_name}, * FROM {quoted_name(table.name)} "
        f"WHERE {table.row_name} IN ({marks})",
        wanted,
    )
    rows = {row[0]: TableRow(row[0], tuple(row[1:])) for row in found}
    return tuple(rows[number] for number in wanted if number in rows)


def _condition(where: str) -> str:
    # The line end closes a comment that somebody may have left in the condition.
    return f" WHERE ({where}\n)" if where else ""


def _ordering(table: TableSchema, sort: Sequence[SortKey], row: str) -> str:
    keys = [
        quoted_name(table.column(key.column).name) + (" DESC" if key.descending else "")
        for key in sort
    ]
    keys += [row] if row else []
    return " ORDER BY " + ", ".join(keys) if keys else ""


def _run(db: apsw.Connection, sql: str) -> apsw.Cursor:
    try:
        return db.execute(sql)
    except apsw.InterruptError:
        raise
    except apsw.Error as problem:
        raise UnusableInput(f"the condition does not run: {problem}.") from problem


def _one(db: apsw.Connection, sql: str) -> int:
    return int(next(_run(db, sql))[0])
