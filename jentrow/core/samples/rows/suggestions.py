"""Rows that would show what is missing, made of the rows that are there, and kept by no less."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Final

import apsw

from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.rows.edits import Insert, RefusedEdit, dry_run
from jentrow.core.samples.rows.showing import Showing
from jentrow.core.samples.schema.coltypes import another
from jentrow.core.samples.schema.tables import ColumnSchema, ForeignKey, TableSchema
from jentrow.core.sql.text import quoted_name
from jentrow.core.values import Value, printed

_TEMPLATES: Final = 24
"""How many rows are tried as a pattern."""


@dataclass(frozen=True, slots=True)
class Suggestion:
    """Rows to add; where no row can be, ``rows`` is empty and ``why`` says what forbids it."""

    rows: tuple[Insert, ...]
    why: str = ""


def suggest(dataset: Dataset, showing: Showing) -> Suggestion:
    """Rows that would show it and break no constraint. Raises :class:`UnusableInput`."""
    last: RefusedEdit | None = None
    with dataset.reading() as db:
        candidates = list(_Suggesting(db, dataset, showing).candidates())
    for rows in candidates:
        refused = dry_run(dataset, rows)
        if refused is None:
            return Suggestion(tuple(rows))
        last = refused
    if last is not None:
        return Suggestion((), f"the constraints allow no such row: {last}")
    return Suggestion((), "there is no row to make it from; add the first rows by hand.")


Cells = dict[str, str | None]


class _Suggesting:
    def __init__(self, db: apsw.Connection, dataset: Dataset, showing: Showing) -> None:
        self._db, self._dataset, self._showing = db, dataset, showing
        self._table = dataset.table(showing.table)

    def candidates(self) -> Iterator[list[Insert]]:
        showing = self._showing
        if showing.kind == "parent_with_one":
            yield from self._with_one_child()
            return
        for template in self._templates(self._table):
            twist = self._twist(template)
            if twist is not None:
                yield [Insert(self._table.name, self._fresh(self._table, template, twist))]

    def _twist(self, template: dict[str, Value]) -> Cells | None:
        """The cells that make the difference; None where this row is no pattern for it."""
        showing = self._showing
        column = showing.columns[0]
        value = template.get(column)
        match showing.kind:
            case "null":
                return {column: None}
            case "empty":
                return {column: ""}
            case "blank":
                return {column: f"{value} "} if isinstance(value, str) and value else None
            case "case":
                if not isinstance(value, str):
                    return None
                other = value.upper() if value != value.upper() else value.lower()
                return {column: other} if other != value else None
            case "tie":
                return None if value is None else {column: _text(value)}
            case "duplicate":
                return {name: _text(template[name]) for name in showing.columns}
            case "boundary":
                return {column: showing.value}
            case "extreme":
                return {column: self._far(column)}
            case "child_alone":
                return dict.fromkeys(showing.columns)
            case "group_of_one":
                return {column: self._unlike(self._table, self._table.column(column), value)}
            case _:
                return {}

    def _far(self, column: str) -> str:
        """Beyond the largest value by as much again as would be far in ten times as many rows."""
        name, source = quoted_name(column), quoted_name(self._table.name)
        smallest, largest, count = next(
            self._db.execute(f"SELECT min({name}), max({name}), count({name}) FROM {source}")
        )
        spread = max(largest - smallest, abs(largest), 1)
        far = largest + spread * max(10, count // 10)
        return printed(int(far) if isinstance(largest, int) else round(far, 2))

    def _with_one_child(self) -> Iterator[list[Insert]]:
        """A row that refers to a parent with none yet, or to one made for it."""
        child = self._dataset.table(self._showing.other)
        key = next(one for one in child.foreign_keys if one.columns == self._showing.columns)
        for template in self._templates(child):
            for parent in self._childless(key):
                yield [self._child(child, key, template, parent)]
            for above in self._templates(self._table):
                fresh = self._fresh(self._table, above, {}, named=key.to)
                if all(fresh.get(name) is not None for name in key.to):
                    cells = {name: fresh[name] for name in key.to}
                    yield [
                        Insert(self._table.name, fresh),
                        self._child(child, key, template, cells),
                    ]

    def _child(
        self, child: TableSchema, key: ForeignKey, template: dict[str, Value], parent: Cells
    ) -> Insert:
        twist = {one: parent[to] for one, to in zip(key.columns, key.to, strict=True)}
        return Insert(child.name, self._fresh(child, template, twist))

    def _childless(self, key: ForeignKey) -> Iterator[Cells]:
        names = ", ".join(quoted_name(name) for name in key.to)
        where = " AND ".join(
            f"c.{quoted_name(one)} = p.{quoted_name(to)}"
            for one, to in zip(key.columns, key.to, strict=True)
        )
        found = self._db.execute(
            f"SELECT {names} FROM {quoted_name(self._table.name)} p WHERE NOT EXISTS "
            f"(SELECT 1 FROM {quoted_name(self._showing.other)} c WHERE {where}) LIMIT 3"
        )
        for row in list(found):
            yield {name: _text(value) for name, value in zip(key.to, row, strict=True)}

    def _templates(self, table: TableSchema) -> Iterator[dict[str, Value]]:
        """Some rows, spread over the table: the first and last look alike too often."""
        source = quoted_name(table.name)
        (count,) = next(self._db.execute(f"SELECT count(*) FROM {source}"))
        step = max(1, count // _TEMPLATES)
        for offset in range(0, count, step):
            found = list(self._db.execute(f"SELECT * FROM {source} LIMIT 1 OFFSET {offset}"))
            for row in found:
                yield {column.name: value for column, value in zip(table.columns, row, strict=True)}

    def _fresh(
        self,
        table: TableSchema,
        template: dict[str, Value],
        twist: Cells,
        named: tuple[str, ...] = (),
    ) -> Cells:
        """A row like the template, its keys new; ``named`` are columns that must have a value."""
        cells: Cells = {column.name: _text(template[column.name]) for column in table.writable}
        for key in table.keys:
            if any(name in twist for name in key):
                continue
            if len(key) == 1:
                column = table.column(key[0])
                if column.type_name == "integer" and key == table.primary_key and not named:
                    cells.pop(column.name, None)  # the engine numbers it
                else:
                    cells[column.name] = self._unlike(table, column, template[column.name])
            else:
                cells |= self._free_pair(table, key)
        return cells | twist

    def _unlike(self, table: TableSchema, column: ColumnSchema, value: Value) -> str | None:
        """A value that the column does not hold yet."""
        name, source = quoted_name(column.name), quoted_name(table.name)
        (largest,) = next(self._db.execute(f"SELECT max({name}) FROM {source}"))
        match column.type_name:
            case "integer" | "decimal" | "float":
                return _text((largest or 0) + 1)
            case "date":
                day = dt.date.fromisoformat(str(largest or "2026-01-01")[:10])
                return (day + dt.timedelta(days=1)).isoformat()
            case "timestamp" | "instant" as type:
                moment = dt.datetime.fromisoformat(str(largest or "2026-01-01 00:00:00")[:19])
                zone = "+00:00" if type == "instant" else ""
                return (moment + dt.timedelta(days=1)).isoformat(sep=" ") + zone
            case "boolean":
                return "false" if value in (1, "1") else "true"
        for number in range(2, 10_000):
            text = another(value, column.type_name, number)
            sql = f"SELECT 1 FROM {source} WHERE {name} = ? LIMIT 1"
            if not list(self._db.execute(sql, (text,))):
                return text
        return None

    def _free_pair(self, table: TableSchema, key: tuple[str, ...]) -> Cells:
        """Values for the columns of a key, each of which stands somewhere, not yet together."""
        sources = []
        for name in key:
            parent = next(
                (
                    (one.table, to)
                    for one in table.foreign_keys
                    for column, to in zip(one.columns, one.to, strict=True)
                    if column == name
                ),
                (table.name, name),
            )
            sources.append(
                f"(SELECT DISTINCT {quoted_name(parent[1])} AS v FROM {quoted_name(parent[0])})"
            )
        joined = ", ".join(f"{source} s{at}" for at, source in enumerate(sources))
        same = " AND ".join(f"t.{quoted_name(name)} = s{at}.v" for at, name in enumerate(key))
        apart = "".join(f" AND s{at}.v <> s{at - 1}.v" for at in range(1, len(key)))
        values = ", ".join(f"s{at}.v" for at in range(len(key)))
        found: list[tuple[Any, ...]] = list(
            self._db.execute(
                f"SELECT {values} FROM {joined} WHERE NOT EXISTS "
                f"(SELECT 1 FROM {quoted_name(table.name)} t WHERE {same}){apart} LIMIT 1"
            )
        )
        if not found:
            return {}
        return {name: _text(value) for name, value in zip(key, found[0], strict=True)}


def _text(value: Value) -> str | None:
    """A value as somebody would type it."""
    if value is None:
        return None
    return f"x'{value.hex()}'" if isinstance(value, bytes) else printed(value)
