"""Making a dataset that tells two queries apart smaller, row by row, and its values plainer."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import TypeAlias

from jentrow.core.results import Row
from jentrow.core.samples.generated.made_rows import MadeRows
from jentrow.core.samples.schema.tables import ForeignKey, TableSchema
from jentrow.core.sql.mentions import ColumnName
from jentrow.core.values import Value

StillTells: TypeAlias = Callable[[MadeRows], bool]
"""Whether rows still tell the queries apart."""


def shrunk(
    rows: MadeRows,
    schema: Sequence[TableSchema],
    still_tells: StillTells,
    usual: Mapping[ColumnName, Sequence[Value]],
) -> MadeRows:
    """As few rows as can be found by leaving out one after the other, with plain values.

    Constraints stay kept: with a row go those that refer to it. One row at least stays.
    """
    tables = {table.name: table for table in schema}
    smaller = _fewer(rows, tables, still_tells)
    freed = _with_freed_parents(smaller, tables, still_tells)
    if freed is not smaller:
        smaller = _fewer(freed, tables, still_tells)
    return _plainer(smaller, tables, still_tells, usual)


def _count(rows: MadeRows) -> int:
    return sum(map(len, rows.values()))


def _fewer(rows: MadeRows, tables: Mapping[str, TableSchema], still_tells: StillTells) -> MadeRows:
    changed = True
    while changed:
        changed = False
        for name in sorted(rows, key=lambda one: -len(rows[one])):
            at = len(rows[name]) - 1
            while at >= 0:
                if at < len(rows[name]):
                    less = without(rows, tables, name, {at})
                    if _count(less) and still_tells(less):
                        rows, changed = less, True
                at -= 1
    return rows


def without(
    rows: MadeRows, tables: Mapping[str, TableSchema], name: str, gone: set[int]
) -> MadeRows:
    """The rows but for some of a table, and but for those that referred to them."""
    left = dict(rows)
    kept = tuple(row for at, row in enumerate(rows[name]) if at not in gone)
    lost = [row for at, row in enumerate(rows[name]) if at in gone]
    left[name] = kept
    for child in left:
        for key in tables[child].foreign_keys:
            if key.table.lower() != name.lower():
                continue
            targets = {_values(tables[name], key.to, row) for row in lost}
            orphans = {
                at
                for at, row in enumerate(left[child])
                if _values(tables[child], key.columns, row) in targets
            }
            if orphans:
                left = dict(without(left, tables, child, orphans))
    return left


def _values(table: TableSchema, names: Sequence[str], row: Row) -> tuple[Value, ...]:
    places = {column.name: at for at, column in enumerate(table.writable)}
    return tuple(row[places[name]] for name in names)


def _with_freed_parents(
    rows: MadeRows, tables: Mapping[str, TableSchema], still_tells: StillTells
) -> MadeRows:
    """Rows that point elsewhere, so that the row that they pointed to can go."""
    for name in list(rows):
        for at in range(len(rows[name])):
            for key in tables[name].foreign_keys:
                if at >= len(rows[name]):
                    break
                for other in _elsewhere(rows, tables, name, at, key):
                    parent = next(one for one in rows if one.lower() == key.table.lower())
                    freed = _unused_left_out(other, tables, parent, rows)
                    if _count(freed) < _count(rows) and still_tells(freed):
                        rows = freed
                        break
    return rows


def _elsewhere(
    rows: MadeRows, tables: Mapping[str, TableSchema], name: str, at: int, key: ForeignKey
) -> Iterator[MadeRows]:
    table = tables[name]
    parent = next((one for one in rows if one.lower() == key.table.lower()), None)
    if parent is None or any(column in table.primary_key for column in key.columns):
        return
    now = _values(table, key.columns, rows[name][at])
    targets: list[tuple[Value, ...]] = [
        _values(tables[parent], key.to, row)
        for place, row in enumerate(rows[parent])
        if parent != name or place != at
    ]
    if all(not table.column(column).not_null for column in key.columns):
        targets.insert(0, tuple(None for _ in key.columns))
    for target in dict.fromkeys(targets):
        if target != now:
            yield _with(rows, tables, name, at, dict(zip(key.columns, target, strict=True)))


def _with(
    rows: MadeRows,
    tables: Mapping[str, TableSchema],
    name: str,
    at: int,
    new: Mapping[str, Value],
) -> MadeRows:
    columns = tables[name].writable
    row = tuple(
        new.get(column.name, value) for column, value in zip(columns, rows[name][at], strict=True)
    )
    held = rows[name]
    return {**rows, name: (*held[:at], row, *held[at + 1 :])}


def _unused_left_out(
    rows: MadeRows, tables: Mapping[str, TableSchema], parent: str, before: MadeRows
) -> MadeRows:
    """The rows without those of a table that something referred to, and nothing does any more."""
    used: set[tuple[Value, ...]] = set()
    were: set[tuple[Value, ...]] = set()
    to: tuple[str, ...] = ()
    for child in rows:
        for key in tables[child].foreign_keys:
            if key.table.lower() == parent.lower():
                to = key.to
                used |= {_values(tables[child], key.columns, row) for row in rows[child]}
                were |= {_values(tables[child], key.columns, row) for row in before[child]}
    gone = {
        at
        for at, row in enumerate(rows[parent])
        if to and (key_of := _values(tables[parent], to, row)) in were and key_of not in used
    }
    return without(rows, tables, parent, gone) if gone else rows


def _plainer(
    rows: MadeRows,
    tables: Mapping[str, TableSchema],
    still_tells: StillTells,
    usual: Mapping[ColumnName, Sequence[Value]],
) -> MadeRows:
    """Keys counted from 1, and values that the open data holds, where that tells as much."""
    for name in list(rows):
        table = tables[name]
        if len(table.primary_key) == 1:
            rows = _counted(rows, tables, name, table.primary_key[0], still_tells)
        linked = {*table.primary_key} | {one for key in table.foreign_keys for one in key.columns}
        for at in range(len(rows[name])):
            rows = _plain_row(rows, tables, name, at, linked, still_tells, usual)
    return rows


def _plain_row(
    rows: MadeRows,
    tables: Mapping[str, TableSchema],
    name: str,
    at: int,
    linked: set[str],
    still_tells: StillTells,
    usual: Mapping[ColumnName, Sequence[Value]],
) -> MadeRows:
    """One row with as many usual values as it bears: all at once, else one after the other."""
    plain: dict[str, Value] = {}
    for place, column in enumerate(tables[name].writable):
        held = usual.get((name.lower(), column.name.lower()), ())
        now = rows[name][at][place]
        if column.name in linked or not held or now in held:
            continue
        taken = {row[place] for row in rows[name]}
        plain[column.name] = next((one for one in held if one not in taken), held[0])
    if not plain:
        return rows
    together = _with(rows, tables, name, at, plain)
    if still_tells(together):
        return together
    if len(plain) > 1:
        for column_name, value in plain.items():
            single = _with(rows, tables, name, at, {column_name: value})
            if still_tells(single):
                rows = single
    return rows


def _counted(
    rows: MadeRows,
    tables: Mapping[str, TableSchema],
    name: str,
    key_name: str,
    still_tells: StillTells,
) -> MadeRows:
    """The rows with their whole-number keys from 1 upwards, also where others refer to them."""
    table = tables[name]
    place = [column.name for column in table.writable].index(key_name)
    now = [row[place] for row in rows[name]]
    if not all(isinstance(one, int) for one in now) or now == list(range(1, len(now) + 1)):
        return rows
    if any(key_name in key.columns for key in table.foreign_keys):
        return rows
    new = {old: number for number, old in enumerate(now, 1)}
    counted = dict(rows)
    counted[name] = tuple((*row[:place], new[row[place]], *row[place + 1 :]) for row in rows[name])
    for child in rows:
        for key in tables[child].foreign_keys:
            if key.table.lower() != name.lower() or key_name not in key.to:
                continue
            column = key.columns[key.to.index(key_name)]
            there = [one.name for one in tables[child].writable].index(column)
            counted[child] = tuple(
                (*row[:there], new.get(row[there], row[there]), *row[there + 1 :])
                for row in counted[child]
            )
    return counted if still_tells(counted) else rows
