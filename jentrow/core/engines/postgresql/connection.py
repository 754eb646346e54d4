"""Connections to PostgreSQL, and its values as the value families have them."""

from __future__ import annotations

import json
import re
from decimal import Decimal
from functools import partial
from typing import Any, Final

import psycopg
from psycopg.adapt import Buffer, Loader
from psycopg.types.datetime import (
    DateLoader,
    TimeLoader,
    TimestampLoader,
    TimestamptzLoader,
    TimetzLoader,
)
from psycopg.types.json import set_json_loads
from psycopg.types.string import TextLoader

from jentrow.core.engines.servers.engine import ServerAddress, dataset_password
from jentrow.core.errors import EngineUnavailable
from jentrow.core.values import DateText, TemporalText, TimestampText, TimeText, interval_of

CONNECTING_SECONDS: Final = 5

_INTERVAL: Final = re.compile(
    r"P(?:(-?\d+)Y)?(?:(-?\d+)M)?(?:(-?\d+)D)?"
    r"(?:T(?:(-?\d+)H)?(?:(-?\d+)M)?(?:(-?[\d.]+)S)?)?\Z"
)
_AS_TEXT: Final = (
    "inet", "cidr", "int4range", "int8range", "numrange", "tsrange", "tstzrange", "daterange",
    "int4multirange", "int8multirange", "nummultirange", "tsmultirange", "tstzmultirange",
    "datemultirange",
)  # fmt: skip
_GONE: Final = ("08", "57P")
"""What the codes begin with that a server gives when it goes away."""
_PLACES_FOR_VALUES: Final = "08P01"
"""The code of a query with $1 in it, which a living server calls a breach of the protocol."""


class _PaddedLoader(TextLoader):
    """CHAR(n): its padding is nobody's text."""

    def load(self, data: Buffer) -> str | bytes:
        """The text without the blanks at its end."""
        text = super().load(data)
        return text.rstrip(" ") if isinstance(text, str) else text


class _IntervalLoader(Loader):
    """An interval with its months, its days and its time."""

    def load(self, data: Buffer) -> Any:
        """The interval; the text where it is longer than Python can hold."""
        text = bytes(data).decode()
        found = _INTERVAL.match(text)
        if not found:
            return text
        years, months, days, hours, minutes = (int(one or 0) for one in found.groups()[:5])
        seconds = 60 * (60 * hours + minutes) + Decimal(found[6] or 0)
        return interval_of(text, 12 * years + months, days, seconds)


class _MoneyLoader(Loader):
    """An amount of money, which is a number: the server writes it with its signs, as $1,234.50."""

    def load(self, data: Buffer) -> Decimal:
        """The number."""
        return Decimal(bytes(data).decode().replace("$", "").replace(",", ""))


def _or_text(loader: type[Loader], else_: type[TemporalText], zoned: bool = False) -> type[Loader]:
    """A loader of times that keeps those as texts that Python cannot hold (infinity, BC, 24:00)."""

    class Reading(loader):  # type: ignore[misc, valid-type]
        def load(self, data: Buffer) -> Any:
            try:
                return super().load(data)
            except psycopg.DataError:
                return else_(bytes(data).decode(), zoned)

    return Reading


def connected(
    address: ServerAddress, *, user: str, password: str, options: str = ""
) -> psycopg.Connection[tuple[Any, ...]]:
    """A connection as somebody. Raises :class:`EngineUnavailable`."""
    try:
        db = psycopg.connect(
            host=address.host,
            port=address.port,
            dbname=address.database,
            user=user,
            password=password or None,
            connect_timeout=CONNECTING_SECONDS,
            options="-c TimeZone=UTC -c intervalstyle=iso_8601 -c lc_monetary=C -c client_encoding=UTF8 "
            + options,
            application_name="jentrow",
            autocommit=True,
            prepare_threshold=None,
        )
    except psycopg.Error as problem:
        said = str(problem).strip().splitlines()
        raise EngineUnavailable(
            f"PostgreSQL at {address.says()} does not answer: {said[-1] if said else problem}."
        ) from problem
    _adapt(db)
    return db


def connected_to_dataset(
    address: ServerAddress, name: str, options: str = ""
) -> psycopg.Connection[tuple[Any, ...]]:
    """A connection as the login of a dataset; ``address`` is that for reading."""
    return connected(
        address, user=name, password=dataset_password(address.password, name), options=options
    )


def _adapt(db: psycopg.Connection[Any]) -> None:
    adapters = db.adapters
    adapters.register_loader("bpchar", _PaddedLoader)
    adapters.register_loader("interval", _IntervalLoader)
    adapters.register_loader("money", _MoneyLoader)
    adapters.register_loader("date", _or_text(DateLoader, DateText))
    adapters.register_loader("time", _or_text(TimeLoader, TimeText))
    adapters.register_loader("timetz", _or_text(TimetzLoader, TimeText, zoned=True))
    adapters.register_loader("timestamp", _or_text(TimestampLoader, TimestampText))
    adapters.register_loader("timestamptz", _or_text(TimestamptzLoader, TimestampText, zoned=True))
    for name in _AS_TEXT:
        adapters.register_loader(name, TextLoader)
    set_json_loads(partial(json.loads, parse_float=Decimal), db)


def is_gone(problem: psycopg.Error, db: psycopg.Connection[Any]) -> bool:
    """Whether an error says that the server went away, and not that a query is wrong."""
    code = problem.sqlstate or ""
    if db.closed or db.broken:
        return True
    return code.startswith(_GONE) and code != _PLACES_FOR_VALUES
