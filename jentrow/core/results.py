"""Result sets, and what a reference answer's result leaves open."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from functools import cached_property
from operator import ne
from typing import Final, NamedTuple, TypeAlias

from jentrow.core.values import Value

Row: TypeAlias = tuple[Value, ...]


@dataclass(frozen=True, slots=True)
class Column:
    """One output column.

    ``named`` is false where the engine made the name up (an expression without an alias): such a
    name is shown but never compared. ``declared`` is the type that the engine gives it, where it
    is to be shown: of SQLite, what the table's column was declared as.
    """

    name: str
    named: bool = True
    declared: str = field(default="", compare=False)


@dataclass(frozen=True, slots=True)
class ResultSet:
    """The rows of one query, in the order in which the engine gave them."""

    columns: tuple[Column, ...]
    rows: Sequence[Row]

    @property
    def names(self) -> tuple[str, ...]:
        """The column names, left to right."""
        return tuple(column.name for column in self.columns)

    def columns_of_values(self) -> list[tuple[Value, ...]]:
        """The values column by column, also when there are no rows."""
        return list(zip(*self.rows, strict=True)) if self.rows else [()] * len(self.columns)


def text_size(rows: Sequence[Row]) -> int:
    """How many characters of text, and bytes, rows hold."""
    return sum(map(sum, text_lengths(rows)))


def text_lengths(rows: Sequence[Row]) -> Iterator[Iterable[int]]:
    """Of each column with texts or bytes, how long they are."""
    # Every cell of every answer passes here: by columns, most of it is done without Python's loop.
    for values in zip(*rows, strict=True):
        types = set(map(type, values))
        if types <= _TEXT:
            yield map(len, values)
        elif types & _TEXT:
            yield [len(value) for value in values if value.__class__ in _TEXT]


_TEXT: Final = {str, bytes}


class HeldTypes(NamedTuple):
    """The types in each column, and whether there is a NaN anywhere. No columns without rows."""

    by_column: list[set[type]]
    nan: bool


def held_types(rows: Sequence[Row]) -> HeldTypes:
    """What the columns of rows hold."""
    types: list[set[type]] = []
    holds_nan = False
    for values in zip(*rows, strict=True):
        types.append(set(map(type, values)))
        if types[-1] & {float, Decimal}:
            holds_nan = holds_nan or any(map(ne, values, values))
    return HeldTypes(types, holds_nan)


@dataclass(frozen=True, slots=True)
class Choice:
    """Rows that a LIMIT passed over although they tie with rows that it kept.

    ``rank`` is the tie group that they belong to, as in :attr:`Expectation.ranks`.
    """

    rank: int
    row: Row


@dataclass(frozen=True)
class Expectation:
    """A reference answer's result with the freedom that the reference leaves.

    ``ranks`` has one number a row, never falling: rows with the same number tie on the reference's
    own sort keys, as the engine sees them, and may come in any order. ``None`` where the reference
    does not order its outermost query. ``choices`` are the rows that would have done as well as
    those that the LIMIT happened to keep. ``ties_known`` is false where nobody can say which rows
    tie (an order by random numbers, a sort key that rows made one by DISTINCT do not share): then
    the reference's very sequence is surely right, and of other sequences of the same rows nothing
    is known. ``pool_known`` is false where, besides, the rows that the LIMIT passed over could not
    be fetched.
    """

    result: ResultSet
    ordered: bool = False
    ranks: tuple[int, ...] | None = None
    choices: tuple[Choice, ...] = ()
    ties_known: bool = True
    pool_known: bool = True

    # One reference answer is compared with thousands: what is the same each time is worked out once.

    @cached_property
    def columns_of_values(self) -> list[tuple[Value, ...]]:
        """The values that are due, column by column."""
        return self.result.columns_of_values()

    @cached_property
    def held_types(self) -> HeldTypes:
        """What the due columns hold."""
        return held_types(self.result.rows)

    @property
    def cuts_a_tie(self) -> bool:
        """Whether a LIMIT chose among rows that tie, so that several results are right."""
        return bool(self.choices)
