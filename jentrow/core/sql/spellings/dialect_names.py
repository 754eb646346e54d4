"""The dialects that are told apart when a text is explained, as people write them."""

from __future__ import annotations

from typing import Final

from jentrow.core.words import listed

TSQL: Final = "Transact-SQL"
ORACLE: Final = "Oracle"
MYSQL: Final = "MySQL and MariaDB"
POSTGRES: Final = "PostgreSQL"
STANDARD: Final = "standard SQL"

ENGINES: Final = ("sqlite", "duckdb", "postgresql", "mariadb")
"""What runs queries here itself; beside them are those that another stands in for."""


def dialects_listed(right_in: tuple[str, ...]) -> str:
    """Several of them in words; some constants name two."""
    return listed([name for one in right_in for name in one.split(" and ")])
