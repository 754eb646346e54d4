"""Connections to MariaDB, and its values as the value families have them."""

from __future__ import annotations

import datetime as dt
import json
import re
import ssl
from collections.abc import Callable
from decimal import Decimal
from functools import cache
from typing import TYPE_CHECKING, Any, Final

import pymysql
from pymysql.connections import Connection
from pymysql.constants import FIELD_TYPE
from pymysql.converters import conversions
from pymysql.cursors import Cursor, SSCursor

from jentrow.core.engines.servers.engine import ServerAddress, dataset_password
from jentrow.core.errors import EngineUnavailable
from jentrow.core.samples.scripts.own_place import OWN_FOLDER
from jentrow.core.values import DateText, TemporalText, TimestampText, TimeText, Value

CONNECTING_SECONDS: Final = 5
READING_SECONDS: Final = 700
"""What one query may take at most, whatever a pack asks for, and a good deal beyond."""

_GONE: Final = frozenset(
    {0, 1053, 1152, 1158, 1159, 1160, 1161, 1927, 2002, 2003, 2006, 2013, 2055}
)
"""The numbers of errors that say that the server went away."""


def _time(text: str) -> Value:
    """A time of day where it is one; TIME holds lengths too."""
    sign = -1 if text.startswith("-") else 1
    hours, minutes, seconds = text.lstrip("-").split(":")
    whole, _, fraction = seconds.partition(".")
    micro = int((fraction + "000000")[:6])
    if sign > 0 and int(hours) < 24:
        return dt.time(int(hours), int(minutes), int(whole), micro)
    length = dt.timedelta(
        hours=int(hours), minutes=int(minutes), seconds=int(whole), microseconds=micro
    )
    return sign * length


def _or_text(read: Callable[[str], Value], else_: type[TemporalText]) -> Callable[[str], Value]:
    """A reader of times that keeps those as texts that Python cannot hold, such as 0000-00-00."""

    def reading(text: str) -> Value:
        try:
            return read(text)
        except ValueError:
            return else_(text)

    return reading


def _bit(value: bytes) -> int:
    return int.from_bytes(value, "big")


_READERS: Final[dict[Any, Any]] = {
    **{key: read for key, read in conversions.items() if not isinstance(key, int)},
    FIELD_TYPE.TINY: int, FIELD_TYPE.SHORT: int, FIELD_TYPE.LONG: int, FIELD_TYPE.LONGLONG: int,
    FIELD_TYPE.INT24: int, FIELD_TYPE.YEAR: int, FIELD_TYPE.FLOAT: float, FIELD_TYPE.DOUBLE: float,
    FIELD_TYPE.DECIMAL: Decimal, FIELD_TYPE.NEWDECIMAL: Decimal,
    FIELD_TYPE.DATE: _or_text(dt.date.fromisoformat, DateText),
    FIELD_TYPE.NEWDATE: _or_text(dt.date.fromisoformat, DateText),
    FIELD_TYPE.DATETIME: _or_text(dt.datetime.fromisoformat, TimestampText),
    FIELD_TYPE.TIMESTAMP: _or_text(dt.datetime.fromisoformat, TimestampText),
    FIELD_TYPE.TIME: _or_text(_time, TimeText),
    FIELD_TYPE.BIT: _bit,
    FIELD_TYPE.JSON: lambda text: json.loads(text, parse_float=Decimal),
}  # fmt: skip


if TYPE_CHECKING:
    _Plain = Connection[SSCursor]
else:
    _Plain = Connection


class _Connection(_Plain):
    """A connection that speaks TLS where the server does, without asking whose certificate it is."""

    def _create_ssl_ctx(self, sslp: dict[str, Any]) -> ssl.SSLContext:
        return _tls()


@cache
def _tls() -> ssl.SSLContext:
    """One for all connections: the driver reads all that this machine trusts for each, in vain."""
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
    context.check_hostname = False
    context.verify_mode = ssl.CERT_NONE
    return context


def connected(
    address: ServerAddress,
    *,
    user: str,
    password: str,
    database: str | None = None,
    files: bool = False,
    flags: int = 0,
) -> Connection[SSCursor]:
    """A connection as somebody; with ``files`` the server may ask for files that we name.

    ``flags`` are the protocol's own. Raises :class:`EngineUnavailable`.
    """
    try:
        return _Connection(
            host=address.host,
            port=address.port,
            user=user,
            password=password,
            database=database,
            charset="utf8mb4",
            autocommit=True,
            cursorclass=SSCursor,
            conv=_READERS,
            connect_timeout=CONNECTING_SECONDS,
            read_timeout=READING_SECONDS,
            write_timeout=READING_SECONDS,
            local_infile=files,
            client_flag=flags,
            init_command=f"SET SESSION sql_mode = CONCAT(@@sql_mode, ',{OWN_FOLDER}')",
        )
    except (pymysql.Error, OSError) as problem:
        raise EngineUnavailable(
            f"MariaDB at {address.says()} does not answer: {words_of(problem)}."
        ) from problem


def connected_to_dataset(
    address: ServerAddress, name: str, *, files: bool = False, flags: int = 0
) -> Connection[SSCursor]:
    """A connection as the login of a dataset; ``address`` is that for reading."""
    return connected(
        address,
        user=name,
        password=dataset_password(address.password, name),
        database=name,
        files=files,
        flags=flags,
    )


def asked(db: Connection[SSCursor], sql: str, *values: Any) -> list[tuple[Any, ...]]:
    """All rows of a statement of our own."""
    with db.cursor(Cursor) as cursor:
        cursor.execute(sql, values or None)
        return list(cursor.fetchall())


# The driver has no public door for these, nor for its TLS; the lock file pins it.


def begin_renewal(db: Any, settings: str) -> None:
    """Asks for a new session with such settings, and does not wait for it.

    Whatever a query left behind is forgotten: variables, locks, settings.
    """
    db._execute_command(_RESET, b"")
    db._execute_command(_QUERY, settings)


def end_renewal(db: Any) -> None:
    """Waits until the session is new that was asked for."""
    for _ in range(2):
        db._next_seq_id = 1  # as each answer begins to count
        db._read_ok_packet()


def ended(db: Any) -> None:
    """Ends a connection without reading what is still on its way."""
    db._force_close()


def abandoned(cursor: Any) -> None:
    """The same with the connection of a cursor, which would else want to read its rows."""
    db, cursor.connection = cursor.connection, None
    if cursor._result is not None:
        cursor._result.unbuffered_active = False
    ended(db)


def server_version(db: Any) -> str:
    """What a server says of its version, such as 10.11.6-MariaDB."""
    return str(db.get_server_info())


def is_mariadb(db: Any) -> bool:
    """Whether a server is MariaDB itself, and not another one of its protocol."""
    return "mariadb" in server_version(db).lower()


def bounds(db: Any, seconds: float, memory_mb: int) -> list[str]:
    """The settings that bound what a session may use, each statement for so many seconds."""
    found = [
        f"lock_wait_timeout = {max(1, int(seconds))}",
        "time_zone = '+00:00'",
        time_bound(db, seconds),
    ]
    if is_mariadb(db):
        found += [
            f"max_session_mem_used = {max(16, memory_mb) * 2**20}",
            f"max_recursive_iterations = {2**32 - 1}",  # fewer end a recursion without a word
        ]
    return found


def time_bound(db: Any, seconds: float) -> str:
    """The setting that bounds how long a statement may take."""
    seconds = max(0.001, seconds)
    if is_mariadb(db):
        return f"max_statement_time = {seconds:g}"
    return f"max_execution_time = {int(seconds * 1000)}"


def plain_version(said: str) -> str:
    """The version in what a server says of it: 10.11.6 of 5.5.5-10.11.6-MariaDB-0+deb12u1.

    A server of the same protocol that is another one is called so.

    MariaDB's servers say 5.5.5 first, for programs that know no version above 9
    (https://mariadb.com/kb/en/connection/).
    """
    found = _VERSION.match(said)
    if found is None:
        return said
    return found[1] if "mariadb" in said.lower() else f"{found[1]} (MySQL)"


_VERSION: Final = re.compile(r"(?:5\.5\.5-)?(\d+(?:\.\d+)*)")


def output_columns(cursor: Any) -> tuple[tuple[str, str], ...]:
    """The name of each column of a result, and of the table that it comes from, or empty."""
    fields = getattr(cursor._result, "fields", None)  # a statement without rows has none
    return tuple((field.name, field.org_table or "") for field in fields or ())


_QUERY: Final = 0x03
"""COM_QUERY (https://mariadb.com/kb/en/com_query/)."""
_RESET: Final = 0x1F
"""COM_RESET_CONNECTION (https://mariadb.com/kb/en/com_reset_connection/)."""


def is_gone(problem: Exception) -> bool:
    """Whether an error says that the server went away, and not that a query is wrong."""
    if isinstance(problem, pymysql.err.InterfaceError | OSError):
        return True
    return isinstance(problem, pymysql.Error) and number_of(problem) in _GONE


def number_of(problem: Exception) -> int:
    """The number of an error; 0 where it has none."""
    first = problem.args[0] if problem.args else 0
    return first if isinstance(first, int) else 0


def words_of(problem: Exception) -> str:
    """What an error says."""
    return str(problem.args[1] if len(problem.args) > 1 else problem).strip().rstrip(".")
