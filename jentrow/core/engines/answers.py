"""What a worker process answers to a query, as it crosses to whoever asked."""

from __future__ import annotations

from typing import Any, TypeAlias

Answer: TypeAlias = tuple[Any, ...]
"""``("rows", names, rows)``, the rows packed where their values are no plain ones, or ``("failed",
verdict, code, engine's words, index into the text or -1, detail)``, or ``("away", words)`` where a
server does not answer."""

Tables: TypeAlias = list[tuple[str, list[str], int | None]]
"""Each table's and view's name, columns, and how many rows a table has."""

ROWS = "rows"
FAILED = "failed"
AWAY = "away"
SHOWN = "shown"


class Stop(Exception):
    """Raised while rows are fetched when a bound is passed; ``code`` says which."""

    def __init__(self, code: str) -> None:
        super().__init__(code)
        self.code = code


def failed(verdict: str, code: str, words: str, index: int = -1, detail: str = "") -> Answer:
    """A query that gave no rows."""
    return (FAILED, verdict, code, words, index, detail)


def bounded_size(row: tuple[Any, ...]) -> int:
    """Bytes of a row that count against the bound on a result."""
    return sum(len(value) for value in row if value.__class__ in (str, bytes, list, dict))
