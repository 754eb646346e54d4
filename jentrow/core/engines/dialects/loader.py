"""Fills a DuckDB file that stands in for another engine: its texts and its functions."""

from __future__ import annotations

from typing import Final

from jentrow.core.engines.dialects.number_texts import NUMBER_FUNCTIONS
from jentrow.core.engines.duckdb.loader import DuckDBLoader
from jentrow.core.engines.duckdb.tables import schema_of
from jentrow.core.engines.loading.neutral import NeutralTable, NeutralType
from jentrow.core.engines.loading.rules import TableRules
from jentrow.core.sql.columnkinds import BLANK_ENDED, FILLED, LENGTH
from jentrow.core.sql.stand_ins.functions import NO_SUCH_VALUE, UNKNOWN_TEXT, failing
from jentrow.core.sql.text import quoted_name, quoted_text

_WHOLE: Final = "('TINYINT', 'SMALLINT', 'INTEGER', 'BIGINT', 'HUGEINT')"

_FAILS: Final = failing(UNKNOWN_TEXT, "VARCHAR").sql("duckdb")
_NO_VALUE: Final = failing(NO_SUCH_VALUE).sql("duckdb")
_AS_ORACLE: Final = (
    # No zeros around a number that mean nothing: 9, .5 and 12.3.
    "WHEN (typeof(v) LIKE 'DECIMAL%' OR typeof(v) = 'DOUBLE') "
    "AND regexp_full_match(CAST(v AS VARCHAR), '-?[0-9]{1,15}[.][0-9]{1,12}') THEN "
    "regexp_replace(rtrim(rtrim(CAST(v AS VARCHAR), '0'), '.'), '^(-?)0[.]', '\\1.') "
    f"WHEN typeof(v) = 'DATE' THEN {_FAILS} "
)
_NOT_KNOWN: Final = (
    f"WHEN typeof(v) IN ('DOUBLE', 'FLOAT', 'INTERVAL') OR typeof(v) LIKE 'TIME%' THEN {_FAILS} "
)

_FUNCTIONS: Final = (
    "CREATE MACRO jentrow_nonzero(b) AS CASE WHEN b = 0 THEN "
    f"{failing('Divide by zero').sql('duckdb')} ELSE b END",
    f"CREATE MACRO jentrow_above_0(x) AS CASE WHEN x <= 0 THEN {_NO_VALUE} ELSE x END",
    f"CREATE MACRO jentrow_not_below_0(x) AS CASE WHEN x < 0 THEN {_NO_VALUE} ELSE x END",
    # Both ways have one type, so that a fraction is never cut off: equal numbers are equal anyway.
    f"CREATE MACRO jentrow_div(a, b) AS CASE WHEN typeof(a) IN {_WHOLE} AND typeof(b) IN {_WHOLE} "
    "THEN trunc(a / jentrow_nonzero(b)) ELSE a / jentrow_nonzero(b) END",
    f"CREATE MACRO jentrow_avg(x) AS CASE WHEN any_value(typeof(x)) IN {_WHOLE} THEN trunc(avg(x)) "
    "ELSE avg(x) END",
    f"CREATE MACRO jentrow_avg_of_each(x) AS CASE WHEN any_value(typeof(x)) IN {_WHOLE} "
    "THEN trunc(avg(DISTINCT x)) ELSE avg(DISTINCT x) END",
    # The average over a window is worked out by its own words: no function can take them.
    f"CREATE MACRO jentrow_avg_over(x, average) AS CASE WHEN typeof(x) IN {_WHOLE} "
    "THEN trunc(average) ELSE average END",
    # As texts the two ways differ: a whole number has no point.
    f"CREATE MACRO jentrow_div_text(a, b) AS CASE WHEN typeof(a) IN {_WHOLE} AND typeof(b) IN {_WHOLE} "
    "THEN CAST(CAST(jentrow_div(a, b) AS BIGINT) AS VARCHAR) ELSE jentrow_text(jentrow_div(a, b)) END",
    f"CREATE MACRO jentrow_avg_text(x) AS CASE WHEN any_value(typeof(x)) IN {_WHOLE} "
    "THEN CAST(CAST(trunc(avg(x)) AS BIGINT) AS VARCHAR) ELSE jentrow_text(avg(x)) END",
    # The text is worked out once, as it may be a query.
    "CREATE MACRO jentrow_stuff(x, start, size, other) AS list_transform([x], lambda v: "
    "CASE WHEN start BETWEEN 1 AND length(v) AND size >= 0 "
    "THEN concat(v[:start - 1], other, v[start + size:]) END)[1]",
    # No engine has the capital of this letter that DuckDB knows.
    "CREATE MACRO upper(x) AS replace(system.main.upper(replace(x, 'ß', chr(57344))), chr(57344), 'ß')",
    "CREATE MACRO jentrow_join(a, b) AS nullif(concat(jentrow_text(a), jentrow_text(b)), '')",
)


# Each value is worked out once: calls stand inside each other.
_PLACE: Final = (
    "CREATE MACRO jentrow_place(x, part, start, nth) AS list_transform("
    "[{{'x': x, 'part': part, 'start': start, 'nth': nth}}], lambda v: "
    "CASE WHEN v.x IS NOT NULL AND v.part IS NOT NULL "
    "AND v.start IS NOT NULL AND v.nth IS NOT NULL THEN coalesce(list_filter("
    "CASE WHEN v.start > 0 THEN range(v.start, length(v.x) + 2) {before} END, "
    "lambda i: substr(v.x, i, length(v.part)) = v.part)[v.nth], 0) END)[1]"
)
_FROM_THE_END: Final = "WHEN v.start < 0 THEN range(length(v.x) + 1 + v.start, 0, -1)"
_FROM_1: Final = "ELSE range(1, length(v.x) + 2)"
"""Where a search begins that is to begin before the text: from 0 on there is nothing otherwise."""


def functions_for(engine: str) -> list[str]:
    """The statements that make what the translated texts call.

    A value's text is made in a lambda, so that the value is worked out once.
    """
    forms = (_AS_ORACLE if engine == "oracle" else "") + _NOT_KNOWN
    made = (
        "CREATE MACRO jentrow_text(x) AS list_transform([x], lambda v: CASE WHEN v IS NULL THEN NULL "
        f"{forms}ELSE CAST(v AS VARCHAR) END)[1]"
    )
    place = _PLACE.format(before=_FROM_1 if engine == "tsql" else _FROM_THE_END)
    return [made, place, *_FUNCTIONS, *NUMBER_FUNCTIONS]


_WITHOUT_SIZE: Final = NeutralType("text")


class StandInLoader(DuckDBLoader):
    """A new file for a dialect."""

    def __init__(self, engine: str, path: str, memory: int) -> None:
        super().__init__(path, memory)
        self._engine = engine
        self.script_dialect = engine
        self.text_type = "VARCHAR COLLATE NOCASE" if engine == "tsql" else "VARCHAR"
        self.empty_is_null = engine == "oracle"
        self._sized: dict[tuple[str, str], NeutralType] = {}

    def create(self, table: NeutralTable, rules: TableRules) -> None:
        """Makes a table, and keeps in mind how long its texts are at most, and its filled ones are."""
        super().create(table, rules)
        for column, type in zip(table.columns, table.types, strict=True):
            if type.kind in ("char", "varchar"):
                self._sized[table.schema.name, column.name] = type

    def note_texts(self) -> None:
        """Notes on columns what is known of their texts' lengths and ends; see :class:`ColumnKinds`."""
        for table in schema_of(self._db):
            texts = [one.name for one in table.columns if one.type == "VARCHAR"]
            if table.kind == "view" or not texts:
                continue
            types = [self._sized.get((table.name, one), _WITHOUT_SIZE) for one in texts]
            asked = ", ".join(
                f"bool_or(suffix({quoted_name(one)}, ' ')), "
                f"bool_or(length(rtrim({quoted_name(one)}, ' ')) < {type.size if type.kind == 'char' else 0})"
                for one, type in zip(texts, types, strict=True)
            )
            (said,) = self._execute(f"SELECT {asked} FROM {quoted_name(table.name)}").fetchall()
            for name, type, ends, is_shorter in zip(
                texts, types, said[::2], said[1::2], strict=True
            ):
                notes = " ".join(
                    [FILLED] * bool(is_shorter)
                    + [BLANK_ENDED] * bool(ends)
                    + [f"{LENGTH}{type.size}"] * bool(type.size)
                )
                if notes:
                    place = f"{quoted_name(table.name)}.{quoted_name(name)}"
                    self.run(f"COMMENT ON COLUMN {place} IS {quoted_text(notes)}")

    def add_functions(self) -> None:
        """Adds the functions that translated texts call."""
        for sql in functions_for(self._engine):
            self.run(sql)
