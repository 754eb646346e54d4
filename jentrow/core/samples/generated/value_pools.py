"""Which values a column of made-up rows may take: those that queries mention, and its own."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field, replace
from datetime import date, datetime, timedelta
from operator import ge, gt, le, lt, ne
from typing import Final

from jentrow.core.samples.schema.coltypes import ColumnType, NotOfType, TypeName, read_value
from jentrow.core.samples.schema.tables import ColumnSchema, TableSchema
from jentrow.core.sql.mentions import ColumnName, Mentions, SimpleCondition
from jentrow.core.values import Value

_NUMBERS: Final = frozenset({"integer", "decimal", "float"})
_TIMES: Final = frozenset({"date", "timestamp"})
_OF_ONE_FORM: Final = frozenset({"time", "instant", "interval", "identifier", "json", "list"})
_MOST: Final = 40
_OPERATORS: Final = {"<": lt, "<=": le, ">": gt, ">=": ge}

_WHEN_NOTHING_IS_KNOWN: Final[dict[TypeName | None, tuple[Value, ...]]] = {
    "integer": (1, 2, 3, 10),
    "decimal": (1, 1.5, 2, 10),
    "float": (1.0, 1.5, 2.0, 10.0),
    "text": ("a", "b", "c", "d"),
    "boolean": (0, 1),
    "date": ("2026-01-01", "2026-01-02", "2026-02-01", "2025-12-31"),
    "timestamp": ("2026-01-01 08:00:00", "2026-01-01 09:00:00", "2026-01-02 08:00:00"),
    "time": ("08:00:00", "09:30:00", "18:00:00"),
    "instant": ("2026-01-01 08:00:00+00:00", "2026-01-01 09:00:00+00:00"),
    "interval": ("1 hour", "90 minutes", "1 day"),
    "identifier": tuple(f"00000000-0000-4000-8000-{number:012}" for number in range(1, 13)),
    "json": ("{}", '{"a": 1}'),
    "list": ("[]",),
    None: (1, 2, "a", "b"),
}


@dataclass(frozen=True, slots=True)
class Pool:
    """The values of a column: those that matter to the queries, and those that look like its own.

    ``satisfying`` are the values of both that meet the queries' simple conditions on it.
    """

    special: tuple[Value, ...]
    usual: tuple[Value, ...]
    satisfying: tuple[Value, ...]

    @property
    def all(self) -> tuple[Value, ...]:
        """Every value, the usual ones first."""
        return tuple(dict.fromkeys((*self.usual, *self.special)))


@dataclass(frozen=True, slots=True)
class Pools:
    """The pools of all columns, by table and column in small letters."""

    by_column: Mapping[ColumnName, Pool]
    thresholds: tuple[int, ...] = field(default=())

    def of(self, table: TableSchema, column: ColumnSchema) -> Pool:
        """The pool of a column."""
        return self.by_column[table.name.lower(), column.name.lower()]


def pools_for(
    tables: Sequence[TableSchema],
    mentions: Mentions,
    held: Mapping[ColumnName, Sequence[Value]],
) -> Pools:
    """The pools for rows that may tell queries apart; ``held`` is what the open data holds."""
    named = {
        (table.name.lower(), column.name.lower()): column.type_name
        for table in tables
        for column in table.columns
    }
    mentions = _behind_views(mentions, named)
    beside = _shared(mentions, named)
    found: dict[ColumnName, Pool] = {}
    for name, type in named.items():
        special = list(_fitting(type, beside.get(name, ())))
        special += [value for value in _fitting(type, mentions.loose) if value not in special]
        usual = list(held.get(name, ())) or list(_WHEN_NOTHING_IS_KNOWN.get(type, ("a", "b")))
        conditions = [one for one in mentions.conditions if one.column == name]
        special += [
            text
            for one in conditions
            if one.operator == "like"
            for text in matching(str(one.value))
        ]
        everything = list(dict.fromkeys((*special, *usual)))
        meeting = [value for value in everything if conditions and _meets(value, conditions)]
        found[name] = Pool(tuple(dict.fromkeys(special[:_MOST])), tuple(usual), tuple(meeting))
    return Pools(found, tuple(sorted(set(mentions.thresholds))))


def _behind_views(mentions: Mentions, named: Collection[ColumnName]) -> Mentions:
    """What is said of a view's columns, said of the tables' columns that are called so.

    Of a column that no table has, the values alone count.
    """
    if all(name in named for name in mentions.beside):
        return mentions

    def behind(name: ColumnName) -> list[ColumnName]:
        return [name] if name in named else [one for one in named if one[1] == name[1]]

    beside: dict[ColumnName, list[Value]] = {}
    loose = list(mentions.loose)
    for name, values in mentions.beside.items():
        columns = behind(name)
        for column in columns:
            beside.setdefault(column, []).extend(values)
        if not columns:
            loose += values
    return replace(
        mentions,
        beside=beside,
        loose=loose,
        conditions=[
            replace(one, column=column)
            for one in mentions.conditions
            for column in behind(one.column)
        ],
        alike=[
            (one, other)
            for left, right in mentions.alike
            for one in behind(left)
            for other in behind(right)
        ],
    )


def _shared(
    mentions: Mentions, named: Mapping[ColumnName, TypeName | None]
) -> dict[ColumnName, list[Value]]:
    """What is mentioned beside each column, or beside one that it is compared with."""
    beside = {name: list(values) for name, values in mentions.beside.items()}
    for left, right in mentions.alike:
        if left in named and right in named:
            both = [*beside.get(left, ()), *beside.get(right, ())]
            beside[left] = beside[right] = list(dict.fromkeys(both))
    return beside


def _fitting(type: TypeName | None, values: Iterable[Value]) -> Iterator[Value]:
    """The values that a column of a type takes, each with its neighbours."""
    for value in values:
        if type in _NUMBERS:
            if isinstance(value, int | float) and not isinstance(value, bool):
                yield from _numbers(value, whole=type == "integer")
        elif type == "boolean":
            if value in (0, 1):
                yield value
        elif type in _TIMES:
            if isinstance(value, str):
                yield from _times(value, type == "timestamp")
        elif type in _OF_ONE_FORM:
            with suppress(NotOfType):
                yield read_value(str(value), ColumnType(type))
        elif isinstance(value, str):
            yield value
            yield from (one for one in (value.lower(), value.upper(), value + " ") if one != value)


def _numbers(value: int | float, *, whole: bool) -> Iterator[Value]:
    if whole:
        yield from (int(value), int(value) + 1, int(value) - 1)
    else:
        step = 0.1 if isinstance(value, int) else 0.01
        yield from (value, round(value + step, 6), round(value - step, 6), value + 1)


def _times(text: str, with_time: bool) -> Iterator[Value]:
    for form, length in (("%Y-%m-%d %H:%M:%S", 19), ("%Y-%m-%d %H:%M", 16), ("%Y-%m-%d", 10)):
        try:
            moment = datetime.strptime(text.replace("T", " ")[:length], form)
        except ValueError:
            continue
        break
    else:
        if len(text) == 4 and text.isdigit() and text > "1000":
            yield from (f"{text}-01-01", f"{text}-12-31", f"{int(text) + 1}-01-01")
        return
    try:
        days = [moment + timedelta(days=off) for off in (0, -1, 1, 31, -31)]
    except OverflowError:
        return
    if not with_time:
        yield from (date.isoformat(day.date()) for day in days)
        return
    yield from (day.strftime("%Y-%m-%d %H:%M:%S") for day in days)
    yield (moment + timedelta(hours=12)).strftime("%Y-%m-%d %H:%M:%S")


def matching(pattern: str) -> Iterator[str]:
    """Texts that a LIKE pattern matches, nearly matches, or matches in other letters."""
    core = pattern.replace("_", "x")
    plain = core.replace("%", "")
    if not plain:
        return
    yield core.replace("%", "a")
    yield plain
    yield f"a{plain}"
    yield f"{plain}a"
    yield plain.swapcase()


def _meets(value: Value, conditions: Sequence[SimpleCondition]) -> bool:
    """Whether a value meets all conditions, or, of those with =, one."""
    equal = [one.value for one in conditions if one.operator == "="]
    if equal and value in equal:
        return True
    rest = [one for one in conditions if one.operator not in ("=", "like", "null", "not null")]
    if not rest:
        return not equal and any(one.operator in ("like", "not null") for one in conditions)
    return all(_holds(value, one.operator, one.value) for one in rest)


def _holds(value: Value, operator: str, other: Value) -> bool:
    if isinstance(value, str) != isinstance(other, str) or value is None or other is None:
        return False
    return bool(_OPERATORS.get(operator, ne)(value, other))
