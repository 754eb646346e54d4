"""Changing rows in place: what the constraints refuse is said at the cell that it is about."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from typing import TypeAlias

import apsw

from jentrow.core.errors import UnusableInput
from jentrow.core.samples.dataset import Dataset, Version
from jentrow.core.samples.making.filling import CONSTRAINT_FAILED
from jentrow.core.samples.schema.coltypes import ColumnType, NotOfType, read_value
from jentrow.core.samples.schema.tables import ColumnSchema, ForeignKey, TableSchema
from jentrow.core.sql.text import quoted_name
from jentrow.core.values import Value, printed


@dataclass(frozen=True, slots=True)
class Insert:
    """A new row.

    ``values`` are texts as somebody types them, None for NULL; what is left out takes its default.
    """

    table: str
    values: Mapping[str, str | None]


@dataclass(frozen=True, slots=True)
class Update:
    """New values for some cells of a row."""

    table: str
    row: int
    values: Mapping[str, str | None]


@dataclass(frozen=True, slots=True)
class Delete:
    """Rows that go."""

    table: str
    rows: tuple[int, ...]


Edit: TypeAlias = Insert | Update | Delete


@dataclass(frozen=True, slots=True)
class Refusal:
    """Why an edit is refused: the edit (its place in the list), the column, and words for it."""

    edit: int
    table: str
    column: str
    message: str


class RefusedEdit(UnusableInput):
    """Raised when a constraint refuses an edit; nothing of the whole list was done."""

    def __init__(self, refusal: Refusal) -> None:
        self.refusal = refusal
        where = f"{refusal.table}.{refusal.column}" if refusal.column else refusal.table
        super().__init__(f"{where}: {refusal.message}")


@dataclass(frozen=True, slots=True)
class Edited:
    """What came of edits: the new version, and the numbers of the rows that were added."""

    version: Version | None
    added: tuple[int, ...]


def make_edits(dataset: Dataset, edits: Sequence[Edit]) -> Edited:
    """Does all edits as one new version, or none of them. Raises :class:`RefusedEdit`."""
    added: list[int] = []

    def work(db: apsw.Connection) -> str:
        for at, edit in enumerate(edits):
            added.extend(_Editing(db, dataset, at, edit).do())
        return summary_of(edits)

    version = dataset.change(work)
    return Edited(version, tuple(added))


def dry_run(dataset: Dataset, edits: Sequence[Edit]) -> RefusedEdit | None:
    """What would refuse these edits, without doing them."""
    refused: list[RefusedEdit] = []

    class _Enough(Exception):
        pass

    def work(db: apsw.Connection) -> str:
        try:
            for at, edit in enumerate(edits):
                _Editing(db, dataset, at, edit).do()
        except RefusedEdit as problem:
            refused.append(problem)
        raise _Enough

    with suppress(_Enough):
        dataset.change(work)
    return refused[0] if refused else None


def summary_of(edits: Sequence[Edit]) -> str:
    """What edits do, in a few words."""
    said = [_said(edit) for edit in edits[:2]]
    more = len(edits) - len(said)
    return "; ".join(said) + (f"; {more} more" if more else "")


def _said(edit: Edit) -> str:
    match edit:
        case Insert(table, _):
            return f"row added to {table}"
        case Update(table, row, values):
            cells = ", ".join(f"{name} = {_short(text)}" for name, text in values.items())
            return f"{table}, row {row}: {cells}"
        case Delete(table, rows):
            count = "row" if len(rows) == 1 else f"{len(rows)} rows"
            return f"{count} deleted from {table}"


def _short(text: str | None) -> str:
    if text is None:
        return "NULL"
    return repr(text if len(text) <= 24 else text[:23] + "…")


def read_cell(column: ColumnSchema, text: str | None) -> Value:
    """The value of a text that somebody typed into a column's cell. Raises :class:`NotOfType`."""
    if text is None:
        return None
    type = column.type_name
    if type is not None:
        return read_value(text, ColumnType(type))
    for guess in ("integer", "decimal", "binary"):
        try:
            return read_value(text, ColumnType(guess))
        except NotOfType:
            continue
    return text


class _Editing:
    """One edit, inside the transaction of them all."""

    def __init__(self, db: apsw.Connection, dataset: Dataset, at: int, edit: Edit) -> None:
        self._db, self._dataset, self._at, self._edit = db, dataset, at, edit
        self._table = dataset.table(edit.table)
        if self._table.kind == "view":
            raise UnusableInput(f"{self._table.name} is a view: its rows are those of its tables.")

    def do(self) -> Iterator[int]:
        """Does the edit; gives the numbers of new rows."""
        name, row = quoted_name(self._table.name), self._table.row_name
        match self._edit:
            case Insert(_, texts):
                values = self._values(texts)
                columns = ", ".join(map(quoted_name, values))
                marks = ", ".join("?" * len(values))
                into = f"({columns}) VALUES ({marks})" if values else "DEFAULT VALUES"
                self._run(f"INSERT INTO {name} {into}", list(values.values()), values)
                self._refuse_empty_key(self._db.last_insert_rowid())
                return iter([self._db.last_insert_rowid()])
            case Update(_, number, texts):
                values = self._values(texts)
                if not values:
                    return iter(())
                self._must_be(number)
                cells = ", ".join(f"{quoted_name(column)} = ?" for column in values)
                sql = f"UPDATE {name} SET {cells} WHERE {row} = ?"
                self._run(sql, [*values.values(), number], values, number)
                self._refuse_empty_key(number)
            case Delete(_, numbers):
                for number in numbers:
                    self._must_be(number)
                    self._run(f"DELETE FROM {name} WHERE {row} = ?", [number], {}, number)
        return iter(())

    def _must_be(self, number: int) -> None:
        name, row = quoted_name(self._table.name), self._table.row_name
        if not list(self._db.execute(f"SELECT 1 FROM {name} WHERE {row} = ?", (number,))):
            raise self._refused("", f"there is no row {number}; somebody deleted it before.")

    def _values(self, texts: Mapping[str, str | None]) -> dict[str, Value]:
        values: dict[str, Value] = {}
        for name, text in texts.items():
            try:
                column = self._table.column(name)
            except UnusableInput:
                raise self._refused(name, f"{self._table.name} has no such column.") from None
            if column.generated is not None:
                raise self._refused(name, f"computed as {column.generated}; it takes no value.")
            try:
                values[column.name] = read_cell(column, text)
            except NotOfType as problem:
                raise self._refused(column.name, f"{problem}.") from problem
        return values

    def _run(
        self,
        sql: str,
        bound: Sequence[Value],
        values: Mapping[str, Value],
        number: int | None = None,
    ) -> None:
        try:
            self._db.execute(sql, bound)
        except apsw.ConstraintError as problem:
            raise self._explained(str(problem), values, number) from problem
        except apsw.MismatchError as problem:
            key = self._table.primary_key[0] if self._table.primary_key else ""
            raise self._refused(key, "the key takes a whole number.") from problem
        except apsw.TooBigError as problem:
            raise self._refused("", "the value is too large.") from problem

    def _refused(self, column: str, message: str) -> RefusedEdit:
        return RefusedEdit(Refusal(self._at, self._table.name, column, message))

    def _refuse_empty_key(self, number: int) -> None:
        """A key that is NULL names no row, though SQLite lets it pass."""
        name, row = quoted_name(self._table.name), self._table.row_name
        for key in self._table.primary_key:
            if list(
                self._db.execute(
                    f"SELECT 1 FROM {name} WHERE {row} = ? AND {quoted_name(key)} IS NULL",
                    (number,),
                )
            ):
                raise self._refused(key, "part of the primary key, which cannot be NULL.")

    # what the engine says, in words, at the cell

    def _explained(self, said: str, values: Mapping[str, Value], number: int | None) -> RefusedEdit:
        found = CONSTRAINT_FAILED.search(said)
        if found:
            kind, where = found.groups()
            if kind == "NOT NULL":
                column = where.rpartition(".")[2]
                return self._refused(column, "a value is wanted: the column is NOT NULL.")
            if kind == "CHECK":
                return self._refused(self._column_in(where), f"breaks the check {where}.")
            columns = [part.rpartition(".")[2] for part in where.split(", ")]
            return self._refused(columns[0], self._taken(columns, values, number))
        if "FOREIGN KEY" in said:
            return self._broken_key(values, number)
        return self._refused("", f"{said}.")

    def _column_in(self, check: str) -> str:
        """The first column that a check's text names."""
        words = re.findall(r"\w+", check.lower())
        return next((one.name for one in self._table.columns if one.name.lower() in words), "")

    def _taken(
        self, columns: Sequence[str], values: Mapping[str, Value], number: int | None
    ) -> str:
        given = [values.get(column) for column in columns]
        said = ", ".join(f"{column} {printed(value)}" for column, value in
                         zip(columns, given, strict=True) if value is not None)  # fmt: skip
        other = ""
        if all(column in values for column in columns):
            name, row = quoted_name(self._table.name), self._table.row_name
            same = " AND ".join(f"{quoted_name(column)} IS ?" for column in columns)
            rows = list(
                self._db.execute(
                    f"SELECT {row} FROM {name} WHERE {same} AND {row} IS NOT ? LIMIT 1",
                    [*given, number],
                )
            )
            other = f" in row {rows[0][0]}" if rows else ""
        what = said or "the same " + ", ".join(columns)
        return f"there is {what} already{other}: no two rows may have the same."

    def _broken_key(self, values: Mapping[str, Value], number: int | None) -> RefusedEdit:
        for key in self._table.foreign_keys:
            given = [self._cell(values, number, column) for column in key.columns]
            changed = any(column in values for column in key.columns)
            if changed and None not in given and not self._parent_is_there(key, given):
                shown = ", ".join(map(printed, given))
                return self._refused(
                    key.columns[0],
                    f"there is no row in {key.table} with {', '.join(key.to)} {shown}.",
                )
        for table in self._dataset.tables:
            for key in table.foreign_keys:
                if key.table.lower() != self._table.name.lower() or number is None:
                    continue
                count = self._children(table, key, number)
                if count:
                    rows = "1 row" if count == 1 else f"{count} rows"
                    return self._refused(
                        key.to[0], f"{rows} of {table.name} refer to this row; change them first."
                    )
        return self._refused("", "breaks a foreign key.")

    def _cell(self, values: Mapping[str, Value], number: int | None, column: str) -> Value:
        if column in values or number is None:
            return values.get(column)
        name, row = quoted_name(self._table.name), self._table.row_name
        sql = f"SELECT {quoted_name(column)} FROM {name} WHERE {row} = ?"
        return next(self._db.execute(sql, (number,)))[0]

    def _parent_is_there(self, key: ForeignKey, given: Sequence[Value]) -> bool:
        same = " AND ".join(f"{quoted_name(column)} = ?" for column in key.to)
        sql = f"SELECT 1 FROM {quoted_name(key.table)} WHERE {same} LIMIT 1"
        return bool(list(self._db.execute(sql, list(given))))

    def _children(self, table: TableSchema, key: ForeignKey, number: int) -> int:
        pairs = zip(key.columns, key.to, strict=True)
        same = " AND ".join(f"c.{quoted_name(one)} = p.{quoted_name(to)}" for one, to in pairs)
        sql = (
            f"SELECT count(*) FROM {quoted_name(table.name)} c "
            f"JOIN {quoted_name(self._table.name)} p ON {same} WHERE p.{self._table.row_name} = ?"
        )
        return int(next(self._db.execute(sql, (number,)))[0])
