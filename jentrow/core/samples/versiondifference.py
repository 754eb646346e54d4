"""What happened to the rows between two versions of a dataset, table by table, woven."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Final

import apsw

from jentrow.core.comparison.woven import WovenColumn, WovenLine, WovenView
from jentrow.core.errors import UnusableInput
from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.shownrows import shown_cell
from jentrow.core.sql.text import quoted_name
from jentrow.core.values import Value, kind_of_column

SHOWN_ROWS: Final = 500


@dataclass(frozen=True)
class TableDifference:
    """What happened to a table's rows between two versions, woven: the older is what was due."""

    table: str
    added: int
    changed: int
    removed: int
    woven: WovenView


def version_differences(dataset: Dataset, older: int, newer: int) -> list[TableDifference]:
    """What was added, changed and removed between two versions, the older one first.

    Raises :class:`UnusableInput` for a version that there is not.
    """
    for number in (older, newer):
        if not 1 <= number <= dataset.version:
            raise UnusableInput(f"there is no version {number}.")
    changes: dict[str, list[Any]] = {}
    for one in apsw.Changeset.iter(dataset.net_changeset(older, newer)):
        changes.setdefault(one.name, []).append((one.op, one.old, one.new, sorted(one.pk_columns)))
    with dataset.at_version(newer) as db:
        return [
            _table_difference(db, table, changes[table.name])
            for table in dataset.tables
            if table.name in changes
        ]


def typed(value: Value, table: TableSchema, at: int) -> Value:
    """A value as its column means it: in one declared BOOLEAN, 1 and 0 are true and false."""
    if table.columns[at].type_name == "boolean" and value in (0, 1) and isinstance(value, int):
        return bool(value)
    return value


def _table_difference(
    db: apsw.Connection, table: TableSchema, changes: list[Any]
) -> TableDifference:
    lines: list[WovenLine] = []
    kinds = {"INSERT": 0, "UPDATE": 0, "DELETE": 0}
    for op, old, new, key in changes:
        kinds[op] += 1
        if len(lines) < SHOWN_ROWS:
            lines.append(_line(db, table, op, old, new, key))
    order = {"absent": 0, "differs": 1, "extra": 2}
    lines.sort(key=lambda line: order[line.kind])
    stored = [column for column in table.columns if column.generated is None]
    columns = [
        WovenColumn(column.name, column.name, _kind(lines, at)) for at, column in enumerate(stored)
    ]
    counts = {"absent": kinds["DELETE"], "differs": kinds["UPDATE"], "extra": kinds["INSERT"]}
    woven = WovenView(
        columns,
        lines,
        {kind: count for kind, count in counts.items() if count},
        0,
        0,
        False,
        len(changes) - len(lines),
        False,
    )
    return TableDifference(table.name, kinds["INSERT"], kinds["UPDATE"], kinds["DELETE"], woven)


def _kind(lines: list[WovenLine], at: int) -> str:
    values = [line.due[at] for line in lines if line.due] + [
        line.given[at] for line in lines if line.given
    ]
    plain = [value for value in values if not isinstance(value, dict)]
    return kind_of_column(plain) if plain else "text"


def _line(
    db: apsw.Connection, table: TableSchema, op: str, old: Any, new: Any, key: list[int]
) -> WovenLine:
    """A change as a row of the woven table; a changed row is completed from the newer rows."""
    skip = 0 if table.primary_key else 1  # without a key the row's number comes first

    def cells(values: Any) -> list[Any]:
        stored = [at for at, column in enumerate(table.columns) if column.generated is None]
        return [
            shown_cell(typed(value, table, at))
            for at, value in zip(stored, values[skip:], strict=False)
        ]

    if op == "INSERT":
        return WovenLine("extra", None, cells(new), [], None, None, None, None, None)
    if op == "DELETE":
        return WovenLine("absent", cells(old), None, [], None, None, None, None, None)
    number = table.row_name if skip else ""
    names = [number] if skip else []
    names += [column.name for column in table.columns if column.generated is None]
    same = " AND ".join(f"{_named(names[at], number)} IS ?" for at in key)
    shown = ", ".join(_named(name, number) for name in names)
    found = list(
        db.execute(
            f"SELECT {shown} FROM {quoted_name(table.name)} WHERE {same}", [old[at] for at in key]
        )
    )
    after = list(found[0]) if found else [None] * len(names)
    before = [after[at] if value is apsw.no_change else value for at, value in enumerate(old)]
    changed = [at - skip for at, value in enumerate(new) if value is not apsw.no_change]
    return WovenLine("differs", cells(before), cells(after), changed, None, None, None, None, None)


def _named(name: str, number: str) -> str:
    return name if name == number and number else quoted_name(name)
