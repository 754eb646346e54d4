"""Small datasets of made-up rows, of mixed sizes and kinds, that keep every constraint.

How they are mixed was found by trying: sizes and the values that the queries mention matter most;
rows that are alike but for one thing show what grouping, ties and repeated rows do.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from random import Random
from typing import Final, TypeAlias

from jentrow.core.results import Row
from jentrow.core.samples.generated.habits import HabitCheck, Habits
from jentrow.core.samples.generated.value_pools import Pool, Pools
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.values import Value

MadeRows: TypeAlias = Mapping[str, tuple[Row, ...]]
"""The rows of each table, by its name as the schema has it; a row has a value for each writable column."""

RowAllowed: TypeAlias = Callable[[TableSchema, Row], bool]
"""Whether a row meets the CHECK constraints of a table."""

_SIZES: Final = (1, 2, 3, 4, 6, 8)
_TRIES: Final = 12


@dataclass(frozen=True, slots=True)
class _Manner:
    """How one dataset is made.

    ``few`` values for each column of the whole dataset (0: any); ``meets`` is how often a value
    meets the queries' conditions; ``nulls`` how often a column without need is NULL; ``repeats``
    how often a row repeats the one before, keys aside; ``usual`` keeps the open data's habits.
    """

    few: int
    meets: float
    nulls: float
    repeats: float
    usual: bool
    count: int = 0


_MANNERS: Final = (
    _Manner(0, 0.8, 0.15, 0.1, True),
    _Manner(2, 0.5, 0.2, 0.2, False),
    _Manner(0, 0.0, 0.2, 0.0, True),
    _Manner(2, 0.9, 0.2, 0.2, True),
    _Manner(3, 0.6, 0.4, 0.1, False),
    _Manner(1, 0.9, 0.1, 0.5, False),
)


class RowMaker:
    """Makes datasets for some tables of a sample.

    ``tables`` come with what they refer to; parents stand before their children.
    """

    def __init__(
        self,
        tables: Sequence[TableSchema],
        pools: Pools,
        habits: Mapping[str, Habits],
        allowed: RowAllowed,
        seed: int,
    ) -> None:
        ordered = in_order(tables)
        self._plans = [_plan(table, ordered, pools) for table in ordered]
        self._habits = {
            table.name: HabitCheck(habits[table.name.lower()], table)
            for table in ordered
            if table.name.lower() in habits
        }
        self._allowed = allowed
        self._thresholds = [
            number for one in pools.thresholds for number in (one, one + 1, one - 1)
        ]
        self._random = Random(seed)  # noqa: S311

    def datasets(self, *, usual: bool | None = None) -> Iterator[MadeRows]:
        """Datasets without end; with ``usual`` only such as keep the open data's habits."""
        at = 0
        while True:
            manner = _MANNERS[at % len(_MANNERS)]
            size = _SIZES[(at // len(_MANNERS) + at) % len(_SIZES)]
            count = 0
            if self._thresholds and at % 3 == 2:
                count = self._thresholds[(at // 3) % len(self._thresholds)]
            at += 1
            manner = replace(manner, usual=manner.usual if usual is None else usual, count=count)
            yield self._dataset(manner, size)

    def _dataset(self, manner: _Manner, size: int) -> MadeRows:
        random = self._random
        made: dict[str, list[Row]] = {}
        crowded = random.choice(self._plans) if manner.count else None
        for plan in self._plans:
            few = random.random() < 0.4
            wanted = random.choice((size, size, max(1, size // 2), 1, 0 if few else size))
            if plan is crowded:
                wanted = manner.count
            made[plan.table.name] = _Making(
                plan, manner, random, made, self._allowed,
                self._habits.get(plan.table.name) if manner.usual else None,
            ).rows(wanted)  # fmt: skip
        return {name: tuple(rows) for name, rows in made.items()}


@dataclass(frozen=True, slots=True)
class _ColumnPlan:
    """How a column is filled: its pool, and whether NULL may stand there."""

    pool: Pool
    nullable: bool
    is_number_key: bool
    in_key: bool


@dataclass(frozen=True, slots=True)
class _KeyPlan:
    """How a foreign key is filled: the places of its columns here, and of the key there."""

    places: tuple[int, ...]
    parent: str
    to: tuple[int, ...]
    nullable: bool
    is_own: bool


@dataclass(frozen=True, slots=True)
class _Plan:
    """Everything about a table that does not change from row to row."""

    table: TableSchema
    columns: tuple[_ColumnPlan, ...]
    keys: tuple[tuple[tuple[int, ...], bool], ...]
    references: tuple[_KeyPlan, ...]


def _plan(table: TableSchema, tables: Sequence[TableSchema], pools: Pools) -> _Plan:
    writable = table.writable
    places = {column.name: at for at, column in enumerate(writable)}
    keyed = {name for key in table.keys for name in key}
    required = {column.name for column in writable if column.not_null} | {*table.primary_key}
    columns = tuple(
        _ColumnPlan(
            pools.of(table, column),
            column.name not in required,
            table.primary_key == (column.name,) and column.type_name in ("integer", None),
            column.name in keyed,
        )
        for column in writable
    )
    keys = tuple(
        (tuple(places[name] for name in key), key == table.primary_key)
        for key in table.keys
        if all(name in places for name in key)
    )
    references = []
    for key in table.foreign_keys:
        parent = next((one for one in tables if one.name.lower() == key.table.lower()), None)
        if parent is None:
            continue
        there = {column.name.lower(): at for at, column in enumerate(parent.writable)}
        references.append(
            _KeyPlan(
                tuple(places[name] for name in key.columns),
                parent.name,
                tuple(there[name.lower()] for name in key.to),
                not required & {*key.columns},
                parent is table,
            )
        )
    return _Plan(table, columns, keys, tuple(references))


class _Making:
    """The rows of one table of one dataset, as they are made."""

    def __init__(
        self,
        plan: _Plan,
        manner: _Manner,
        random: Random,
        made: Mapping[str, Sequence[Row]],
        allowed: RowAllowed,
        habits: HabitCheck | None,
    ) -> None:
        self._plan, self._manner, self._random, self._made = plan, manner, random, made
        self._allowed, self._habits = allowed, habits
        self._rows: list[Row] = []
        self._taken: list[set[object]] = [set() for _ in plan.keys]
        self._chain = random.random() < 0.4
        self._few = [[self._any(column.pool) for _ in range(manner.few)] for column in plan.columns]

    def rows(self, wanted: int) -> list[Row]:
        """As many rows as are wanted, or as there can be."""
        table = self._plan.table
        for _ in range(wanted):
            for attempt in range(_TRIES):
                row = self._row(attempt)
                if row is None:
                    return self._rows
                keys = self._keys_of(row)
                if keys is None or (table.checks and not self._allowed(table, row)):
                    continue
                if self._habits is not None and not self._habits.passes(row, self._rows):
                    continue
                self._rows.append(row)
                for taken, key in zip(self._taken, keys, strict=True):
                    taken.add(key)
                break
        return self._rows

    def _keys_of(self, row: Row) -> list[object] | None:
        """The row's keys; None where one is taken, or a primary one holds NULL."""
        found: list[object] = []
        for (places, is_primary), taken in zip(self._plan.keys, self._taken, strict=True):
            key = tuple([row[at] for at in places])
            if None in key:
                if is_primary:
                    return None
            elif key in taken:
                return None
            found.append(key if None not in key else None)
        return found

    def _row(self, attempt: int) -> Row | None:
        """One row; None where a table that it must refer to is empty."""
        random, manner = self._random.random, self._manner
        repeats = bool(self._rows) and random() < manner.repeats
        values: list[Value] = list(self._random.choice(self._rows)) if repeats else []
        for at, column in enumerate(self._plan.columns):
            if column.is_number_key:
                value = self._number(column.pool, at)
            elif repeats and not column.in_key:
                continue
            elif column.nullable and random() < manner.nulls:
                value = None
            else:
                value = self._value(at, column.pool, attempt)
            if repeats:
                values[at] = value
            else:
                values.append(value)
        for reference in self._plan.references:
            if not self._refer(reference, values):
                return None
        return tuple(values)

    def _value(self, at: int, pool: Pool, attempt: int) -> Value:
        """A value for a column: of the few, while there are some; after some attempts any."""
        random = self._random.random
        few = self._few[at]
        if not few or attempt > _TRIES // 2 or random() < 0.1:
            return self._any(pool)
        return few[int(random() * len(few))]

    def _any(self, pool: Pool) -> Value:
        random = self._random.random
        if pool.satisfying and random() < self._manner.meets:
            return pool.satisfying[int(random() * len(pool.satisfying))]
        if pool.special and (not pool.usual or random() < 0.5):
            return pool.special[int(random() * len(pool.special))]
        return pool.usual[int(random() * len(pool.usual))] if pool.usual else None

    def _number(self, pool: Pool, at: int) -> Value:
        """A key: one that the queries mention, or the next one."""
        taken = {row[at] for row in self._rows}
        if pool.special and self._random.random() < 0.7:
            # Mostly one that meets the conditions, at times one beside it.
            meets = pool.satisfying if self._random.random() < 0.8 else pool.special
            mentioned = [one for one in meets if one not in taken]
            if mentioned:
                return self._random.choice(mentioned)
        return next(number for number in range(1, len(taken) + 100) if number not in taken)

    def _refer(self, key: _KeyPlan, values: list[Value]) -> bool:
        """Fills in the columns of a foreign key; false where they cannot be, and must."""
        random = self._random.random
        # Of two tables that refer to each other one is made before its parent.
        rows = self._rows if key.is_own else self._made.get(key.parent, ())
        if key.nullable and (not rows or random() < max(self._manner.nulls, 0.15)):
            for at in key.places:
                values[at] = None
        elif rows:
            chosen = -1 if key.is_own and self._chain else int(random() * len(rows))
            for at, to in zip(key.places, key.to, strict=True):
                values[at] = rows[chosen][to]
        elif key.is_own:
            for at, to in zip(key.places, key.to, strict=True):
                values[at] = values[to]
        else:
            return False
        return True


def in_order(tables: Sequence[TableSchema]) -> list[TableSchema]:
    """Tables so that each stands behind those that it refers to, as far as that can be."""
    left = [table for table in tables if table.kind == "table"]
    placed: list[TableSchema] = []
    while left:
        names = {table.name.lower() for table in left}
        ready = [
            table
            for table in left
            if not any(
                key.table.lower() in names and key.table.lower() != table.name.lower()
                for key in table.foreign_keys
            )
        ] or left[:1]
        placed += ready
        left = [table for table in left if table not in ready]
    return placed


def with_parents(tables: Sequence[TableSchema], names: set[str]) -> list[TableSchema]:
    """The named tables (in small letters) and all that they refer to."""
    by_name = {table.name.lower(): table for table in tables}
    wanted: dict[str, TableSchema] = {}
    waiting = [name for name in names if name in by_name]
    while waiting:
        name = waiting.pop()
        if name in wanted or name not in by_name:
            continue
        wanted[name] = by_name[name]
        waiting += [key.table.lower() for key in by_name[name].foreign_keys]
    return [table for table in tables if table.name.lower() in wanted]
