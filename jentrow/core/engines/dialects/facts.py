"""What is the same on the stand-in of each dialect, and what differs: for the page, and for docs/engines.md."""

from __future__ import annotations

from typing import Final

from jentrow.core.engines.protocol import StandInFacts

STAND_IN: Final = "It runs on a stand-in: the text is translated, and DuckDB runs it."

_REFUSED: Final = (
    "what the engine itself may refuse: functions, operators and clauses of other dialects"
)
_CHANGED_TYPES: Final = (
    "types that the engine changes by itself, and functions that have no counterpart"
)
_FILLED: Final = "the blanks that fill a CHAR column, where more than comparing is done with it"
_TEXTS: Final = "fractions that end nowhere, and {}, as texts"
_MADE_BLANKS: Final = "blanks at the end of a text that a query makes count"

FACTS: Final[dict[str, StandInFacts]] = {
    "tsql": StandInFacts(
        same=(
            "TOP n, TOP n PERCENT, TOP n WITH TIES, OFFSET … FETCH",
            "whole numbers divide, and average, to whole numbers; dividing by zero is an error",
            "texts compare without upper and lower case, but where COLLATE says otherwise, and without "
            "blanks at the end of what is written; + joins them",
            "sets of letters in LIKE and PATINDEX",
            "NULL sorts first; ISNULL with the length of its first value, IIF, CHOOSE, BIT",
            "LEN, CONVERT, FORMAT and STR of numbers, QUOTENAME, ISNUMERIC, STRING_SPLIT, GENERATE_SERIES, "
            "ROUND that cuts off, WITH ROLLUP",
            "CROSS and OUTER APPLY, expressions that call themselves, texts joined by FOR XML PATH('')",
            "days of the week from Sunday, and weeks",
            "dbo.table and names in brackets",
        ),
        undecided=(
            "TOP … PERCENT in a subquery of an expression, WITH TIES behind DISTINCT",
            "a division of what may be whole or not",
            "+ of a text and a number",
            "casts that do not fit",
            _TEXTS.format("moments"),
            f"{_FILLED}; rows whose texts end in blanks, where these are compared",
            _CHANGED_TYPES,
            f"{_REFUSED}, a JOIN without ON, an inner query with ORDER BY, names of SELECT in WHERE and "
            "GROUP BY",
        ),
        other=("SUM and AVG of whole numbers have DuckDB's types", _MADE_BLANKS),
    ),
    "oracle": StandInFacts(
        same=(
            "empty text is NULL, also what a function leaves of one; || takes NULL for empty text",
            "numbers as texts: 9, .5",
            "DUAL, ROWNUM beside a number in WHERE, ROWNUM before a sorted query in FROM",
            "CONNECT BY over one table with LEVEL, PRIOR, CONNECT_BY_ROOT, CONNECT_BY_ISLEAF, "
            "SYS_CONNECT_BY_PATH and ORDER SIBLINGS BY",
            "the sign (+), MINUS",
            "FETCH FIRST, also PERCENT and WITH TIES",
            "MAX and MIN with KEEP, MAX(COUNT(*)), RATIO_TO_REPORT, WIDTH_BUCKET",
            "NVL, NVL2, DECODE, GREATEST and LEAST of NULL; NULL sorts last",
            "REGEXP_SUBSTR, INSTR of the n-th place",
            "TRUNC and ROUND of a date, days added to one, TO_CHAR and TO_DATE by formats",
            "comparisons with ANY and ALL of some values, names in UNPIVOT",
            "a division has its fraction, by zero it is an error",
        ),
        undecided=(
            "other uses of ROWNUM; ROWID",
            "ORDER SIBLINGS BY that leaves rows in any sequence",
            "other aggregates with KEEP",
            "the sign (+) in conditions that OR joins or without tables' names",
            "formats of TO_CHAR that have no counterpart",
            _TEXTS.format("dates"),
            _FILLED,
            _CHANGED_TYPES,
            f"{_REFUSED}, a JOIN without ON, names of SELECT in WHERE and GROUP BY, AS before a table's "
            "other name",
        ),
        other=("a DATE has no time of day", "numbers have DuckDB's types"),
    ),
    "db2": StandInFacts(
        same=(
            "FETCH FIRST, SYSIBM.SYSDUMMY1, CURRENT DATE",
            "CONCAT between texts, STRIP; texts compare without blanks at the end of what is written",
            "durations such as + 2 MONTHS, DAYS, DAYS_BETWEEN and the like",
            "MAX and MIN of several values, functions that are called like types",
            "STDDEV and VARIANCE of the whole population",
            "whole numbers divide, and average, to whole numbers; dividing by zero is an error",
            "NULL sorts last",
        ),
        undecided=(
            "durations of an expression",
            "CHAR of a number; casts that do not fit; MINUS",
            _TEXTS.format("moments"),
            f"{_FILLED}; rows whose texts end in blanks, where these are compared",
            _CHANGED_TYPES,
            f"{_REFUSED}, a JOIN without ON, names of SELECT in WHERE and GROUP BY",
        ),
        other=("SUM and AVG of whole numbers have DuckDB's types", _MADE_BLANKS),
    ),
}
"""What each dialect's stand-in keeps, leaves to an instructor, and does otherwise."""
