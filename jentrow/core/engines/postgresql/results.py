"""What a query gives on PostgreSQL, fetched in portions.

The driver's own stream gives row after row, through a few calls each, and nothing of the columns
where there are no rows: that took longer than a short query runs.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import chain
from typing import Any, Final

import psycopg
from psycopg.adapt import Transformer
from psycopg.errors import error_from_result
from psycopg.pq import ExecStatus
from psycopg.pq.abc import PGresult

from jentrow.core.engines.answers import within_bounds
from jentrow.core.engines.limits import Limits

PORTION: Final = 500
_ROWS: Final = (ExecStatus.TUPLES_CHUNK, ExecStatus.TUPLES_OK)

Row = tuple[Any, ...]


@dataclass(frozen=True, slots=True)
class Fetched:
    """Rows, and for each column its name, the number of its table (or 0), and its type in words."""

    rows: list[Row]
    columns: tuple[tuple[str, int], ...]
    types: tuple[str, ...]


def fetched(db: psycopg.Connection[Row], sql: str, limits: Limits) -> Fetched:
    """What one statement gives, up to the bounds, as it comes.

    Raises :class:`Stop` and ``psycopg.Error``. Rows may be on their way then: see :func:`is_at_work`.
    """
    asked = db.pgconn
    asked.send_query_params(sql.encode(), None)  # one statement, as the extended protocol has it
    asked.set_chunked_rows_mode(PORTION)
    reader = Transformer(db)
    first = _next(db)
    if first is None:
        return Fetched([], (), ())
    reader.set_pgresult(first)

    def portions() -> Iterator[list[Row]]:
        found: PGresult | None = first
        while found is not None:
            if found is not first:
                reader.set_pgresult(found, set_loaders=False)
            yield reader.load_rows(0, found.ntuples, tuple)
            found = _next(db)

    rows = within_bounds(chain.from_iterable(portions()), limits)
    columns = tuple(
        ((first.fname(at) or b"").decode(), first.ftable(at)) for at in range(first.nfields)
    )
    return Fetched(rows, columns, tuple(_type(db, first, at) for at in range(first.nfields)))


def _next(db: psycopg.Connection[Row]) -> PGresult | None:
    """The next portion; None where there is no more. Raises ``psycopg.Error``."""
    found = db.pgconn.get_result()
    if found is None or found.status in _ROWS:
        return found
    while db.pgconn.get_result() is not None:
        pass
    if found.status == ExecStatus.FATAL_ERROR:
        raise error_from_result(found)
    raise psycopg.ProgrammingError("the statement gives no rows")


def _type(db: psycopg.Connection[Row], found: PGresult, at: int) -> str:
    number = found.ftype(at)
    type = db.adapters.types.get(number)
    # One that a script made has a number of its own, which says nothing to anybody.
    return type.get_type_display(number, found.fmod(at)) if type else ""


def is_at_work(db: psycopg.Connection[Row]) -> bool:
    """Whether a connection's query goes on: what is left of it is on its way."""
    return bool(db.pgconn.transaction_status == psycopg.pq.TransactionStatus.ACTIVE)
