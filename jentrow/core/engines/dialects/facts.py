"""What is the same on the stand-in of each dialect, and what differs: for the page, and for docs/engines.md."""

from __future__ import annotations

from typing import Final

STAND_IN: Final = "It runs on a stand-in: the text is translated, and DuckDB runs it."

DIFFERS: Final[dict[str, tuple[str, ...]]] = {
    "tsql": (
        "The same: TOP n, TOP n PERCENT, TOP n WITH TIES, OFFSET … FETCH, whole numbers divide, and average, to whole numbers, dividing by zero is an error, "
        "texts compare without upper and lower case, but where COLLATE says otherwise, NULL sorts first, + joins texts, ISNULL, IIF, CHOOSE, LEN, CONVERT, "
        "STRING_SPLIT, GENERATE_SERIES, ROUND that cuts off, "
        "CROSS and OUTER APPLY, days of the week from Sunday, expressions that call themselves, dbo.table and names in "
        "brackets.",
        "Not kept, so that an instructor decides: TOP … PERCENT in a subquery of an expression, WITH TIES behind DISTINCT, sets of letters in LIKE and PATINDEX, AVG with OVER or DISTINCT, "
        "+ of a text and a number, numbers of weeks, casts that do not fit, types that the engine changes by "
        "itself, functions that have no counterpart, and what the engine itself may refuse: functions, operators and clauses "
        "of other dialects, a JOIN without ON, an inner query with ORDER BY, names of SELECT in WHERE and GROUP BY.",
        "Other: SUM and AVG of whole numbers have DuckDB's types; blanks at the end of a text count.",
    ),
    "oracle": (
        "The same: empty text is NULL, || takes NULL for empty text, DUAL, ROWNUM <= n in WHERE, ROWNUM before a sorted query in FROM, "
        "CONNECT BY over one table with LEVEL, PRIOR, CONNECT_BY_ROOT, CONNECT_BY_ISLEAF, SYS_CONNECT_BY_PATH and ORDER SIBLINGS BY, "
        "the sign (+), FETCH FIRST, also PERCENT and WITH TIES, MAX and MIN with KEEP, "
        "MINUS, RATIO_TO_REPORT, WIDTH_BUCKET, REGEXP_SUBSTR, NVL, NVL2, DECODE, GREATEST and LEAST of NULL, TRUNC and ROUND of a date, INSTR of the n-th letter, days added to one, MAX(COUNT(*)), TO_CHAR "
        "by a format of numbers, NULL sorts last, a division has its fraction, by zero it is an error.",
        "Not kept, so that an instructor decides: other uses of ROWNUM, ORDER SIBLINGS BY that leaves rows in any sequence, other aggregates with KEEP, the sign (+) in conditions that OR joins or without tables' names, ROWID, formats of TO_CHAR "
        "that have no counterpart, casts of numbers to a text of a length, types that the engine changes by itself, functions that have "
        "no counterpart, and what the engine itself may refuse: functions, operators and clauses "
        "of other dialects, a JOIN without ON, names of SELECT in WHERE and GROUP BY, AS before a table's other name.",
        "Other: a DATE has no time of day; numbers have DuckDB's types.",
    ),
    "db2": (
        "The same: FETCH FIRST, SYSIBM.SYSDUMMY1, CURRENT DATE, CONCAT between texts, durations such as + 2 MONTHS, DAYS, "
        "DAYS_BETWEEN and the like, MAX and MIN of several values, STRIP, "
        "functions that are called like types, STDDEV and VARIANCE of the whole population, whole numbers divide to whole "
        "numbers, by zero it is an error, NULL sorts last.",
        "Not kept, so that an instructor decides: durations of an expression, CHAR of a number, casts that do not fit, "
        "types that the engine changes by itself, functions that have no counterpart, and what "
        "the engine itself may refuse: functions, operators and clauses of other dialects, a JOIN without ON, names of SELECT in "
        "WHERE and GROUP BY.",
        "Other: SUM and AVG of whole numbers have DuckDB's types.",
    ),
}
"""What each dialect's stand-in keeps, leaves to an instructor, and does otherwise."""
