"""Fills tables from CSV files, and names every row that cannot be taken."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

import apsw

from jentrow.core.samples.csvfiles import Block, read_header, read_rows, wrong_width
from jentrow.core.samples.recipes import CSVSource, Problem
from jentrow.core.samples.schema.coltypes import bytes_or_text, read_column, type_of_declaration
from jentrow.core.sql.text import quoted_name


def insert_into(table: str, columns: Sequence[str]) -> str:
    """An INSERT of one row into these columns of a table, a mark for each value."""
    names, marks = ", ".join(map(quoted_name, columns)), ", ".join("?" * len(columns))
    return f"INSERT INTO {quoted_name(table)} ({names}) VALUES ({marks})"


@dataclass
class CSVTable:
    """Fills a table from a CSV file; every row that cannot be taken is noted."""

    db: apsw.Connection
    source: CSVSource
    note: Callable[[Problem], None]
    binary: frozenset[str] | None = None

    def fill(self, report: Callable[[int], None]) -> None:
        path = Path(self.source.path)
        header = read_header(path, self.source.format)
        columns = self.source.columns
        missing = [one.source for one in columns if one.source not in header]
        if missing:
            message = f"the file has no column {missing[0]!r}; it has {', '.join(header)}."
            self.note(Problem(path.name, 1, missing[0], message))
            return
        places = [header.index(one.source) for one in columns]
        insert = insert_into(self.source.table, [one.name for one in columns])
        for block in read_rows(path, self.source.format):
            if wrong := block.of_another_width(len(header)):
                records = block.records
                for at in wrong:
                    message = wrong_width(records[at], header) + "."
                    self.note(Problem(path.name, block.lines[at], "", message))
                block = block.without(wrong)
            if len(block):
                self._insert(insert, block, len(header), places)
            report(block.size)

    def _insert(self, insert: str, block: Block, width: int, places: list[int]) -> None:
        path = Path(self.source.path)
        texts = block.columns(width)
        values: list[Sequence[Any]] = []
        bad: set[int] = set()
        for column, place in zip(self.source.columns, places, strict=True):
            if column.type is None:
                binary = column.name.lower() in self._binary()
                values.append(list(map(bytes_or_text, texts[place])) if binary else texts[place])
                continue
            read, problems = read_column(texts[place], column.type)
            values.append(read)
            for at, message in problems:
                bad.add(at)
                self.note(Problem(path.name, block.lines[at], column.source, f"{message}."))
        rows = list(zip(*values, strict=True))
        lines = block.lines
        if bad:
            rows = [row for at, row in enumerate(rows) if at not in bad]
            lines = [line for at, line in enumerate(lines) if at not in bad]
        insert_checked(
            self.db,
            insert,
            rows,
            lambda at, column, words: self.note(Problem(path.name, lines[at], column, words)),
        )

    def _binary(self) -> frozenset[str]:
        """The table's columns that are declared BLOB."""
        if self.binary is None:
            found = self.db.execute(
                "SELECT name, type FROM pragma_table_info(?)", (self.source.table,)
            )
            self.binary = frozenset(
                name.lower() for name, type in found if type_of_declaration(type) == "binary"
            )
        return self.binary


def insert_checked(
    db: apsw.Connection,
    insert: str,
    rows: Sequence[tuple[Any, ...]],
    refused: Callable[[int, str, str], None],
) -> None:
    """Inserts rows at once; where that fails one by one, so that every bad row is named.

    ``refused`` is told the row's place, the column if one is meant, and words for it.
    """
    db.execute("SAVEPOINT portion")
    try:
        db.executemany(insert, rows)
    except apsw.Error:
        db.execute("ROLLBACK TO portion")
        for at, row in enumerate(rows):
            try:
                db.execute(insert, row)
            except apsw.Error as problem:
                said = str(problem)
                refused(at, constraint_column(said), constraint_words(said))
    db.execute("RELEASE portion")


CONSTRAINT_FAILED: Final = re.compile(
    r"(NOT NULL|UNIQUE|CHECK|PRIMARY KEY) constraint failed: (.*)"
)


def constraint_words(said: str) -> str:
    """What SQLite says of a broken constraint, in words."""
    found = CONSTRAINT_FAILED.search(said)
    if not found:
        return f"{said}."
    what, where = found.groups()
    match what:
        case "NOT NULL":
            return "NULL, where the table wants a value."
        case "CHECK":
            return f"breaks the check {where}."
        case _:
            names = ", ".join(name.rpartition(".")[2] for name in where.split(", "))
            return f"a second row with the same {names}."


def constraint_column(said: str) -> str:
    """The columns that a broken constraint is about; empty where SQLite names none."""
    found = CONSTRAINT_FAILED.search(said)
    if not found or found[1] == "CHECK":
        return ""
    return ", ".join(name.rpartition(".")[2] for name in found[2].split(", "))
