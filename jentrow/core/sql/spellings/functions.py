"""Functions and names of other dialects, in which of them they are right, and what an engine has instead.

They are rows of the one table that :mod:`jentrow.core.sql.spellings.spellings` begins.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from jentrow.core.sql.spellings.dialect_names import (
    ENGINES,
    MYSQL,
    ORACLE,
    POSTGRES,
    STANDARD,
    TSQL,
    dialects_listed,
)
from jentrow.core.sql.spellings.elsewhere import FUNCTIONS_ELSEWHERE
from jentrow.core.sql.spellings.on_stand_ins import FUNCTIONS_ON_STAND_INS, NOTHING

_FUNCTIONS: Final[tuple[tuple[str, tuple[str, ...], str], ...]] = (
    ("nvl", (ORACLE,), "COALESCE(a, b)"),
    ("nvl2", (ORACLE,), "CASE WHEN a IS NOT NULL THEN b ELSE c END"),
    ("isnull", (TSQL, MYSQL), "COALESCE(a, b) for ISNULL(a, b), and a IS NULL for ISNULL(a)"),
    ("zeroifnull", (), "COALESCE(a, 0)"),
    ("if", (MYSQL,), "CASE WHEN … THEN … ELSE … END, or IIF(…)"),
    ("decode", (ORACLE,), "CASE … WHEN … THEN … END"),
    ("choose", (TSQL,), "CASE … WHEN 1 THEN … END"),
    ("now", (MYSQL, POSTGRES), "CURRENT_TIMESTAMP, or DATETIME('now')"),
    ("getdate", (TSQL,), "CURRENT_TIMESTAMP, or DATETIME('now')"),
    ("getutcdate", (TSQL,), "CURRENT_TIMESTAMP, or DATETIME('now')"),
    ("sysdatetime", (TSQL,), "CURRENT_TIMESTAMP, or DATETIME('now')"),
    ("sysdate", (ORACLE, MYSQL), "CURRENT_TIMESTAMP, or DATETIME('now')"),
    ("curdate", (MYSQL,), "CURRENT_DATE, or DATE('now')"),
    ("curtime", (MYSQL,), "CURRENT_TIME, or TIME('now')"),
    ("today", (), "CURRENT_DATE, or DATE('now')"),
    ("year", (MYSQL, TSQL), "STRFTIME('%Y', d)"),
    ("month", (MYSQL, TSQL), "STRFTIME('%m', d)"),
    ("day", (MYSQL, TSQL), "STRFTIME('%d', d)"),
    ("hour", (MYSQL,), "STRFTIME('%H', d)"),
    ("minute", (MYSQL,), "STRFTIME('%M', d)"),
    ("dayofweek", (MYSQL,), "STRFTIME('%w', d)"),
    ("weekday", (MYSQL,), "STRFTIME('%w', d)"),
    ("dayname", (MYSQL,), "STRFTIME('%w', d), a number from 0 for Sunday"),
    ("monthname", (MYSQL,), "STRFTIME('%m', d), a number"),
    ("dayofyear", (MYSQL,), "STRFTIME('%j', d)"),
    ("week", (MYSQL,), "STRFTIME('%W', d)"),
    ("quarter", (MYSQL,), "(STRFTIME('%m', d) + 2) / 3"),
    ("datepart", (TSQL,), "STRFTIME(format, d)"),
    ("datename", (TSQL,), "STRFTIME(format, d)"),
    ("date_part", (POSTGRES,), "STRFTIME(format, d)"),
    ("extract", (STANDARD,), "STRFTIME(format, d)"),
    ("date_trunc", (POSTGRES,), "DATE(d, 'start of month') and the like"),
    ("last_day", (ORACLE, MYSQL), "DATE(d, 'start of month', '+1 month', '-1 day')"),
    ("eomonth", (TSQL,), "DATE(d, 'start of month', '+1 month', '-1 day')"),
    ("add_months", (ORACLE,), "DATE(d, '+1 month')"),
    ("months_between", (ORACLE,), "JULIANDAY(a) - JULIANDAY(b) for the days between"),
    ("to_char", (ORACLE, POSTGRES), "STRFTIME(format, d) or PRINTF(format, x)"),
    ("to_date", (ORACLE, POSTGRES), "the date as text, such as '2026-01-31'"),
    ("to_timestamp", (ORACLE, POSTGRES), "the time as text, such as '2026-01-31 12:00'"),
    ("to_number", (ORACLE,), "CAST(text AS REAL)"),
    ("str_to_date", (MYSQL,), "the date as text, such as '2026-01-31'"),
    ("makedate", (MYSQL,), "the date as text, such as '2026-01-31'"),
    ("date_format", (MYSQL,), "STRFTIME(format, d)"),
    ("dateadd", (TSQL,), "DATE(d, '+1 day')"),
    ("date_add", (MYSQL,), "DATE(d, '+1 day')"),
    ("adddate", (MYSQL,), "DATE(d, '+1 day')"),
    ("date_sub", (MYSQL,), "DATE(d, '-1 day')"),
    ("datediff", (TSQL, MYSQL), "JULIANDAY(a) - JULIANDAY(b) for the days between"),
    ("timestampdiff", (MYSQL,), "JULIANDAY(a) - JULIANDAY(b) for the days between"),
    ("age", (POSTGRES,), "JULIANDAY(a) - JULIANDAY(b) for the days between"),
    ("len", (TSQL,), "LENGTH(text)"),
    ("char_length", (STANDARD,), "LENGTH(text)"),
    ("character_length", (STANDARD,), "LENGTH(text)"),
    ("left", (TSQL, MYSQL), "SUBSTR(text, 1, n)"),
    ("right", (TSQL, MYSQL), "SUBSTR(text, -n)"),
    ("mid", (MYSQL,), "SUBSTR(text, start, length)"),
    ("position", (STANDARD,), "INSTR(text, part)"),
    ("charindex", (TSQL,), "INSTR(text, part), the text first"),
    ("locate", (MYSQL,), "INSTR(text, part), the text first"),
    ("strpos", (POSTGRES,), "INSTR(text, part)"),
    ("ucase", (MYSQL,), "UPPER(text)"),
    ("lcase", (MYSQL,), "LOWER(text)"),
    ("initcap", (ORACLE, POSTGRES), "UPPER(SUBSTR(text, 1, 1)) || LOWER(SUBSTR(text, 2))"),
    ("lpad", (ORACLE, MYSQL, POSTGRES), "PRINTF('%5s', text)"),
    ("rpad", (ORACLE, MYSQL, POSTGRES), "PRINTF('%-5s', text)"),
    ("repeat", (MYSQL, POSTGRES), "REPLACE(HEX(ZEROBLOB(n)), '00', text)"),
    ("space", (TSQL, MYSQL), "a text of blanks"),
    ("stuff", (TSQL,), "SUBSTR(…) || text || SUBSTR(…)"),
    ("truncate", (MYSQL,), "CAST(x AS INTEGER), or ROUND(x, n)"),
    ("rand", (TSQL, MYSQL), "RANDOM()"),
    ("greatest", (ORACLE, MYSQL, POSTGRES), "MAX(a, b)"),
    ("least", (ORACLE, MYSQL, POSTGRES), "MIN(a, b)"),
    ("listagg", (ORACLE,), "GROUP_CONCAT(x, ', ')"),
    ("array_agg", (POSTGRES,), "JSON_GROUP_ARRAY(x)"),
    ("bool_and", (POSTGRES,), "MIN(condition)"),
    ("bool_or", (POSTGRES,), "MAX(condition)"),
    ("every", (STANDARD,), "MIN(condition)"),
    ("count_big", (TSQL,), "COUNT(*)"),
    ("std", (MYSQL,), "AVG(x*x) - AVG(x)*AVG(x) for the variance"),
    ("stddev", (ORACLE, MYSQL, POSTGRES), "AVG(x*x) - AVG(x)*AVG(x) for the variance"),
    ("variance", (ORACLE, MYSQL, POSTGRES), "AVG(x*x) - AVG(x)*AVG(x)"),
    ("convert", (TSQL, MYSQL), "CAST(x AS type)"),
    ("try_convert", (TSQL,), "CAST(x AS type)"),
    ("try_cast", (TSQL,), "CAST(x AS type)"),
    ("regexp", (MYSQL,), "LIKE, with % and _, or GLOB, with * and ?"),
    ("regexp_like", (ORACLE, "MySQL"), "LIKE, with % and _, or GLOB, with * and ?"),
    ("regexp_replace", (ORACLE, POSTGRES), "REPLACE(text, part, other)"),
    ("string_split", (TSQL,), "INSTR and SUBSTR"),
    ("find_in_set", (MYSQL,), "INSTR(list, text) > 0"),
    ("field", (MYSQL,), "CASE x WHEN a THEN 1 WHEN b THEN 2 END"),
    ("mod", (ORACLE, MYSQL), "a % b"),
    ("rollup", (STANDARD,), "a row of the total, added with UNION ALL"),
    ("cube", (STANDARD,), "the rows of the totals, added with UNION ALL"),
    ("grouping", (STANDARD,), "the rows of the totals, added with UNION ALL"),
    ("any", (STANDARD,), "a comparison with a subquery that gives MIN or MAX, or IN (…)"),
    ("any_value", (STANDARD,), "MIN(x) or MAX(x)"),
    ("trunc", (ORACLE, POSTGRES), "CAST(x AS INTEGER), or ROUND(x, n)"),
    ("replicate", (TSQL,), "REPLACE(HEX(ZEROBLOB(n)), '00', text)"),
    ("reverse", (TSQL, MYSQL, POSTGRES), NOTHING),
    ("stdev", (TSQL,), "AVG(x*x) - AVG(x)*AVG(x) for the variance"),
    ("stdevp", (TSQL,), "AVG(x*x) - AVG(x)*AVG(x) for the variance"),
    ("stddev_samp", (STANDARD,), "AVG(x*x) - AVG(x)*AVG(x) for the variance"),
    ("stddev_pop", (STANDARD,), "AVG(x*x) - AVG(x)*AVG(x) for the variance"),
    ("var", (TSQL,), "AVG(x*x) - AVG(x)*AVG(x)"),
    ("varp", (TSQL,), "AVG(x*x) - AVG(x)*AVG(x)"),
    ("var_samp", (STANDARD,), "AVG(x*x) - AVG(x)*AVG(x)"),
    ("var_pop", (STANDARD,), "AVG(x*x) - AVG(x)*AVG(x)"),
    ("mode", (POSTGRES, "DuckDB"), "GROUP BY x ORDER BY COUNT(*) DESC LIMIT 1"),
    ("first", ("DuckDB",), "MIN(x), or a query with ORDER BY and LIMIT 1"),
    ("last", ("DuckDB",), "MAX(x), or a query with ORDER BY and LIMIT 1"),
    ("square", (TSQL,), "x * x"),
    ("chr", (ORACLE, POSTGRES), "CHAR(n)"),
    ("ascii", (TSQL, ORACLE, MYSQL, POSTGRES), "UNICODE(text)"),
    ("translate", (ORACLE, POSTGRES, TSQL), "REPLACE(text, part, other), one inside the other"),
    (
        "split_part",
        (POSTGRES, "DuckDB"),
        "SUBSTR(text, 1, INSTR(text, ',') - 1) for the first part",
    ),
    ("substring_index", (MYSQL,), "SUBSTR(text, 1, INSTR(text, ',') - 1) for the first part"),
    ("datefromparts", (TSQL,), "the date as text, such as '2026-01-31'"),
    ("make_date", (POSTGRES, "DuckDB"), "the date as text, such as '2026-01-31'"),
    ("isnumeric", (TSQL,), "text NOT GLOB '*[^0-9]*' for digits alone"),
    ("isdate", (TSQL,), "DATE(text) IS NOT NULL"),
    ("newid", (TSQL,), "HEX(RANDOMBLOB(16))"),
    ("uuid", (MYSQL, "DuckDB"), "HEX(RANDOMBLOB(16))"),
    ("gen_random_uuid", (POSTGRES,), "HEX(RANDOMBLOB(16))"),
    ("str", (TSQL,), "CAST(x AS TEXT)"),
    ("value", ("Db2",), "COALESCE(a, b)"),
    ("digits", ("Db2",), "PRINTF('%010d', x)"),
    ("days", ("Db2",), "JULIANDAY(d)"),
    ("lnnvl", (ORACLE,), "(condition) IS NOT TRUE"),
    (
        "generate_series",
        (POSTGRES, "DuckDB"),
        "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 9)",
    ),
    (
        "range",
        ("DuckDB",),
        "WITH RECURSIVE n(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM n WHERE i < 9)",
    ),
    ("pg_typeof", (POSTGRES, "DuckDB"), "TYPEOF(x)"),
    ("patindex", (TSQL,), "INSTR(text, part)"),
    ("datalength", (TSQL,), "OCTET_LENGTH(text)"),
    ("from_unixtime", (MYSQL,), "DATETIME(n, 'unixepoch')"),
    ("unix_timestamp", (MYSQL,), "UNIXEPOCH(d)"),
    ("weekofyear", (MYSQL,), "STRFTIME('%V', d)"),
    ("second", (MYSQL,), "STRFTIME('%S', d)"),
    ("elt", (MYSQL,), "CASE n WHEN 1 THEN a WHEN 2 THEN b END"),
    ("wm_concat", (ORACLE,), "GROUP_CONCAT(x, ', ')"),
    ("json_agg", (POSTGRES,), "JSON_GROUP_ARRAY(x)"),
    ("btrim", (POSTGRES,), "TRIM(text)"),
    ("soundex", (TSQL, ORACLE, MYSQL), NOTHING),
    ("corr", (STANDARD,), NOTHING),
    ("regexp_substr", (ORACLE, MYSQL), NOTHING),
    ("log2", (MYSQL, "SQLite", "DuckDB"), ""),
    ("typeof", ("SQLite", "DuckDB"), ""),
    ("unicode", (TSQL, "SQLite", "DuckDB"), ""),
    ("hex", (MYSQL, "SQLite"), ""),
    ("insert", (MYSQL, "Db2"), ""),
)
_OF_SQLITE: Final[tuple[tuple[str, tuple[str, ...], str], ...]] = (
    # What SQLite has itself, and other engines have not.
    ("ifnull", ("SQLite", MYSQL), ""),
    ("iif", ("SQLite", TSQL), ""),
    ("strftime", ("SQLite",), ""),
    ("julianday", ("SQLite",), ""),
    ("instr", ("SQLite", ORACLE, MYSQL), ""),
    ("total", ("SQLite",), ""),
    ("printf", ("SQLite",), ""),
    ("random", ("SQLite", POSTGRES), ""),
    ("group_concat", ("SQLite", MYSQL), ""),
    ("string_agg", (POSTGRES, TSQL), ""),
    ("regexp_matches", (POSTGRES, "DuckDB"), "LIKE, with % and _, or GLOB, with * and ?"),
    ("median", (ORACLE, "DuckDB"), ""),
    # What every engine here has, and a stand-in's dialect has not.
    ("length", (ORACLE, MYSQL, POSTGRES, "Db2"), ""),
    ("substr", (ORACLE, MYSQL, POSTGRES, "Db2"), ""),
    ("substring", (STANDARD, TSQL), ""),
    ("concat_ws", (TSQL, MYSQL, POSTGRES), ""),
    ("ceil", (ORACLE, MYSQL, POSTGRES, "Db2"), ""),
    ("ceiling", (STANDARD, TSQL), ""),
    ("pow", (MYSQL, POSTGRES), ""),
    ("ln", (STANDARD,), ""),
    ("format", (TSQL, MYSQL), ""),
)
FUNCTIONS: Final[dict[str, tuple[tuple[str, ...], Mapping[str, str]]]] = {
    name: (
        right_in,
        ({"sqlite": sqlite} if sqlite else {})
        | FUNCTIONS_ELSEWHERE.get(name, {})
        | FUNCTIONS_ON_STAND_INS.get(name, {}),
    )
    for name, right_in, sqlite in (*_FUNCTIONS, *_OF_SQLITE)
}
"""Functions by their names: the dialects that have them, and what each engine has instead."""

_TIME_NOW: Final = "CURRENT_TIMESTAMP is the time now"
_PSEUDO_COLUMNS: Final[dict[str, tuple[tuple[str, ...], Mapping[str, str]]]] = {
    "rownum": ((ORACLE,), dict.fromkeys(ENGINES, "LIMIT n stands at the end of the query, and ROW_NUMBER() OVER (ORDER BY …) numbers rows") | {"tsql": "TOP n stands behind SELECT, and ROW_NUMBER() OVER (ORDER BY …) numbers rows"}),
    "sysdate": ((ORACLE,), dict.fromkeys(ENGINES, _TIME_NOW) | {"tsql": "GETDATE() is the time now"}),
    "systimestamp": ((ORACLE,), dict.fromkeys(ENGINES, _TIME_NOW)),
    "getdate": ((TSQL,), dict.fromkeys(ENGINES, _TIME_NOW)),
    "sysdatetime": ((TSQL,), dict.fromkeys(ENGINES, _TIME_NOW)),
    "localtime": ((MYSQL, POSTGRES), {"sqlite": "TIME('now', 'localtime') is the time of day"}),
    "localtimestamp": ((MYSQL, POSTGRES), {"sqlite": "DATETIME('now', 'localtime') is the time now"}),
}  # fmt: skip


_OTHER_MEANINGS: Final[dict[str, tuple[tuple[str, ...], Mapping[str, str]]]] = {
    "decode": ((ORACLE,), dict.fromkeys(("duckdb", "postgresql", "mariadb"), "CASE x WHEN a THEN b ELSE c END")),
    "isnull": ((TSQL,), {"mariadb": "COALESCE(a, b)"}),
    "datepart": ((TSQL,), {"duckdb": "DATE_PART('year', d), the unit as text"}),
    "to_timestamp": ((ORACLE, POSTGRES), {"duckdb": "STRPTIME(text, format)"}),
    "to_number": ((ORACLE,), {"postgresql": "CAST(text AS NUMERIC)"}),
    "format": ((TSQL, MYSQL), {"postgresql": "TO_CHAR(x, format), or ROUND(x, n)", "duckdb": "FORMAT('{:.2f}', x), or ROUND(x, n)"}),
    "json_object": ((MYSQL, "SQLite"), {"postgresql": "JSON_BUILD_OBJECT('a', x)"}),
    "mode": (("DuckDB",), {"postgresql": "MODE() WITHIN GROUP (ORDER BY x)"}),
    "datediff": ((TSQL,), {"mariadb": "DATEDIFF(a, b) for days, and TIMESTAMPDIFF(unit, a, b) for other units", "duckdb": "DATEDIFF('day', a, b), the unit as text"}),
}  # fmt: skip
"""Functions that an engine has, and that take other values in another dialect: what it has for those."""


def other_meaning(name: str, engine: str, label: str) -> str | None:
    """What stands for a function of another dialect that an engine has with another meaning."""
    found = _OTHER_MEANINGS.get(name.lower())
    if found is None or engine not in found[1]:
        return None
    return (
        f"{name.upper()} with such values belongs to {dialects_listed(found[0])}. In {label}, one writes "
        f"{found[1][engine]}."
    )


def pseudo_column(name: str, engine: str, label: str) -> str | None:
    """What an engine has instead of a name that other dialects give a meaning; None for others."""
    found = _PSEUDO_COLUMNS.get(name.lower())
    if found is None or engine not in found[1]:
        return None
    return f"{name.upper()} belongs to {' and '.join(found[0])}. In {label}, {found[1][engine]}."


def function_hint(name: str, engine: str) -> str | None:
    """Which dialects have a function, and what an engine has instead; None where nothing is known."""
    found = FUNCTIONS.get(name.lower())
    if found is None or engine not in found[1]:
        return None
    right_in, instead = found
    if not right_in:
        return f"Here one writes {instead[engine]}."
    if instead[engine] == NOTHING:
        return f"It belongs to {dialects_listed(right_in)}; there is nothing like it here."
    return f"It belongs to {dialects_listed(right_in)}; here one writes {instead[engine]}."
