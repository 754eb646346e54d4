"""DuckDB's values as the value families have them."""

from __future__ import annotations

import datetime as dt
import json
import re
from collections.abc import Callable, Iterator, Sequence
from decimal import Decimal
from typing import Any, Final, TypeAlias

import duckdb

from jentrow.core.engines.answers import Stop, bounded_size
from jentrow.core.engines.limits import Limits
from jentrow.core.sql.shape import shape_of
from jentrow.core.values import Value, interval_of

PORTION: Final = 1_000

_Row: TypeAlias = tuple[Any, ...]


def described(result: duckdb.DuckDBPyConnection) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The names and the types of a result's columns."""
    columns = result.description or ()
    return tuple(one[0] for one in columns), tuple(str(one[1]) for one in columns)


def executed(
    db: duckdb.DuckDBPyConnection, sql: str
) -> tuple[duckdb.DuckDBPyConnection, tuple[str, ...], tuple[str, ...]]:
    """Runs a query: its result, and the names and the types of its columns.

    The driver gives an interval as one length, without its months. So a query that gives intervals
    runs within another that has them as texts, which are read again.
    """
    result = db.execute(sql)
    names, types = described(result)
    if "INTERVAL" not in types:
        return result, names, types
    query = shape_of(sql, "duckdb")
    columns = [f"c{at}" for at in range(len(types))]
    told = ", ".join(
        f"CAST({column} AS VARCHAR)" if type == "INTERVAL" else column
        for column, type in zip(columns, types, strict=True)
    )
    inner = query.sql[query.start : query.end]
    try:
        db.execute(f"SELECT {told} FROM (\n{inner}\n) AS jentrow_rows({', '.join(columns)})")
    except duckdb.ProgrammingError:  # no query that can stand in FROM
        db.execute(sql)
    return db, names, types


def portions(result: duckdb.DuckDBPyConnection, types: Sequence[str]) -> Iterator[list[_Row]]:
    """The rows of a result whose columns have these types, as they come, their values read."""
    readers = _readers_of(types)
    while portion := result.fetchmany(PORTION):
        for at, read in readers:
            portion = [(*row[:at], read(row[at]), *row[at + 1 :]) for row in portion]
        yield portion


class Fetching:
    """Fetches the rows of results within bounds on all that it has fetched."""

    def __init__(self, limits: Limits) -> None:
        self._limits = limits
        self._rows = self._bytes = 0

    def rows(self, result: duckdb.DuckDBPyConnection, types: Sequence[str]) -> list[_Row]:
        """The rows of a result whose columns have these types. Raises :class:`Stop`."""
        rows: list[_Row] = []
        for portion in portions(result, types):
            rows += portion
            self._rows += len(portion)
            if self._rows > self._limits.rows:
                raise Stop("limit.rows")
            self._bytes += sum(map(bounded_size, portion))
            if self._bytes > self._limits.result_bytes:
                raise Stop("limit.memory")
        return rows


def _readers_of(types: Sequence[str]) -> list[tuple[int, Callable[[Any], Value]]]:
    """What has to be done to the values of each column of these types: its number, and how."""
    found: list[tuple[int, Callable[[Any], Value]]] = []
    for at, type in enumerate(types):
        read = _reader(type)
        if read is not None:
            found.append((at, read))
    return found


def _reader(type: str) -> Callable[[Any], Value] | None:
    if type.endswith("]"):  # a list of whatever, also of lists
        inner = _structure if type.startswith("JSON") else _nested
        return lambda value: _each(inner, value)
    if "(" in type and type.startswith(("STRUCT", "MAP", "UNION")):
        return _nested
    if type.startswith("TIMESTAMP WITH TIME ZONE"):
        return _instant
    if type == "INTERVAL":
        return _interval
    return _structure if type == "JSON" else None


def _each(read: Callable[[Any], Value], value: Any) -> Value:
    return [_each(read, item) for item in value] if isinstance(value, list | tuple) else read(value)


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


def _instant(value: Any) -> Value:
    return value.astimezone(dt.UTC) if isinstance(value, dt.datetime) else value


def _structure(value: Any) -> Value:
    """JSON's numbers with a point are decimals, so that none of their digits is lost."""
    return json.loads(value, parse_float=Decimal) if isinstance(value, str) else value


def _nested(value: Any) -> Value:
    match value:
        case dict():
            return {str(key): _nested(item) for key, item in value.items()}
        case list() | tuple():
            return [_nested(item) for item in value]
        case dt.datetime() if value.tzinfo is not None:
            return _instant(value)
        case _:
            return value
