"""The engines that there are: their names in packs, how people write them, the parser's dialects."""

from __future__ import annotations

from typing import Final

LABELS: Final = {
    "sqlite": "SQLite",
    "duckdb": "DuckDB",
    "postgresql": "PostgreSQL",
    "mariadb": "MariaDB",
}
"""How people write each engine, by its name in packs and on the command line."""

DIALECTS: Final = {
    "sqlite": "sqlite",
    "duckdb": "duckdb",
    "postgresql": "postgres",
    "mariadb": "mysql",
}
"""The parser's name for the dialect of each engine."""

ENGINES: Final = tuple(LABELS)
