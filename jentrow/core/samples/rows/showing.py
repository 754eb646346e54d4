"""What a dataset's rows can show, and what they cannot: each kind of row that a lesson needs.

A rule such as "below 50 or above 50" leaves out exactly 50, and nobody notices unless a row sits
there; DISTINCT differs only where rows repeat, a count only where a NULL is.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Final, Literal, TypeAlias

import apsw

from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.rows.profile import ColumnProfile, TableProfile, profile_table
from jentrow.core.samples.schema.coltypes import ColumnType, NotOfType, read_value
from jentrow.core.samples.schema.enumerations import listed_by
from jentrow.core.samples.schema.tables import ColumnSchema, ForeignKey, TableSchema
from jentrow.core.sql.boundaries import Boundary, boundaries_in
from jentrow.core.sql.text import quoted_name
from jentrow.core.values import Value, printed

ShowingKind: TypeAlias = Literal[
    "null", "empty", "blank", "case", "tie", "duplicate", "boundary", "extreme",
    "child_alone", "parent_alone", "parent_with_one", "group_of_one",
]  # fmt: skip

_ORDERED: Final = ("integer", "decimal", "float", "date", "time", "timestamp")
_NUMBERS: Final = ("integer", "decimal", "float")
_GROUPS: Final = 40
"""A column with more different values than this is not one to group by."""


@dataclass(frozen=True, slots=True)
class Showing:
    """One kind of row: whether the rows have it, how often, in words.

    ``where`` is the condition that finds such rows in ``table``, empty where there is none so
    simple. ``value`` is the boundary's value; ``other`` the table at the key's other end.
    """

    kind: ShowingKind
    table: str
    columns: tuple[str, ...]
    count: int
    words: str
    where: str = ""
    value: str = ""
    other: str = ""

    @property
    def present(self) -> bool:
        """Whether the rows have it."""
        return self.count > 0

    @property
    def id(self) -> str:
        """A name for it that stays the same as rows change."""
        return ":".join([self.kind, self.table, *self.columns, self.value or self.other])


@dataclass(frozen=True, slots=True)
class Wanted:
    """A boundary that a query draws, and where it is drawn (an exercise, a check)."""

    boundary: Boundary
    by: str


def what_rows_show(
    dataset: Dataset,
    wanted: Sequence[Wanted] = (),
    profile_of: Callable[[str], TableProfile] | None = None,
) -> list[Showing]:
    """Every kind of row for every table and column. Raises :class:`UnusableInput`.

    ``profile_of`` gives a table's profile where one is at hand already.
    """
    tables = [table for table in dataset.tables if table.kind == "table"]
    look = profile_of or (lambda name: profile_table(dataset, name))
    profiles = {table.name: look(table.name) for table in tables}
    found: list[Showing] = []
    with dataset.reading() as db:
        for table in tables:
            profile = profiles[table.name]
            for column, facts in zip(table.columns, profile.columns, strict=True):
                if column.generated is None:
                    found += _of_column(db, table, column, facts, profile)
            found += _duplicates(db, table)
            for key in table.foreign_keys:
                found += _of_key(db, table, key, dataset.table(key.table))
        for one in [*wanted, *_drawn_by_checks(tables)]:
            found += _boundary(db, dataset, one)
    return list({one.id: one for one in found}.values())


def _is_key(table: TableSchema, column: ColumnSchema) -> bool:
    return any(names == (column.name,) for names in table.keys)


def _is_reference(table: TableSchema, column: ColumnSchema) -> bool:
    return any(column.name in key.columns for key in table.foreign_keys)


def _of_column(
    db: apsw.Connection,
    table: TableSchema,
    column: ColumnSchema,
    facts: ColumnProfile,
    profile: TableProfile,
) -> Iterator[Showing]:
    at = (table.name, (column.name,))
    name = quoted_name(column.name)
    in_key, reference = _is_key(table, column), _is_reference(table, column)
    in_primary = column.name in table.primary_key
    if not column.not_null and not in_primary and not reference:
        yield Showing("null", *at, facts.nulls, f"a NULL in {column.name}", f"{name} IS NULL")
    if column.type_name in (None, "text") and not reference:
        yield from _of_text(table, column, facts)
    if in_key or reference or in_primary:
        return
    repeated = profile.rows - facts.nulls - facts.different
    if column.type_name in _ORDERED:
        yield Showing(
            "tie", *at, repeated, f"ties in {column.name}",
            f"{name} IN (SELECT {name} FROM {quoted_name(table.name)} GROUP BY {name} "
            "HAVING count(*) > 1)",
        )  # fmt: skip
    elif 0 < facts.different <= _GROUPS and repeated:
        single = f"SELECT {name} FROM {quoted_name(table.name)} GROUP BY {name} HAVING count(*) = 1"
        count = next(db.execute(f"SELECT count(*) FROM ({single})"))[0]
        words = f"{column.name} that only one row has"
        yield Showing("group_of_one", *at, count, words, f"{name} IN ({single})")
    if column.type_name in _NUMBERS:
        yield from _extreme(db, table, column)


def _of_text(table: TableSchema, column: ColumnSchema, facts: ColumnProfile) -> Iterator[Showing]:
    """What texts can show, unless they are listed and no listed one does."""
    at, name = (table.name, (column.name,)), quoted_name(column.name)
    listed = listed_by(column.name, table.checks)
    if not listed or "" in listed:
        yield Showing("empty", *at, facts.empty, f"empty text in {column.name}", f"{name} = ''")
    if not listed or any(one != one.strip(" ") for one in listed):
        yield Showing(
            "blank", *at, facts.blanks, f"a blank at an end of {column.name}",
            f"typeof({name}) = 'text' AND {name} <> trim({name})",
        )  # fmt: skip
    if not listed or len({one.lower() for one in listed}) < len(listed):
        yield Showing(
            "case", *at, facts.case_variants, f"{column.name} in other letter case",
            f"lower({name}) IN (SELECT lower({name}) FROM {quoted_name(table.name)} "
            f"GROUP BY lower({name}) HAVING count(DISTINCT {name} COLLATE BINARY) > 1)",
        )  # fmt: skip


_FAR: Final = 3.0
"""How many standard deviations from the mean a value is far from the others."""


def _extreme(db: apsw.Connection, table: TableSchema, column: ColumnSchema) -> Iterator[Showing]:
    name, source = quoted_name(column.name), quoted_name(table.name)
    mean, square = next(db.execute(f"SELECT avg({name}), avg(1.0 * {name} * {name}) FROM {source}"))
    if mean is None:
        return
    deviation = max(square - mean * mean, 0.0) ** 0.5
    far = f"abs({name} - {mean!r}) > {_FAR * deviation!r}"
    count = next(db.execute(f"SELECT count(*) FROM {source} WHERE {far}"))[0] if deviation else 0
    words = f"{column.name} far from the others"
    yield Showing("extreme", table.name, (column.name,), count, words, far)


def _duplicates(db: apsw.Connection, table: TableSchema) -> Iterator[Showing]:
    """Rows that repeat another, but for a number that only counts them."""
    if table.uniques or len(table.primary_key) > 1:
        return
    said = [one for one in table.columns if one.name not in table.primary_key]
    if table.primary_key and table.column(table.primary_key[0]).type_name != "integer":
        return
    if not said:
        return
    names = ", ".join(quoted_name(one.name) for one in said)
    source = quoted_name(table.name)
    groups = f"SELECT count(*) AS n FROM {source} GROUP BY {names} HAVING count(*) > 1"
    count = next(db.execute(f"SELECT coalesce(sum(n), 0) FROM ({groups})"))[0]
    but = f" (but for {table.primary_key[0]})" if table.primary_key else ""
    # As literals, because NULL is not in any list, and rows with a NULL repeat as well.
    whole = " || ',' || ".join(f"quote({quoted_name(one.name)})" for one in said)
    where = f"{whole} IN (SELECT {whole} FROM {source} GROUP BY 1 HAVING count(*) > 1)"
    columns = tuple(one.name for one in said)
    yield Showing("duplicate", table.name, columns, count, f"the same row twice{but}", where)


def _of_key(
    db: apsw.Connection, table: TableSchema, key: ForeignKey, parent: TableSchema
) -> Iterator[Showing]:
    child, up = quoted_name(table.name), quoted_name(parent.name)
    by = ", ".join(key.columns)
    if not any(table.column(name).not_null or name in table.primary_key for name in key.columns):
        empty = " OR ".join(f"{quoted_name(name)} IS NULL" for name in key.columns)
        count = next(db.execute(f"SELECT count(*) FROM {child} WHERE {empty}"))[0]
        words = f"a row without {parent.name} ({by} is NULL)"
        yield Showing("child_alone", table.name, key.columns, count, words, empty, "", parent.name)
    pairs = zip(key.columns, key.to, strict=True)
    same = " AND ".join(f"c.{quoted_name(one)} = {up}.{quoted_name(to)}" for one, to in pairs)
    inside = f"SELECT count(*) FROM {child} c WHERE {same}"
    for kind, number, words in (
        ("parent_alone", 0, f"a row of {parent.name} with no {table.name}"),
        ("parent_with_one", 1, f"a row of {parent.name} with one of {table.name}"),
    ):
        where = f"({inside}) = {number}"
        if len(key.columns) == 1:
            # Grouping once is much quicker than counting for each row of a large table.
            column, to = quoted_name(key.columns[0]), quoted_name(key.to[0])
            counts = f"SELECT {column} FROM {child} WHERE {column} IS NOT NULL"
            where = (
                f"{to} NOT IN ({counts})"
                if number == 0
                else f"{to} IN ({counts} GROUP BY {column} HAVING count(*) = 1)"
            )
        count = next(db.execute(f"SELECT count(*) FROM {up} WHERE {where}"))[0]
        by_column = "" if _only_key(table, parent) else f" (by {by})"
        yield Showing(
            kind, parent.name, key.columns, count, words + by_column, where, "", table.name  # type: ignore[arg-type]
        )  # fmt: skip


def _only_key(table: TableSchema, parent: TableSchema) -> bool:
    return sum(key.table.lower() == parent.name.lower() for key in table.foreign_keys) == 1


def _drawn_by_checks(tables: Sequence[TableSchema]) -> Iterator[Wanted]:
    """The smallest and largest values that checks let pass."""
    for table in tables:
        columns = [(table.name, [column.name for column in table.columns])]
        for check in table.checks:
            query = f"SELECT 1 FROM {quoted_name(table.name)} WHERE {check}"
            for one in boundaries_in(query, columns, "sqlite"):
                yield Wanted(one, f"check {check}")


def _boundary(db: apsw.Connection, dataset: Dataset, wanted: Wanted) -> Iterator[Showing]:
    boundary = wanted.boundary
    table = dataset.table(boundary.table)
    column = table.column(boundary.column)
    by_check = wanted.by.startswith("check ")
    if column.type_name not in _ORDERED or (by_check and column.type_name != "integer"):
        return
    try:
        value: Value = read_value(boundary.value, ColumnType(column.type_name))
    except NotOfType:
        return
    if by_check and boundary.strict:
        if not isinstance(value, int):
            return
        lower = f"> {value}" in wanted.by
        value = value + 1 if lower else value - 1
    name = quoted_name(column.name)
    where = f"{name} = {apsw.format_sql_value(value)}"
    count = next(db.execute(f"SELECT count(*) FROM {quoted_name(table.name)} WHERE {where}"))[0]
    yield Showing(
        "boundary", table.name, (column.name,), count,
        f"{column.name} exactly {printed(value)} ({wanted.by})", where, printed(value),
    )  # fmt: skip
