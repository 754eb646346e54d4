"""Fills a DuckDB file that stands in for another engine: its texts and its functions."""

from __future__ import annotations

from typing import Final

from jentrow.core.engines.duckdb.loader import DuckDBLoader
from jentrow.core.engines.duckdb.tables import schema_of
from jentrow.core.engines.neutral import NeutralTable
from jentrow.core.engines.table_rules import TableRules
from jentrow.core.sql.columnkinds import BLANK_ENDED, FILLED
from jentrow.core.sql.text import quoted_name, quoted_text

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
        self._sizes: dict[tuple[str, str], int] = {}

    def create(self, table: NeutralTable, rules: TableRules) -> None:
        """Makes a table, and keeps in mind to what size its columns of CHAR would be filled."""
        super().create(table, rules)
        for column, type in zip(table.columns, table.types, strict=True):
            if type.kind == "char":
                self._sizes[table.schema.name, column.name] = type.size

    def note_blanks(self) -> None:
        """Notes on columns what their texts say of blanks at their ends; see :class:`ColumnKinds`."""
        for table in schema_of(self._db):
            texts = [one.name for one in table.columns if one.type == "VARCHAR"]
            if table.kind == "view" or not texts:
                continue
            asked = ", ".join(
                f"bool_or(suffix({quoted_name(one)}, ' ')), "
                f"bool_or(length(rtrim({quoted_name(one)}, ' ')) < {self._sizes.get((table.name, one), 0)})"
                for one in texts
            )
            (said,) = self._execute(f"SELECT {asked} FROM {quoted_name(table.name)}").fetchall()
            for name, ends, is_shorter in zip(texts, said[::2], said[1::2], strict=True):
                notes = " ".join([FILLED] * bool(is_shorter) + [BLANK_ENDED] * bool(ends))
                if notes:
                    place = f"{quoted_name(table.name)}.{quoted_name(name)}"
                    self.run(f"COMMENT ON COLUMN {place} IS {quoted_text(notes)}")

    def add_functions(self) -> None:
        """Adds the functions that translated texts call."""
        for sql in FUNCTIONS:
            self.run(sql)
