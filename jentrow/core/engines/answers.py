"""What a worker process answers to a query, as it crosses to whoever asked."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from typing import Any, TypeAlias

from jentrow.core.engines.limits import Limits
from jentrow.core.results import Column

Answer: TypeAlias = tuple[Any, ...]
"""``("rows", names, rows, types)``: the rows packed where their values are no plain ones, no types
where nobody knows them; or ``("failed", verdict, code, engine's words, index into the text or -1,
detail)``; or ``("away", words)`` where a server does not answer."""

Tables: TypeAlias = list[tuple[str, list[str], int | None]]
"""Each table's and view's name, columns, and how many rows a table has."""

ROWS = "rows"
FAILED = "failed"
AWAY = "away"
SHOWN = "shown"
SAME = "same"


class Stop(Exception):
    """Raised while rows are fetched when a bound is passed; ``code`` says which."""

    def __init__(self, code: str) -> None:
        super().__init__(code)
        self.code = code


def failed(verdict: str, code: str, words: str, index: int = -1, detail: str = "") -> Answer:
    """A query that gave no rows."""
    return (FAILED, verdict, code, words, index, detail)


def told_columns(
    columns: Sequence[tuple[str, str]], types: Sequence[str] = ()
) -> tuple[Column, ...]:
    """Columns as people tell them apart, from pairs of a name and the table that it comes from.

    ``types`` are what they are declared as, nothing where nobody knows.
    """
    return tuple(
        Column(name, declared=type) for name, type in typed_names(_told_apart(columns), types)
    )


def typed_names(names: Sequence[str], types: Sequence[str]) -> list[tuple[str, str]]:
    """Names of columns with their types, empty ones where nobody knows them."""
    known = types if len(types) == len(names) else [""] * len(names)
    return list(zip(names, known, strict=True))


def _told_apart(columns: Sequence[tuple[str, str]]) -> tuple[str, ...]:
    """Where several have one name, each stands with its table; one without gets its number."""
    times = Counter(name.lower() for name, _ in columns)
    met: Counter[str] = Counter()
    told = []
    for name, table in columns:
        met[name.lower()] += 1
        if times[name.lower()] == 1:
            told.append(name)
        elif table:
            told.append(f"{table}.{name}")
        else:
            several = met[name.lower()] > 1 and not any(
                source for other, source in columns if other.lower() == name.lower()
            )
            told.append(f"{name} ({met[name.lower()]})" if several else name)
    return tuple(told)


def within_bounds(rows: Iterable[tuple[Any, ...]], limits: Limits) -> list[tuple[Any, ...]]:
    """Rows as they come, up to the bounds of a query. Raises :class:`Stop`."""
    found: list[tuple[Any, ...]] = []
    size = 0
    for row in rows:
        found.append(row)
        size += bounded_size(row)
        if len(found) > limits.rows:
            raise Stop("limit.rows")
        if size > limits.result_bytes:
            raise Stop("limit.memory")
    return found


def bounded_size(row: tuple[Any, ...]) -> int:
    """Bytes of a row that count against the bound on a result."""
    return sum(len(value) for value in row if value.__class__ in (str, bytes, list, dict))
