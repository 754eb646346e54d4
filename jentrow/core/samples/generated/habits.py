"""What a sample's open data keeps without anybody having declared it.

Rows that break such a habit are possible, and no course would have them: what they alone show is
worth less.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Final

from jentrow.core.results import Row
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.values import Value

_FEWEST_ROWS: Final = 4
_CLOSED_LIST: Final = 6
_CLOSED_TIMES: Final = 2
"""A list counts as closed where each of its values comes this often on average."""


@dataclass(frozen=True, slots=True)
class Habits:
    """The habits of a table.

    ``unique`` are columns of texts that never repeat, ``closed`` columns that only ever hold the
    few values given. ``rising`` are pairs of columns of which the first never exceeds the second.
    ``no_case_variants`` are columns in which no two texts differ in letter case only, ``trimmed``
    those without blanks at an end. ``rows_differ`` tells that no row comes twice, keys aside.
    """

    unique: frozenset[str] = frozenset()
    closed: tuple[tuple[str, tuple[Value, ...]], ...] = ()
    rising: tuple[tuple[str, str], ...] = ()
    no_case_variants: frozenset[str] = frozenset()
    trimmed: frozenset[str] = frozenset()
    rows_differ: bool = False


def habits_of(table: TableSchema, rows: Sequence[Row]) -> Habits:
    """What some rows of a table keep; nothing where they are too few to tell."""
    if len(rows) < _FEWEST_ROWS:
        return Habits()
    columns = {column.name: [row[at] for row in rows] for at, column in enumerate(table.columns)}
    texts = {
        name: [value for value in values if isinstance(value, str)]
        for name, values in columns.items()
    }
    free = [name for name in columns if name not in table.primary_key]
    referring = {name for key in table.foreign_keys for name in key.columns}
    return Habits(
        frozenset(
            name
            for name, held in texts.items()
            if len(held) >= _FEWEST_ROWS and len(set(held)) == len(held)
        ),
        tuple(
            (name, tuple(dict.fromkeys(known)))
            for name in free
            if name not in referring and (known := _closed(columns[name]))
        ),
        tuple(_rising(free, columns)),
        frozenset(
            name
            for name, held in texts.items()
            if len({one.casefold() for one in held}) == len(set(held))
        ),
        frozenset(name for name, held in texts.items() if all(one == one.strip() for one in held)),
        len({tuple(repr(columns[name][at]) for name in free) for at in range(len(rows))})
        == len(rows),
    )


def _closed(values: Sequence[Value]) -> list[Value]:
    """The values of a column that seems to take no others; nothing where it takes any."""
    held = [value for value in values if value is not None]
    known = list(dict.fromkeys(held))
    if not all(isinstance(one, str | bool) or one in (0, 1) for one in known):
        return []
    few = 0 < len(known) <= _CLOSED_LIST and len(held) >= _CLOSED_TIMES * len(known)
    return known if few else []


def _rising(names: Sequence[str], columns: dict[str, list[Value]]) -> list[tuple[str, str]]:
    found: list[tuple[str, str]] = []
    for low in names:
        for high in names:
            if low == high:
                continue
            pairs = [
                (one, two)
                for one, two in zip(columns[low], columns[high], strict=True)
                if one is not None and two is not None
            ]
            alike = len(pairs) >= _FEWEST_ROWS and _are_dates(pairs)
            if alike and all(one <= two for one, two in pairs):
                found.append((low, high))
    return found


def _are_dates(pairs: Sequence[tuple[Value, Value]]) -> bool:
    return all(
        isinstance(one, str) and isinstance(two, str) and one[:4].isdigit() and two[:4].isdigit()
        for one, two in pairs
    )


class HabitCheck:
    """Tells whether rows keep the habits of a table: asked of each row that is made up."""

    def __init__(self, habits: Habits, table: TableSchema) -> None:
        writable = [column.name for column in table.writable]
        places = {name: at for at, name in enumerate(writable)}

        def places_of(names: Iterable[str]) -> list[int]:
            return [places[name] for name in names if name in places]

        self._closed = [(places[name], held) for name, held in habits.closed if name in places]
        self._rising = [
            (places[low], places[high])
            for low, high in habits.rising
            if low in places and high in places
        ]
        self._trimmed = places_of(habits.trimmed)
        self._unique = places_of(habits.unique)
        self._no_case_variants = places_of(habits.no_case_variants)
        self._rows_differ = habits.rows_differ
        self._bare = places_of(name for name in writable if name not in table.primary_key)

    def passes(self, row: Row, before: Sequence[Row]) -> bool:
        """Whether a further row keeps the habits beside the rows that there are already."""
        for at, known in self._closed:
            if row[at] is not None and row[at] not in known:
                return False
        for low, high in self._rising:
            one, two = row[low], row[high]
            if isinstance(one, str) and isinstance(two, str) and one > two:
                return False
        for at in self._trimmed:
            value = row[at]
            if isinstance(value, str) and value != value.strip():
                return False
        return self._differs(row, before)

    def _differs(self, row: Row, before: Sequence[Row]) -> bool:
        for at in self._unique:
            value = row[at]
            if isinstance(value, str) and value in [other[at] for other in before]:
                return False
        for at in self._no_case_variants:
            value = row[at]
            if isinstance(value, str) and _has_case_variant(value, [other[at] for other in before]):
                return False
        if not self._rows_differ:
            return True
        bare = [row[at] for at in self._bare]
        return bare not in [[other[at] for at in self._bare] for other in before]


def _has_case_variant(text: str, others: Sequence[Value]) -> bool:
    folded = text.casefold()
    return any(isinstance(one, str) and one.casefold() == folded and one != text for one in others)
