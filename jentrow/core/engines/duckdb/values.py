"""DuckDB's values as the value families have them."""

from __future__ import annotations

import datetime as dt
import json
from collections.abc import Callable, Sequence
from decimal import Decimal
from typing import Any

from jentrow.core.values import Value


def readers_of(types: Sequence[str]) -> list[tuple[int, Callable[[Any], Value]]]:
    """What has to be done to the values of each column of these types: its number, and how."""
    found: list[tuple[int, Callable[[Any], Value]]] = []
    for at, type in enumerate(types):
        read = _reader(type)
        if read is not None:
            found.append((at, read))
    return found


def _reader(type: str) -> Callable[[Any], Value] | None:
    if type.startswith("TIMESTAMP WITH TIME ZONE"):
        return _instant
    if type == "JSON":
        return _structure
    if "[" in type or ("(" in type and type.startswith(("STRUCT", "MAP", "UNION"))):
        return _nested
    return None


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
