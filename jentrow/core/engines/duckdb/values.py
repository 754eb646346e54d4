"""DuckDB's values as the value families have them."""

from __future__ import annotations

import datetime as dt
import json
import re
from collections.abc import Callable, Iterator
from decimal import Decimal
from functools import partial
from typing import Any, Final, TypeAlias

import duckdb
from duckdb.sqltypes import DuckDBPyType

from jentrow.core.engines.answers import Stop, bounded_size
from jentrow.core.engines.limits import Limits
from jentrow.core.sql.shape import shape_of
from jentrow.core.sql.text import quoted_name
from jentrow.core.values import (
    DateText,
    TemporalText,
    TimestampText,
    TimeText,
    Value,
    interval_of,
    printed,
)

PORTION: Final = 1_000

_Row: TypeAlias = tuple[Any, ...]
_Rows: TypeAlias = list[_Row]
_Reader: TypeAlias = Callable[[Any], Value]

_LOST: Final = frozenset({"interval", "timestamp_ns"})
"""Types of which the driver loses something: the months, what is below a millionth of a second."""

_UNZONED: Final = frozenset({"date", "timestamp", "timestamp_s", "timestamp_ms"})

_ENDLESS: Final = _UNZONED | {"timestamp with time zone"}
"""Types that have an infinity, for which the driver gives the first or the last that Python has."""

_ENDS: Final = frozenset(
    {
        *(dt.date.min, dt.date.max, dt.datetime.min, dt.datetime.max),
        *(dt.datetime.min.replace(tzinfo=dt.UTC), dt.datetime.max.replace(tzinfo=dt.UTC)),
    }
)

_PLAIN_TIMES: Final = frozenset({dt.date, dt.datetime, dt.time, type(None)})


class Executed:
    """A statement that was run: the names and the types of its columns, and its rows.

    Values that the driver would lose are asked for as texts, and read again: the query runs within
    another.
    """

    def __init__(self, db: duckdb.DuckDBPyConnection, sql: str, *, reads: bool = True) -> None:
        """``reads``: whether it can be run again, as it changes nothing. Raises ``duckdb.Error``."""
        columns = db.execute(sql).description or ()
        self.names: tuple[str, ...] = tuple(one[0] for one in columns)
        self._kinds: list[DuckDBPyType] = [one[1] for one in columns]
        self.types = tuple(map(str, self._kinds))
        self._db, self._sql, self._reads = db, sql, reads
        self._texts: frozenset[str] = frozenset()
        self._met_an_end = False
        if reads and any("INTERVAL" in type or "TIMESTAMP_NS" in type for type in self.types):
            self._ask_again(_LOST)

    def rows(self, taken: Callable[[Iterator[_Rows]], _Rows] | None = None) -> _Rows:
        """All rows. ``taken`` makes them of the portions in which they come, once or twice."""
        taken = taken or (lambda portions: [row for portion in portions for row in portion])
        rows = taken(self._portions())
        if self._met_an_end and self._reads:
            self._ask_again(_LOST | _ENDLESS)
            rows = taken(self._portions())
        return rows

    def _ask_again(self, texts: frozenset[str]) -> None:
        query = shape_of(self._sql, "duckdb")
        columns = [f"c{at}" for at in range(len(self._kinds))]
        told = ", ".join(
            f"CAST({column} AS {asked})" if (asked := _asked(kind, texts)) != str(kind) else column
            for column, kind in zip(columns, self._kinds, strict=True)
        )
        inner = query.sql[query.start : query.end]
        try:
            self._db.execute(
                f"SELECT {told} FROM (\n{inner}\n) AS jentrow_rows({', '.join(columns)})"
            )
            self._texts = texts
        except duckdb.ProgrammingError:  # no query that can stand in FROM
            self._db.execute(self._sql)
            self._reads = False

    def _portions(self) -> Iterator[_Rows]:
        readers = [
            (at, read, kind.id in _UNZONED and kind.id not in self._texts)
            for at, kind in enumerate(self._kinds)
            if (read := self._reader(kind)) is not None
        ]
        while portion := self._db.fetchmany(PORTION):
            for at, read, mostly_plain in readers:
                if mostly_plain and _are_plain([row[at] for row in portion]):
                    continue
                portion = [(*row[:at], read(row[at]), *row[at + 1 :]) for row in portion]
            yield portion

    def _reader(self, kind: DuckDBPyType) -> _Reader | None:
        """What has to be done to the values of a type; None where they come as they are to be."""
        if kind.id in self._texts:
            return _FROM_TEXT[kind.id]
        match kind.id:
            case "list" | "array":
                inner = self._reader(_parts(kind)[0])
                return lambda value: _mapped(inner, value)
            case "struct" | "tuple":
                return partial(_composed, [self._reader(part) for part in _parts(kind)])
            case "map":
                return partial(_by_key, *(self._reader(part) for part in _parts(kind)))
            case "union":
                return _nested
            case id if id in _UNZONED:
                return partial(self._temporal, DateText if kind.id == "date" else TimestampText)
            case "timestamp with time zone":
                return self._instant
            case "time" | "time with time zone":
                zoned = kind.id != "time"
                return lambda value: TimeText(value, zoned) if isinstance(value, str) else value
            case _:
                return _structure if str(kind) == "JSON" else None

    def _temporal(self, text: type[TemporalText], value: Any) -> Value:
        self._met_an_end |= value in _ENDS
        return text(value) if isinstance(value, str) else value

    def _instant(self, value: Any) -> Value:
        self._met_an_end |= value in _ENDS
        if isinstance(value, str):
            return TimestampText(value, zoned=True)
        return _in_utc(value)


class Fetching:
    """Fetches the rows of results within bounds on all that it has fetched."""

    def __init__(self, limits: Limits) -> None:
        self._limits = limits
        self._rows = self._bytes = 0

    def rows(self, executed: Executed) -> _Rows:
        """The rows of a result. Raises :class:`Stop`."""
        before = self._rows, self._bytes

        def taken(portions: Iterator[_Rows]) -> _Rows:
            self._rows, self._bytes = before
            rows: _Rows = []
            for portion in portions:
                rows += portion
                self._rows += len(portion)
                if self._rows > self._limits.rows:
                    raise Stop("limit.rows")
                self._bytes += sum(map(bounded_size, portion))
                if self._bytes > self._limits.result_bytes:
                    raise Stop("limit.memory")
            return rows

        return executed.rows(taken)


def _asked(kind: DuckDBPyType, texts: frozenset[str]) -> str:
    """The type as which values of a type are asked for, where some are wanted as texts."""
    match kind.id:
        case id if id in texts:
            return "VARCHAR"
        case "list":
            return f"{_asked(_parts(kind)[0], texts)}[]"
        case "array":
            return f"{_asked(_parts(kind)[0], texts)}[{dict(kind.children)['size']}]"
        case "map" | "tuple":
            parts = ", ".join(_asked(one, texts) for one in _parts(kind))
            return f"{kind.id.upper()}({parts})"
        case "struct":
            names = (quoted_name(name) for name, _ in kind.children)
            fields = (
                f"{name} {_asked(one, texts)}"
                for name, one in zip(names, _parts(kind), strict=True)
            )
            return f"STRUCT({', '.join(fields)})"
        case _:
            return str(kind)


def _parts(kind: DuckDBPyType) -> list[DuckDBPyType]:
    """The types that a type is made of."""
    return [part for _, part in kind.children if isinstance(part, DuckDBPyType)]


def _are_plain(values: list[Any]) -> bool:
    """Whether dates and timestamps need nothing: as nearly all do."""
    return _PLAIN_TIMES.issuperset(map(type, values)) and _ENDS.isdisjoint(values)


def _mapped(read: _Reader | None, value: Any) -> Value:
    if not isinstance(value, list | tuple):
        return value
    return list(value) if read is None else [read(item) for item in value]


def _composed(readers: list[_Reader | None], value: Any) -> Value:
    """What has fields: by their names, or a list of them where they have none."""
    if value is None:
        return None
    named = isinstance(value, dict)
    fields = [
        item if read is None else read(item)
        for read, item in zip(readers, value.values() if named else value, strict=True)
    ]
    return dict(zip(value, fields, strict=True)) if named else fields


def _by_key(key_reader: _Reader | None, reader: _Reader | None, value: Any) -> Value:
    """A map by the printed forms of its keys; the driver gives two lists where keys are lists."""
    if value is None:
        return None
    keys, values = value.keys(), value.values()
    if tuple(keys) == ("key", "value") and all(isinstance(one, list) for one in values):
        keys, values = values
    keys, values = _mapped(key_reader, list(keys)), _mapped(reader, list(values))
    return {printed(key): item for key, item in zip(keys, values, strict=True)}


def _nested(value: Any) -> Value:
    match value:
        case dict():
            return {str(key): _nested(item) for key, item in value.items()}
        case list() | tuple():
            return [_nested(item) for item in value]
        case dt.datetime() if value.tzinfo is not None:
            return _in_utc(value)
        case _:
            return value


def _in_utc(value: Any) -> Value:
    return value.astimezone(dt.UTC) if isinstance(value, dt.datetime) and value.tzinfo else value


def _structure(value: Any) -> Value:
    """JSON's numbers with a point are decimals, so that none of their digits is lost."""
    return json.loads(value, parse_float=Decimal) if isinstance(value, str) else value


_INTERVAL: Final = re.compile(
    r"(?:(-?\d+) years?)? ?(?:(-?\d+) months?)? ?(?:(-?\d+) days?)? ?"
    r"(?:(-?)(\d+):(\d\d):(\d\d(?:\.\d+)?))?"
)


def _interval(value: Any) -> Value:
    """An interval that was told as a text, with its months, its days and its time."""
    found = _INTERVAL.fullmatch(value) if isinstance(value, str) else None
    if found is None:
        return value
    years, months, days = (int(one or 0) for one in found.groups()[:3])
    sign, hours, minutes, seconds = (one or "0" for one in found.groups()[3:])
    time = 60 * (60 * int(hours) + int(minutes)) + Decimal(seconds)
    return interval_of(value, 12 * years + months, days, -time if sign == "-" else time)


_BILLIONTHS: Final = re.compile(r"\.\d{7,}$")


def _time_of(
    read: Callable[[str], dt.date], otherwise: type[TemporalText], zoned: bool, value: Any
) -> Value:
    """A date or a timestamp that was told as a text: the text where Python cannot hold it."""
    if not isinstance(value, str):
        return value
    try:
        return otherwise(value, zoned) if _BILLIONTHS.search(value) else _in_utc(read(value))
    except ValueError:
        return otherwise(value, zoned)


_timestamp: Final = partial(_time_of, dt.datetime.fromisoformat, TimestampText)

_FROM_TEXT: Final[dict[str, _Reader]] = {
    "interval": _interval,
    "timestamp_ns": partial(_timestamp, False),
    "timestamp": partial(_timestamp, False),
    "timestamp_s": partial(_timestamp, False),
    "timestamp_ms": partial(_timestamp, False),
    "timestamp with time zone": partial(_timestamp, True),
    "date": partial(_time_of, dt.date.fromisoformat, DateText, False),
}
