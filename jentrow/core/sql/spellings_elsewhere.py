"""What is written instead on the engines beside SQLite: the further columns of the one table.

SQLite's own text stands here too where another engine's is the same. The rows are those of :mod:`jentrow.core.sql.spellings`, by the names of its forms and functions.
"""

from __future__ import annotations

from typing import Final

_LIMIT: Final = "LIMIT n stands at the end of the query."
_FETCH: Final = "FETCH FIRST n ROWS ONLY stands at the end of the query."
_FOLDED: Final = "write UPPER(text) LIKE UPPER(pattern)."
_LEFT_JOIN: Final = "write LEFT JOIN … ON."
_NO_HINTS: Final = "there are no hints for tables: leave it out."
_CAST: Final = "write CAST(x AS type)."
_SUBQUERY: Final = (
    "put the query with its window function into FROM (…), and filter it with WHERE outside."
)
_NOT_LATERAL: Final = (
    "a subquery in FROM cannot look at the other tables: join it, or put it into SELECT."
)
_LATERAL: Final = "write JOIN LATERAL (…) ON TRUE, and LEFT JOIN LATERAL for OUTER APPLY."
_QUOTED: Final = "a name stands in double quotes, or in none."
_SAME: Final = "write IS NOT DISTINCT FROM."

FORMS_ELSEWHERE: Final[dict[str, dict[str, str]]] = {
    "TOP": {"duckdb": _LIMIT, "postgresql": _LIMIT, "mariadb": _LIMIT, "oracle": _FETCH, "db2": _FETCH},
    "LIMIT": {"tsql": "TOP n stands behind SELECT.", "oracle": _FETCH},
    "MINUS": dict.fromkeys(("duckdb", "postgresql", "mariadb", "tsql", "db2"), "the set difference is EXCEPT."),
    "SELECT without columns": {"mariadb": "SELECT is followed by what is to be shown: columns, or * for all of them."},
    "UNIQUE": dict.fromkeys(("duckdb", "postgresql", "mariadb"), "repeated rows are left out by SELECT DISTINCT."),
    "N'…'": {"duckdb": "a text stands in single quotes, with no letter before it."},
    "::": dict.fromkeys(("mariadb", "tsql", "oracle", "db2"), _CAST),
    "ILIKE": {"tsql": "LIKE does not tell upper from lower case.", "oracle": _FOLDED, "db2": _FOLDED, "mariadb": "LIKE does not tell upper from lower case, unless the column's collation does."},
    "RLIKE": {"postgresql": "write text ~ pattern.", "duckdb": "write REGEXP_MATCHES(text, pattern)."},
    "SEPARATOR": dict.fromkeys(("duckdb", "postgresql"), "write STRING_AGG(x, ', ')."),
    "WITHIN GROUP": {"mariadb": "GROUP_CONCAT(x ORDER BY y SEPARATOR ', ') joins texts in an order."},
    "ROLLUP": {"mariadb": "write GROUP BY a WITH ROLLUP."},
    "GROUPING SETS": {"mariadb": "there are no grouping sets: combine one query for each with UNION ALL."},
    "QUALIFY": dict.fromkeys(("postgresql", "mariadb", "tsql", "oracle", "db2"), _SUBQUERY),
    "LATERAL": {"sqlite": _NOT_LATERAL, "mariadb": _NOT_LATERAL},
    "APPLY": {"sqlite": _NOT_LATERAL, "mariadb": _NOT_LATERAL, "duckdb": _LATERAL, "postgresql": _LATERAL},
    "PIVOT": dict.fromkeys(("sqlite", "postgresql", "mariadb"), "each column is an expression of its own, such as SUM(CASE WHEN … THEN x END)."),
    "CONNECT BY": dict.fromkeys(("sqlite", "duckdb", "postgresql", "mariadb"), "a query goes through a hierarchy by calling itself: WITH RECURSIVE."),
    "DISTINCT ON": dict.fromkeys(("sqlite", "mariadb"), "number the rows in FROM (…) with ROW_NUMBER() OVER (PARTITION BY … ORDER BY …), and take those with 1."),
    "~ with a pattern": {"mariadb": "write text REGEXP pattern."},
    "REGEXP": {"postgresql": "write text ~ pattern.", "duckdb": "write REGEXP_MATCHES(text, pattern)."},
    "A name in square brackets": {"duckdb": _QUOTED, "postgresql": _QUOTED, "mariadb": "a name stands in backticks, or in none."},
    "The outer join sign (+)": {"duckdb": _LEFT_JOIN, "postgresql": _LEFT_JOIN, "mariadb": _LEFT_JOIN},
    "<=>": {"duckdb": _SAME, "postgresql": _SAME},
    "&&": {"duckdb": "conditions are joined by AND.", "postgresql": "conditions are joined by AND."},
    "DIV": {"duckdb": "a // b divides whole numbers without a rest.", "postgresql": "a / b divides whole numbers without a rest."},
    "MOD between two values": {"duckdb": "the rest of a division is a % b.", "postgresql": "the rest of a division is a % b."},
    "TRY_CAST": {"postgresql": _CAST, "mariadb": _CAST},
    "CONVERT": {"duckdb": _CAST, "postgresql": _CAST},
    "CURRENT_DATE()": {"postgresql": "CURRENT_DATE and CURRENT_TIMESTAMP stand without parentheses."},
    "WITH (NOLOCK)": {"duckdb": _NO_HINTS, "postgresql": _NO_HINTS, "mariadb": _NO_HINTS},
    "INTERVAL": {},
    "INTERVAL 1 DAY": {"postgresql": "an interval is a text: INTERVAL '1 day'."},
    "GROUP BY ALL": dict.fromkeys(("sqlite", "postgresql", "mariadb"), "the columns are named one by one."),
    "CONVERT(type, x)": {"mariadb": "write CAST(x AS CHAR), CAST(x AS SIGNED) and the like."},
    "DATE '…'": {},
    "IF … THEN": dict.fromkeys(("duckdb", "postgresql", "mariadb"), "a CASE has further branches by WHEN … THEN …, and ELSE once, at its end."),
    "SHOW or DESCRIBE": dict.fromkeys(("duckdb", "postgresql", "mariadb"), "tables and columns are not asked for: they stand beside the editor, with their types and keys."),
    "LIMIT n, m": dict.fromkeys(("duckdb", "postgresql"), "write LIMIT n OFFSET m."),
    "A name in backquotes": dict.fromkeys(("duckdb", "postgresql"), _QUOTED),
    "NULLS FIRST": {"mariadb": "write ORDER BY x IS NULL, x."},
    "FILTER": {"mariadb": "write SUM(CASE WHEN condition THEN x END)."},
    "FULL JOIN": {"mariadb": "there is no FULL JOIN: combine LEFT JOIN and RIGHT JOIN with UNION."},
    "INTERVAL '…'": {"mariadb": "an interval is written INTERVAL 1 DAY."},
    "==": dict.fromkeys(("postgresql", "mariadb"), "a comparison has one =."),
    "GLOB": dict.fromkeys(("duckdb", "postgresql", "mariadb"), "there is LIKE, with % and _."),
}  # fmt: skip
"""By the name of a form, what each engine has instead; an engine that has the form is not named."""

_COALESCE: Final = "COALESCE(a, b)"
_CASE: Final = "CASE WHEN … THEN … ELSE … END"
_NOW: Final = "CURRENT_TIMESTAMP"
_DAYS: Final = "a - b for the days between two dates"

FUNCTIONS_ELSEWHERE: Final[dict[str, dict[str, str]]] = {
    "nvl": {"duckdb": _COALESCE, "postgresql": _COALESCE},
    "convert": {"duckdb": "CAST(x AS type)"},
    "nvl2": dict.fromkeys(("duckdb", "postgresql"), "CASE WHEN a IS NOT NULL THEN b ELSE c END"),
    "to_number": {"duckdb": "CAST(text AS DOUBLE)", "mariadb": "CAST(text AS DECIMAL(10, 2))"},
    "isnull": dict.fromkeys(("duckdb", "postgresql"), "COALESCE(a, b) for ISNULL(a, b), and a IS NULL for ISNULL(a)"),
    "ifnull": {"postgresql": _COALESCE},
    "zeroifnull": dict.fromkeys(("duckdb", "postgresql", "mariadb"), "COALESCE(a, 0)"),
    "if": {"postgresql": _CASE},
    "iif": {"postgresql": _CASE, "mariadb": f"{_CASE}, or IF(…)", "duckdb": f"{_CASE}, or IF(…)"},
    "choose": dict.fromkeys(("duckdb", "postgresql", "mariadb"), "CASE … WHEN 1 THEN … END"),
    "getdate": {"duckdb": _NOW, "postgresql": _NOW, "mariadb": f"{_NOW}, or NOW()"},
    "getutcdate": {"duckdb": _NOW, "postgresql": _NOW, "mariadb": "UTC_TIMESTAMP()"},
    "sysdate": {"duckdb": _NOW, "postgresql": _NOW},
    "curdate": {"postgresql": "CURRENT_DATE", "duckdb": "CURRENT_DATE"},
    "curtime": {"postgresql": "CURRENT_TIME", "duckdb": "CURRENT_TIME"},
    "year": {"postgresql": "EXTRACT(YEAR FROM d)"},
    "month": {"postgresql": "EXTRACT(MONTH FROM d)"},
    "day": {"postgresql": "EXTRACT(DAY FROM d)"},
    "hour": {"postgresql": "EXTRACT(HOUR FROM d)"},
    "dayofweek": {"postgresql": "EXTRACT(DOW FROM d)"},
    "weekday": {"postgresql": "EXTRACT(ISODOW FROM d)"},
    "dayname": {"postgresql": "TO_CHAR(d, 'Day')"},
    "monthname": {"postgresql": "TO_CHAR(d, 'Month')"},
    "datepart": {"postgresql": "EXTRACT(part FROM d)", "mariadb": "EXTRACT(part FROM d)"},
    "date_trunc": {"mariadb": "DATE_FORMAT(d, '%Y-%m-01') and the like"},
    "strftime": {"postgresql": "TO_CHAR(d, 'YYYY-MM')", "mariadb": "DATE_FORMAT(d, '%Y-%m')"},
    "date_format": {"postgresql": "TO_CHAR(d, format)", "duckdb": "STRFTIME(d, format)"},
    "to_char": {"duckdb": "STRFTIME(d, format) or FORMAT(pattern, x)"},
    "to_date": {"duckdb": "STRPTIME(text, format)", "mariadb": "STR_TO_DATE(text, format)"},
    "str_to_date": {"postgresql": "TO_DATE(text, format)", "duckdb": "STRPTIME(text, format)"},
    "last_day": {"postgresql": "DATE_TRUNC('month', d) + INTERVAL '1 month - 1 day'"},
    "eomonth": {"postgresql": "DATE_TRUNC('month', d) + INTERVAL '1 month - 1 day'", "duckdb": "LAST_DAY(d)", "mariadb": "LAST_DAY(d)"},
    "add_months": {"postgresql": "d + INTERVAL '1 month'", "duckdb": "d + INTERVAL 1 MONTH"},
    "dateadd": {"postgresql": "d + INTERVAL '1 day'", "duckdb": "d + INTERVAL 1 DAY", "mariadb": "DATE_ADD(d, INTERVAL 1 DAY)"},
    "date_add": {"postgresql": "d + INTERVAL '1 day'"},
    "adddate": {"postgresql": "d + INTERVAL '1 day'", "duckdb": "d + INTERVAL 1 DAY"},
    "date_sub": {"postgresql": "d - INTERVAL '1 day'"},
    "datediff": {"postgresql": _DAYS},
    "julianday": {"postgresql": _DAYS, "mariadb": "DATEDIFF(a, b) for the days between"},
    "len": {"postgresql": "LENGTH(text)", "mariadb": "CHAR_LENGTH(text)"},
    "charindex": {"postgresql": "POSITION(part IN text)", "mariadb": "LOCATE(part, text)", "duckdb": "INSTR(text, part)"},
    "instr": {"postgresql": "POSITION(part IN text)"},
    "locate": {"postgresql": "POSITION(part IN text)", "duckdb": "INSTR(text, part)"},
    "strpos": {"mariadb": "LOCATE(part, text)"},
    "ucase": {"postgresql": "UPPER(text)"},
    "lcase": {"postgresql": "LOWER(text)"},
    "mid": {"postgresql": "SUBSTRING(text, start, length)", "duckdb": "SUBSTRING(text, start, length)"},
    "initcap": {"mariadb": "CONCAT(UPPER(LEFT(text, 1)), LOWER(SUBSTRING(text, 2)))", "duckdb": "UPPER(text[1]) || LOWER(text[2:])"},
    "space": {"postgresql": "REPEAT(' ', n)", "duckdb": "REPEAT(' ', n)"},
    "stuff": {"postgresql": "OVERLAY(text PLACING other FROM start)", "mariadb": "INSERT(text, start, length, other)"},
    "truncate": {"postgresql": "TRUNC(x, n)", "duckdb": "TRUNC(x)"},
    "trunc": {"mariadb": "TRUNCATE(x, n)"},
    "rand": {"postgresql": "RANDOM()", "duckdb": "RANDOM()"},
    "random": {"mariadb": "RAND()"},
    "listagg": {"mariadb": "GROUP_CONCAT(x SEPARATOR ', ')", "postgresql": "STRING_AGG(x, ', ')"},
    "string_agg": {"mariadb": "GROUP_CONCAT(x SEPARATOR ', ')"},
    "group_concat": {"postgresql": "STRING_AGG(x, ', ')"},
    "array_agg": {"mariadb": "JSON_ARRAYAGG(x)"},
    "bool_and": {"mariadb": "MIN(condition)"},
    "bool_or": {"mariadb": "MAX(condition)"},
    "every": {"mariadb": "MIN(condition)", "duckdb": "BOOL_AND(condition)"},
    "total": dict.fromkeys(("duckdb", "postgresql", "mariadb"), "COALESCE(SUM(x), 0)"),
    "try_cast": {"postgresql": "CAST(x AS type)", "mariadb": "CAST(x AS type)"},
    "regexp_matches": {"mariadb": "text REGEXP pattern"},
    "printf": {"postgresql": "TO_CHAR(x, format)", "mariadb": "FORMAT(x, places)"},
    "median": {"postgresql": "PERCENTILE_CONT(0.5) WITHIN GROUP (ORDER BY x)"},
    "std": {"postgresql": "STDDEV(x)", "duckdb": "STDDEV(x)"},
    "count_big": dict.fromkeys(("duckdb", "postgresql", "mariadb"), "COUNT(*)"),
    "find_in_set": {"postgresql": "value = ANY (STRING_TO_ARRAY(list, ','))"},
    "string_split": {"postgresql": "STRING_TO_ARRAY(text, ',')", "mariadb": "SUBSTRING_INDEX(text, ',', n)"},
}  # fmt: skip
"""By the name of a function, what each engine has instead; an engine that has it is not named."""
