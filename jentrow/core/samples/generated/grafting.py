"""Made-up rows put beside rows that are there already: with keys and unique texts that are free."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import TypeAlias

import apsw

from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.generated.made_rows import in_order
from jentrow.core.samples.rows.edits import Insert
from jentrow.core.samples.schema.coltypes import another
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.sql.text import quoted_name

Texts: TypeAlias = Mapping[str, str | None]
"""A row as texts, by column; None for NULL."""


def grafted(dataset: Dataset, rows: Mapping[str, Sequence[Texts]]) -> list[Insert]:
    """Rows as inserts into a dataset, parents first; what refers to them is changed along.

    Whole-number keys go on from the largest that there is. A text that must be unique and is taken
    gets a number behind it.
    """
    with dataset.reading() as db:
        return list(_Grafting(db, dataset.tables).inserts(rows))


class _Grafting:
    def __init__(self, db: apsw.Connection, tables: Sequence[TableSchema]) -> None:
        self._db = db
        self._tables = in_order([table for table in tables if table.kind == "table"])
        self._new: dict[tuple[str, str, str], str] = {}
        """The new value of a key's column, by table, column and old value."""
        self._given: dict[tuple[str, str], set[str]] = {}

    def inserts(self, rows: Mapping[str, Sequence[Texts]]) -> Iterator[Insert]:
        for table in self._tables:
            for row in rows.get(table.name, ()):
                yield Insert(table.name, self._fresh(table, dict(row)))

    def _fresh(self, table: TableSchema, row: dict[str, str | None]) -> dict[str, str | None]:
        referring = {name for key in table.foreign_keys for name in key.columns}
        before = dict(row)
        for name in (key[0] for key in table.keys if len(key) == 1):
            value = row.get(name)
            if value is not None and name not in referring:
                fresh = self._free(table, name, value)
                row[name] = fresh
                self._new[table.name.lower(), name.lower(), value] = fresh
        for key in table.foreign_keys:
            for name, to in zip(key.columns, key.to, strict=True):
                value = before.get(name)
                if value is not None:
                    row[name] = self._new.get((key.table.lower(), to.lower(), value), value)
        return row

    def _free(self, table: TableSchema, column: str, value: str) -> str:
        taken = self._given.setdefault((table.name, column), set())
        if table.column(column).type_name in ("integer", None) and value.lstrip("-").isdigit():
            (most,) = next(
                self._db.execute(
                    f"SELECT max({quoted_name(column)}) FROM {quoted_name(table.name)}"
                )
            )
            fresh = str((most if isinstance(most, int) else 0) + len(taken) + 1)
        else:
            fresh, number = value, 2
            while fresh in taken or self._is_there(table, column, fresh):
                fresh, number = another(value, table.column(column).type_name, number), number + 1
        taken.add(fresh)
        return fresh

    def _is_there(self, table: TableSchema, column: str, value: str) -> bool:
        found = self._db.execute(
            f"SELECT 1 FROM {quoted_name(table.name)} WHERE {quoted_name(column)} = ? LIMIT 1",
            (value,),
        )
        return next(iter(found), None) is not None
