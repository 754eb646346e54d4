"""What is written instead in the dialects that a stand-in runs: T-SQL, Oracle SQL, Db2 SQL.

Further columns of the one table of :mod:`jentrow.core.sql.spellings.spellings`, by the names of its functions.
Sources: the engines' own references of SQL (Transact-SQL, "Built-in functions"; Oracle Database, "SQL
Functions"; Db2, "Built-in functions").
"""

from __future__ import annotations

from typing import Final

NOTHING: Final = "nothing of the kind"
"""In the place of what an engine has instead of a function, where it has none."""

_ALL: Final = ("tsql", "oracle", "db2")
_OF_EACH: Final = "MIN(CASE WHEN condition THEN 1 ELSE 0 END)"
_OF_ANY: Final = "MAX(CASE WHEN condition THEN 1 ELSE 0 END)"
_SETS: Final = "write text LIKE pattern, with %, _ and sets such as [a-z]."
_REGEXP: Final = "write REGEXP_LIKE(text, pattern)."
_CASE: Final = "CASE WHEN … THEN … ELSE … END"
_TEXT_OF_DATE: Final = "TO_CHAR(d, format)"

FORMS_ON_STAND_INS: Final[dict[str, dict[str, str]]] = {
    "A name in backquotes": {"tsql": "a name stands in square brackets, in double quotes, or in none."}
    | dict.fromkeys(("oracle", "db2"), "a name stands in double quotes, or in none."),
    "&&": dict.fromkeys(_ALL, "conditions are joined by AND."),
    "|| between conditions": dict.fromkeys(("oracle", "db2"), "|| joins texts: conditions are joined by OR."),
    "MOD between two values": {"tsql": "the rest of a division is a % b."}
    | dict.fromkeys(("oracle", "db2"), "the rest of a division is MOD(a, b)."),
    "DIV": dict.fromkeys(("tsql", "db2"), "a / b divides whole numbers without a rest.")
    | {"oracle": "TRUNC(a / b) is a division without its rest."},
    "~ with a pattern": {"tsql": _SETS, "oracle": _REGEXP, "db2": _REGEXP},
    "REGEXP": {"tsql": _SETS, "oracle": _REGEXP, "db2": _REGEXP},
    "RLIKE": {"tsql": _SETS, "oracle": _REGEXP, "db2": _REGEXP},
    "SIMILAR TO": {"tsql": _SETS, "oracle": _REGEXP, "db2": _REGEXP},
    "GLOB": dict.fromkeys(_ALL, "there is LIKE, with % and _."),
    "==": dict.fromkeys(_ALL, "a comparison has one =."),
    "FILTER": dict.fromkeys(_ALL, "write SUM(CASE WHEN condition THEN x END)."),
    "DISTINCT ON": dict.fromkeys(_ALL, "number the rows in FROM (…) with ROW_NUMBER() OVER (PARTITION BY … ORDER BY …), and take those with 1."),
    "FROM without SELECT": dict.fromkeys(_ALL, "a query begins with SELECT: SELECT * FROM …"),
    "TABLE as a query": dict.fromkeys(_ALL, "a query begins with SELECT: SELECT * FROM …"),
    "CURRENT DATE in two words": {"tsql": "CAST(GETDATE() AS DATE) is today.", "oracle": "it is one word: CURRENT_DATE, CURRENT_TIMESTAMP."},
    "WITH UR": dict.fromkeys(("tsql", "oracle"), "an answer only reads: leave it out."),
}  # fmt: skip
"""By the name of a form, what each dialect has instead; one that has the form is not named."""

# By the name of a function: T-SQL, Oracle SQL, Db2 SQL; empty where it is there, or nothing like it.
_ROWS: Final[tuple[tuple[str, str, str, str], ...]] = (
    ("length", "LEN(text)", "", ""),
    ("len", "", "LENGTH(text)", "LENGTH(text)"),
    ("char_length", "LEN(text)", "LENGTH(text)", ""),
    ("character_length", "LEN(text)", "LENGTH(text)", ""),
    ("datalength", "", "LENGTHB(text)", "OCTET_LENGTH(text)"),
    ("substr", "SUBSTRING(text, start, length)", "", ""),
    ("substring", "", "SUBSTR(text, start, length)", ""),
    ("mid", "SUBSTRING(text, start, length)", "SUBSTR(text, start, length)", "SUBSTR(text, start, length)"),
    ("left", "", "SUBSTR(text, 1, n)", ""),
    ("right", "", "SUBSTR(text, -n)", ""),
    ("instr", "CHARINDEX(part, text), the part first", "", ""),
    ("locate", "CHARINDEX(part, text)", "INSTR(text, part), the text first", ""),
    ("charindex", "", "INSTR(text, part), the text first", "LOCATE(part, text)"),
    ("patindex", "", "REGEXP_INSTR(text, pattern)", "REGEXP_INSTR(text, pattern)"),
    ("strpos", "CHARINDEX(part, text), the part first", "INSTR(text, part)", "LOCATE(part, text), the part first"),
    ("position", "CHARINDEX(part, text)", "INSTR(text, part), the text first", ""),
    ("concat_ws", "", "a || ', ' || b", "a || ', ' || b"),
    ("replicate", "", "RPAD(text, n * LENGTH(text), text)", "REPEAT(text, n)"),
    ("repeat", "REPLICATE(text, n)", "RPAD(text, n * LENGTH(text), text)", ""),
    ("initcap", "UPPER(LEFT(text, 1)) + LOWER(SUBSTRING(text, 2, LEN(text)))", "", ""),
    ("ucase", "UPPER(text)", "UPPER(text)", ""),
    ("lcase", "LOWER(text)", "LOWER(text)", ""),
    ("chr", "CHAR(n)", "", ""),
    ("split_part", "STRING_SPLIT(text, ',')", "REGEXP_SUBSTR(text, '[^,]+', 1, n)", "REGEXP_SUBSTR(text, '[^,]+', 1, n)"),
    ("substring_index", "STRING_SPLIT(text, ',')", "REGEXP_SUBSTR(text, '[^,]+', 1, n)", "REGEXP_SUBSTR(text, '[^,]+', 1, n)"),
    ("stuff", "", "SUBSTR(…) || text || SUBSTR(…)", "INSERT(text, start, length, other)"),
    ("btrim", "TRIM(text)", "TRIM(text)", "TRIM(text)"),
    ("nvl", "COALESCE(a, b), or ISNULL(a, b)", "", ""),
    ("nvl2", _CASE, "", ""),
    ("ifnull", "COALESCE(a, b), or ISNULL(a, b)", "NVL(a, b)", "COALESCE(a, b)"),
    ("isnull", "", "NVL(a, b)", "COALESCE(a, b)"),
    ("if", "IIF(condition, a, b)", _CASE, _CASE),
    ("iif", "", _CASE, _CASE),
    ("decode", "CASE x WHEN a THEN b ELSE c END", "", ""),
    ("choose", "", "DECODE(n, 1, a, 2, b)", "CASE n WHEN 1 THEN a WHEN 2 THEN b END"),
    ("now", "GETDATE()", "SYSDATE", "CURRENT TIMESTAMP"),
    ("getdate", "", "SYSDATE", "CURRENT TIMESTAMP"),
    ("sysdatetime", "", "SYSTIMESTAMP", "CURRENT TIMESTAMP"),
    ("curdate", "CAST(GETDATE() AS DATE)", "TRUNC(SYSDATE)", "CURRENT DATE"),
    ("curtime", "CAST(GETDATE() AS TIME)", "TO_CHAR(SYSDATE, 'HH24:MI:SS')", "CURRENT TIME"),
    ("year", "", "EXTRACT(YEAR FROM d)", ""),
    ("month", "", "EXTRACT(MONTH FROM d)", ""),
    ("day", "", "EXTRACT(DAY FROM d)", ""),
    ("hour", "DATEPART(hour, d)", "TO_CHAR(d, 'HH24')", ""),
    ("minute", "DATEPART(minute, d)", "TO_CHAR(d, 'MI')", ""),
    ("quarter", "DATEPART(quarter, d)", "TO_CHAR(d, 'Q')", ""),
    ("week", "DATEPART(week, d)", "TO_CHAR(d, 'WW')", ""),
    ("dayofyear", "DATEPART(dayofyear, d)", "TO_CHAR(d, 'DDD')", ""),
    ("dayofweek", "DATEPART(weekday, d)", "TO_CHAR(d, 'D')", ""),
    ("dayname", "DATENAME(weekday, d)", "TO_CHAR(d, 'Day')", ""),
    ("monthname", "DATENAME(month, d)", "TO_CHAR(d, 'Month')", ""),
    ("datepart", "", "EXTRACT(part FROM d)", "EXTRACT(part FROM d)"),
    ("date_part", "DATEPART(part, d)", "EXTRACT(part FROM d)", ""),
    ("date_trunc", "DATEFROMPARTS(YEAR(d), MONTH(d), 1) for the month", "TRUNC(d, 'MM')", ""),
    ("datefromparts", "", "TO_DATE('2026-01-31', 'YYYY-MM-DD')", "DATE('2026-01-31')"),
    ("last_day", "EOMONTH(d)", "", ""),
    ("eomonth", "", "LAST_DAY(d)", "LAST_DAY(d)"),
    ("add_months", "DATEADD(month, n, d)", "", ""),
    ("months_between", "DATEDIFF(month, b, a)", "", ""),
    ("dateadd", "", "d + n for days, and ADD_MONTHS(d, n)", "d + n DAYS"),
    ("date_add", "DATEADD(day, n, d)", "d + n for days, and ADD_MONTHS(d, n)", "d + n DAYS"),
    ("date_sub", "DATEADD(day, -n, d)", "d - n for days, and ADD_MONTHS(d, -n)", "d - n DAYS"),
    ("datediff", "", "a - b for the days between", "DAYS(a) - DAYS(b)"),
    ("timestampdiff", "DATEDIFF(day, a, b)", "b - a for the days between", ""),
    ("julianday", "DATEDIFF(day, a, b) for the days between", "a - b for the days between", "DAYS(a) - DAYS(b)"),
    ("days", "DATEDIFF(day, a, b) for the days between", "a - b for the days between", ""),
    ("to_char", "FORMAT(x, format)", "", ""),
    ("date_format", "FORMAT(d, format)", _TEXT_OF_DATE, _TEXT_OF_DATE),
    ("strftime", "FORMAT(d, format)", _TEXT_OF_DATE, _TEXT_OF_DATE),
    ("format", "", "TO_CHAR(x, format)", "TO_CHAR(x, format)"),
    ("to_date", "CAST(text AS DATE)", "", ""),
    ("str_to_date", "CAST(text AS DATE)", "TO_DATE(text, format)", "TO_DATE(text, format)"),
    ("to_number", "CAST(text AS DECIMAL(10, 2))", "", ""),
    ("str", "", "TO_CHAR(x)", "VARCHAR(x)"),
    ("digits", "FORMAT(x, '0000')", "TO_CHAR(x, 'FM0000')", ""),
    ("value", "COALESCE(a, b)", "COALESCE(a, b)", ""),
    ("convert", "", "", "CAST(x AS type)"),
    ("try_cast", "", "CAST(x AS type)", "CAST(x AS type)"),
    ("group_concat", "STRING_AGG(x, ', ')", "LISTAGG(x, ', ') WITHIN GROUP (ORDER BY x)", "LISTAGG(x, ', ')"),
    ("string_agg", "", "LISTAGG(x, ', ') WITHIN GROUP (ORDER BY x)", "LISTAGG(x, ', ')"),
    ("listagg", "STRING_AGG(x, ', ')", "", ""),
    ("ceil", "CEILING(x)", "", ""),
    ("ceiling", "", "CEIL(x)", ""),
    ("trunc", "ROUND(x, n, 1)", "", ""),
    ("truncate", "ROUND(x, n, 1)", "TRUNC(x, n)", ""),
    ("mod", "a % b", "", ""),
    ("pow", "POWER(a, b)", "POWER(a, b)", "POWER(a, b)"),
    ("ln", "LOG(x)", "", ""),
    ("square", "", "x * x", "x * x"),
    ("rand", "", "DBMS_RANDOM.VALUE", ""),
    ("random", "RAND()", "DBMS_RANDOM.VALUE", "RAND()"),
    ("newid", "", "SYS_GUID()", "GENERATE_UNIQUE()"),
    ("uuid", "NEWID()", "SYS_GUID()", "GENERATE_UNIQUE()"),
    ("stdev", "", "STDDEV(x)", "STDDEV(x)"),
    ("stddev", "STDEVP(x), or STDEV(x)", "", ""),
    ("variance", "VARP(x), or VAR(x)", "", ""),
    ("var", "", "VARIANCE(x)", ""),
    ("total", "COALESCE(SUM(x), 0)", "COALESCE(SUM(x), 0)", "COALESCE(SUM(x), 0)"),
    ("bool_and", _OF_EACH, _OF_EACH, _OF_EACH),
    ("bool_or", _OF_ANY, _OF_ANY, _OF_ANY),
    ("every", _OF_EACH, _OF_EACH, _OF_EACH),
    ("median", "PERCENTILE_CONT(0.5) WITHIN GROUP (ORDER BY x) OVER ()", "", ""),
    ("lnnvl", "CASE WHEN condition THEN 0 ELSE 1 END = 1", "", "CASE WHEN condition THEN 0 ELSE 1 END = 1"),
    ("sysdate", "GETDATE()", "", "CURRENT TIMESTAMP"),
    ("today", "CAST(GETDATE() AS DATE)", "TRUNC(SYSDATE)", "CURRENT DATE"),
    ("extract", "DATEPART(part, d)", "", ""),
    ("second", "DATEPART(second, d)", "TO_CHAR(d, 'SS')", ""),
    ("datename", "", "TO_CHAR(d, 'Day'), or TO_CHAR(d, 'Month')", "DAYNAME(d), or MONTHNAME(d)"),
    ("make_date", "DATEFROMPARTS(year, month, day)", "TO_DATE('2026-01-31', 'YYYY-MM-DD')", "DATE('2026-01-31')"),
    ("adddate", "DATEADD(day, n, d)", "d + n", "d + n DAYS"),
    ("age", "DATEDIFF(day, b, a)", "a - b for the days between", "DAYS(a) - DAYS(b)"),
    ("to_timestamp", "CAST(text AS DATETIME2)", "", ""),
    ("lpad", "RIGHT(REPLICATE(' ', n) + text, n)", "", ""),
    ("rpad", "LEFT(text + REPLICATE(' ', n), n)", "", ""),
    ("space", "", "RPAD(' ', n)", ""),
    ("insert", "STUFF(text, start, length, other)", "SUBSTR(…) || text || SUBSTR(…)", ""),
    ("reverse", "", "", NOTHING),
    ("regexp_like", "LIKE, with %, _ and sets such as [a-z]", "", ""),
    ("regexp_replace", "REPLACE(text, part, other)", "", ""),
    ("regexp_matches", "LIKE, with %, _ and sets such as [a-z]", "REGEXP_LIKE(text, pattern)", "REGEXP_LIKE(text, pattern)"),
    ("zeroifnull", "COALESCE(a, 0)", "NVL(a, 0)", "COALESCE(a, 0)"),
    ("field", "CASE x WHEN a THEN 1 WHEN b THEN 2 END", "DECODE(x, a, 1, b, 2)", "CASE x WHEN a THEN 1 WHEN b THEN 2 END"),
    ("elt", "CHOOSE(n, a, b)", "DECODE(n, 1, a, 2, b)", "CASE n WHEN 1 THEN a WHEN 2 THEN b END"),
    ("generate_series", "", "SELECT LEVEL FROM dual CONNECT BY LEVEL <= 9", "a query that calls itself: WITH n(i) AS (…)"),
    ("wm_concat", "STRING_AGG(x, ', ')", "LISTAGG(x, ', ') WITHIN GROUP (ORDER BY x)", "LISTAGG(x, ', ')"),
    ("std", "STDEVP(x)", "STDDEV_POP(x)", "STDDEV(x)"),
    ("stdevp", "", "STDDEV_POP(x)", "STDDEV(x)"),
    ("stddev_pop", "STDEVP(x)", "", "STDDEV(x)"),
    ("stddev_samp", "STDEV(x)", "", ""),
    ("varp", "", "VAR_POP(x)", "VARIANCE(x)"),
    ("var_pop", "VARP(x)", "", "VARIANCE(x)"),
    ("var_samp", "VAR(x)", "", ""),
    ("any_value", "MIN(x) or MAX(x)", "", "MIN(x) or MAX(x)"),
    ("count_big", "", "COUNT(*)", ""),
    ("log2", "LOG(x, 2)", "LOG(2, x)", "LN(x) / LN(2)"),
    ("gen_random_uuid", "NEWID()", "SYS_GUID()", "GENERATE_UNIQUE()"),
)  # fmt: skip

FUNCTIONS_ON_STAND_INS: Final[dict[str, dict[str, str]]] = {
    name: {dialect: instead for dialect, instead in zip(_ALL, row, strict=True) if instead}
    for name, *row in _ROWS
}
"""By the name of a function, what each dialect has instead; one that has it is not named."""
