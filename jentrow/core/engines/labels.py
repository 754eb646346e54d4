"""The engines that there are: their names in packs, how people write them, the parser's dialects."""

from __future__ import annotations

from typing import Final

LABELS: Final = {
    "sqlite": "SQLite",
    "duckdb": "DuckDB",
    "postgresql": "PostgreSQL",
    "mariadb": "MariaDB",
    "tsql": "T-SQL",
    "oracle": "Oracle SQL",
    "db2": "Db2 SQL",
}
"""How people write each engine, by its name in packs and on the command line."""

DIALECTS: Final = {
    "sqlite": "sqlite",
    "duckdb": "duckdb",
    "postgresql": "postgres",
    "mariadb": "mysql",
    "tsql": "tsql",
    "oracle": "oracle",
    "db2": "db2",
}
"""The parser's name for the dialect of each engine."""

ENGINES: Final = tuple(LABELS)

STAND_INS: Final = frozenset({"tsql", "oracle", "db2"})
"""Those that cannot run here: another engine stands in, and runs a translation."""

KEEPING_COPIES: Final = ("sqlite", "duckdb", "postgresql", "mariadb")
"""Those on which learners have private copies: a script can be done there as a whole, or not at all."""

COPIES_OTHERWISE: Final = "sqlite"
"""On which they have them in exercises whose own engine keeps none."""

RUNNING: Final = tuple(name for name in ENGINES if name not in STAND_INS)
"""Those that run the text itself."""


def copy_engine(engine: str) -> str:
    """The engine of the private copies for exercises on an engine."""
    return engine if engine in KEEPING_COPIES else COPIES_OTHERWISE
