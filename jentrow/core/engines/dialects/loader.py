"""Fills a DuckDB file that stands in for another engine: its texts and its functions."""

from __future__ import annotations

from typing import Final

from jentrow.core.engines.duckdb.loader import DuckDBLoader

_WHOLE: Final = "('TINYINT', 'SMALLINT', 'INTEGER', 'BIGINT', 'HUGEINT')"

FUNCTIONS: Final = (
    "CREATE MACRO jentrow_nonzero(b) AS CASE WHEN b = 0 THEN error('Divide by zero') ELSE b END",
    # Both ways have one type, so that a fraction is never cut off: equal numbers are equal anyway.
    f"CREATE MACRO jentrow_div(a, b) AS CASE WHEN typeof(a) IN {_WHOLE} AND typeof(b) IN {_WHOLE} "
    "THEN trunc(a / jentrow_nonzero(b)) ELSE a / jentrow_nonzero(b) END",
    f"CREATE MACRO jentrow_avg(x) AS CASE WHEN any_value(typeof(x)) IN {_WHOLE} THEN trunc(avg(x)) "
    "ELSE avg(x) END",
    "CREATE MACRO jentrow_join(a, b) AS nullif(concat(a, b), '')",
)
"""What the translated texts call."""


class StandInLoader(DuckDBLoader):
    """A new file for a dialect."""

    def __init__(self, engine: str, path: str, memory: int) -> None:
        super().__init__(path, memory)
        # The reader of scripts knows no Db2: its own words are few, and standard for the rest.
        self.script_dialect = "postgres" if engine == "db2" else engine
        self.text_type = "VARCHAR COLLATE NOCASE" if engine == "tsql" else "VARCHAR"
        self.empty_is_null = engine == "oracle"

    def add_functions(self) -> None:
        """Adds the functions that translated texts call."""
        for sql in FUNCTIONS:
            self.run(sql)
