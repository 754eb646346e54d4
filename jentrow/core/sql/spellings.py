"""What other dialects write, in which of them it is right, and how an engine here says the same.

One table for all engines: a case is found by the text, not by what an engine says of it, because
an engine often stops a word or two further on. A case is told only where the engine rejected the
query, and only for an engine that has something else instead.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Final

from jentrow.core.sql.skeleton import Skeleton
from jentrow.core.sql.spellings_elsewhere import FORMS_ELSEWHERE, FUNCTIONS_ELSEWHERE, NOTHING
from jentrow.core.words import listed

TSQL: Final = "Transact-SQL"
ORACLE: Final = "Oracle"
MYSQL: Final = "MySQL and MariaDB"
POSTGRES: Final = "PostgreSQL"
STANDARD: Final = "standard SQL"

ENGINES: Final = ("sqlite", "duckdb", "postgresql", "mariadb")


@dataclass(frozen=True, slots=True)
class Spelling:
    """One way of writing: what it is called, its dialects, and what stands for it in each engine.

    ``pattern`` is searched in a :class:`~jentrow.core.sql.skeleton.Skeleton`.
    """

    name: str
    pattern: re.Pattern[str]
    right_in: tuple[str, ...]
    instead: Mapping[str, str]

    def says(self, engine: str, label: str) -> str:
        """The hint for an engine, as a sentence or two."""
        instead = self.instead[engine]
        if not self.right_in:
            return f"{instead[0].upper()}{instead[1:]}"
        return f"{self.name} belongs to {_dialects(self.right_in)}. In {label}, {instead}"


_NO_ALL: Final = "INTERSECT and EXCEPT have no ALL: they always leave out repeated rows."


def _case(name: str, pattern: str, right_in: tuple[str, ...], sqlite: str = "") -> Spelling:
    """A form; a slip that is right nowhere is one on every engine."""
    instead = (
        dict.fromkeys(ENGINES, sqlite) if not right_in else {"sqlite": sqlite} if sqlite else {}
    )
    return Spelling(name, re.compile(pattern), right_in, instead | FORMS_ELSEWHERE.get(name, {}))


FORMS: Final = (
    _case("TOP", r" SELECT (DISTINCT )?TOP (\( )?#", (TSQL,), "LIMIT n stands at the end of the query."),
    _case("FETCH FIRST", r" FETCH (FIRST|NEXT) ", (STANDARD,), "LIMIT n stands at the end of the query."),
    _case("OFFSET … ROWS", r" OFFSET # ROWS? ", (STANDARD, TSQL), "LIMIT n OFFSET m stands at the end, without ROWS."),
    _case("MINUS", r" MINUS (\( )?SELECT ", (ORACLE,), "the set difference is EXCEPT."),
    _case("UNIQUE", r" SELECT UNIQUE ", (ORACLE,), "repeated rows are left out by SELECT DISTINCT."),
    _case("UNION DISTINCT", r" (UNION|INTERSECT|EXCEPT) DISTINCT ", (MYSQL, POSTGRES), "the word DISTINCT is left out: without ALL, a set operation leaves out repeated rows."),
    _case("INTERSECT ALL", r" INTERSECT ALL ", (STANDARD, POSTGRES), _NO_ALL),
    _case("EXCEPT ALL", r" EXCEPT ALL ", (STANDARD, POSTGRES), _NO_ALL),
    _case("A query in parentheses beside a set operation", r" (UNION|UNION ALL|INTERSECT|EXCEPT) \( (SELECT|WITH|VALUES) ", (STANDARD,), "the combined queries stand without parentheses, one after the other; where the parentheses matter, write SELECT * FROM (…)."),
    _case("A query in parentheses beside a set operation", r"^ \( SELECT ", (STANDARD,), "a query does not begin with a parenthesis: the combined queries stand without them."),
    _case("EXTRACT", r" EXTRACT \( \w+ FROM ", (STANDARD,), "STRFTIME('%Y', d) gives the year as text, STRFTIME('%m', d) the month."),
    _case("INTERVAL", r" INTERVAL ['#] ", (STANDARD, MYSQL), "DATE(d, '+1 day') adds to a date."),
    _case("DATE '…'", r" (DATE|TIME|TIMESTAMP) ' ", (STANDARD, ORACLE), "a date is text: write '2026-01-31' alone."),
    _case("N'…'", r" [NE] ' ", (TSQL,), "a text stands in single quotes, with no letter before it."),
    _case("::", r" : : ", (POSTGRES,), "a type is changed by CAST(x AS INTEGER)."),
    _case("ILIKE", r" ILIKE ", (POSTGRES,), "LIKE ignores upper and lower case of the letters A to Z already."),
    _case("RLIKE", r" RLIKE ", (MYSQL,), "there is LIKE, with % and _, and GLOB, with * and ?."),
    _case("SIMILAR TO", r" SIMILAR TO ", (POSTGRES,), "there is LIKE, with % and _, and GLOB, with * and ?."),
    _case("SEPARATOR", r" SEPARATOR ' ", (MYSQL,), "the separator is a second argument: GROUP_CONCAT(x, ', ')."),
    _case("WITHIN GROUP", r" (LISTAGG|STRING_AGG) \( [^()]*\) WITHIN GROUP \( ", (ORACLE, POSTGRES), "GROUP_CONCAT(x, ', ' ORDER BY y) joins texts in an order."),
    _case("WITH ROLLUP", r" WITH ROLLUP ", (MYSQL, TSQL), "there is no ROLLUP: add the row of the total with UNION ALL."),
    _case("ROLLUP", r" (ROLLUP|CUBE) \( ", (STANDARD,), "there is no ROLLUP: add the row of the total with UNION ALL."),
    _case("GROUPING SETS", r" GROUPING SETS ", (STANDARD,), "there are no grouping sets: combine one query for each with UNION ALL."),
    _case("QUALIFY", r" QUALIFY ", ("DuckDB",), "put the query with its window function into FROM (…), and filter it with WHERE outside."),
    _case("ANY or ALL of a subquery", r" [=<>!]+ (ANY|ALL|SOME) \( ", (STANDARD,), "compare with a subquery that gives MIN or MAX, or write IN (…)."),
    _case("LATERAL", r" LATERAL (\( )?", (STANDARD,)),
    _case("APPLY", r" (CROSS|OUTER) APPLY ", (TSQL, ORACLE)),
    _case("PIVOT", r" (PIVOT|UNPIVOT) \( ", (TSQL, ORACLE, "DuckDB")),
    _case("CONNECT BY", r" (CONNECT BY|START WITH) ", (ORACLE,)),
    _case("DISTINCT ON", r" DISTINCT ON \( ", (POSTGRES, "DuckDB")),
    _case("~ with a pattern", r" (! )?~ (\* )?' ", (POSTGRES, "DuckDB"), "there is LIKE, with % and _, and GLOB, with * and ?."),
    _case("REGEXP", r" REGEXP ", (MYSQL,)),
    _case("A name in square brackets", r" (FROM|JOIN|SELECT|BY|,|\.|AS) \[ \w+( \w+)* \] ", (TSQL, "SQLite")),
    _case("The outer join sign (+)", r" \( \+ \) ", (ORACLE,), "write LEFT JOIN … ON."),
    _case("<=>", r" <= > ", (MYSQL,), "IS compares two values so that NULL equals NULL."),
    _case("&&", r" & & ", (MYSQL,), "conditions are joined by AND."),
    _case("DIV", r" DIV ", (MYSQL,), "a / b divides whole numbers without a rest."),
    _case("XOR", r" XOR (?!\( )", (MYSQL,), "(a) <> (b) is true where one of two conditions holds."),
    _case("^ as a power", r" \^ ", (POSTGRES, "DuckDB"), "a power is written POWER(a, b)."),
    _case("|| between conditions", r" (?:[=<>]+|LIKE) [\w#'\".]+ \|\| [\w\"]+(?: \. [\w\"]+)? (?:[=<>]+|IS|IN|LIKE|BETWEEN) ", (MYSQL,), "|| joins texts: conditions are joined by OR."),
    _case("ANTI JOIN", r" (LEFT )?(ANTI|SEMI) JOIN ", ("DuckDB",)),
    _case("* EXCLUDE", r" \* (EXCLUDE|EXCEPT|REPLACE) \( ", ("DuckDB",), "the columns are named one by one."),
    _case("FROM without SELECT", r"^ FROM ", ("DuckDB",), "a query begins with SELECT: SELECT * FROM …"),
    _case("TABLE as a query", r"^ TABLE [\w\"]+ ", (POSTGRES, "MySQL"), "a query begins with SELECT: SELECT * FROM …"),
    _case("OVERLAY … PLACING", r" OVERLAY \( [^()]* PLACING ", (STANDARD, POSTGRES), "write SUBSTR(…) || text || SUBSTR(…)."),
    _case("INSERT as a function", r" INSERT \( ", (MYSQL, "Db2"), "write SUBSTR(…) || text || SUBSTR(…)."),
    _case("PERCENTILE_CONT … WITHIN GROUP", r" PERCENTILE_(CONT|DISC) \( [^()]* \) WITHIN GROUP (\( )?", (STANDARD, POSTGRES), "the median is MEDIAN(x), and other parts PERCENTILE_CONT(x, 0.25)."),
    _case("CHAR as a function", r"(?<! AS) CHAR \( [^()]* \) ", (TSQL, MYSQL, "SQLite")),
    _case("CAST(x AS TEXT)", r" CAST \( .{1,60}? AS (TEXT|VARCHAR|STRING|BOOLEAN|BOOL|BIGINT|SMALLINT|NUMERIC|REAL|TIMESTAMP) ", (STANDARD, POSTGRES, "SQLite")),
    _case("IS DISTINCT FROM", r" IS (NOT )?DISTINCT FROM ", (STANDARD, POSTGRES)),
    _case("MEDIAN without OVER", r" MEDIAN \( [^()]* \) (?!OVER )", (ORACLE, "DuckDB")),
    _case("CURRENT DATE in two words", r" CURRENT (DATE|TIME|TIMESTAMP) ", ("Db2",), "it is one word: CURRENT_DATE, CURRENT_TIMESTAMP."),
    _case("WITH UR", r" WITH (UR|CS|RS|RR) $", ("Db2",), "an answer only reads: leave it out."),
    _case("MOD between two values", r" [\w\")#]+ MOD [\w\"(#]", (MYSQL,), "the rest of a division is a % b."),
    _case("SUBSTRING … FROM", r" SUBSTRING \( [^)]* FROM ", (STANDARD,), "write SUBSTR(text, start, length)."),
    _case("TRIM … FROM", r" TRIM \( (BOTH|LEADING|TRAILING|') ", (STANDARD,), "write TRIM(text), LTRIM(text) or RTRIM(text), with the characters as a second argument."),
    _case("POSITION … IN", r" POSITION \( [^()]*? IN [\w\"']+ ", (STANDARD,), "write INSTR(text, part)."),
    _case("TRY_CAST", r" (TRY_CAST|SAFE_CAST) \( ([^()]{1,60}? AS \w+ )?", (TSQL, "DuckDB"), "write CAST(x AS type): what is no number becomes 0."),
    _case("CONVERT", r" (TRY_)?CONVERT \( ", (TSQL, MYSQL), "write CAST(x AS type)."),
    _case("CURRENT_DATE()", r" CURRENT_(DATE|TIME|TIMESTAMP) \( ", (MYSQL,), "CURRENT_DATE and CURRENT_TIMESTAMP stand without parentheses."),
    _case("WITH (NOLOCK)", r" WITH \( \w+ \) ", (TSQL,), "there are no hints for tables: leave it out."),
    _case("FOR UPDATE", r" FOR (UPDATE|SHARE) ", (STANDARD, POSTGRES), "rows are not locked: leave it out."),
    _case("SELECT … INTO", r" SELECT [^;]* INTO \w+ FROM ", (TSQL,), "an answer only reads: leave INTO out."),
    _case("A name of three parts", r" [\w\"]+ \. [\w\"]+ \. [\w\"]+ ", (TSQL,), "a column is table.column, and a table its name alone."),
    _case("LIMIT ALL", r" LIMIT ALL ", (POSTGRES,), "leave LIMIT out to get all rows."),
    _case("IF … THEN", r" (ELSE ?IF|ELSIF) ", ("procedures",), "a CASE has further branches by WHEN … THEN …, and ELSE once, at its end."),
    _case("SHOW or DESCRIBE", r"^ (SHOW|DESCRIBE|DESC) ", (MYSQL, ORACLE), "tables and columns are not asked for: they stand beside the editor, with their types and keys."),
    _case("ISNULL(a, b)", r" ISNULL \( ", (TSQL, MYSQL), "write COALESCE(a, b), and a IS NULL for ISNULL(a)."),
    _case("INTERVAL 1 DAY", r" INTERVAL # \w+ ", (MYSQL, "DuckDB")),
    _case("GROUP BY ALL", r" (GROUP|ORDER) BY ALL ", ("DuckDB",)),
    _case("CONVERT(type, x)", r" CONVERT \( (N?VARCHAR|INT|INTEGER|FLOAT|MONEY|REAL|BIGINT|TEXT)( \( # \))? , ", (TSQL,)),
    _case("LIMIT", r" LIMIT # ", (MYSQL, POSTGRES, "SQLite")),
    _case("LIMIT n, m", r" LIMIT # , # ", (MYSQL, "SQLite")),
    _case("A name in backquotes", r" ` ", (MYSQL,)),
    _case("==", r" (==|= =) ", ("SQLite", "DuckDB")),
    _case("NULLS FIRST", r" NULLS (FIRST|LAST) ", (STANDARD, POSTGRES)),
    _case("FILTER", r" \) FILTER \( ", (STANDARD, POSTGRES)),
    _case("FULL JOIN", r" FULL (OUTER )?JOIN ", (STANDARD,)),
    _case("INTERVAL '…'", r" INTERVAL ' ", (POSTGRES, STANDARD)),
    _case("GLOB", r" GLOB ", ("SQLite",)),
    _case("IS NOT IN", r" IS (NOT )?(IN|LIKE|BETWEEN) ", (), "IS stands before NULL: leave it out before IN, LIKE and BETWEEN."),
    _case("= IN", r" [=<>]+ (IN|LIKE|BETWEEN|IS) ", (), "a comparison has one operator: leave the sign out before IN, LIKE, BETWEEN and IS."),
    _case("=<", r" (= <|=<) ", (), "less than or equal is written <=."),
    _case("=>", r" (= >|=>) ", (), "greater than or equal is written >=."),
    _case("=!", r" (= !|! =) ", (), "not equal is written <> or !=."),
    _case("ASCENDING", r" (ASCENDING|DESCENDING) ", (), "an order is ASC or DESC."),
    _case("BETWEEN … TO", r" BETWEEN (- )?[\w#'\"]+ (TO|,|OR) ", (), "the bounds are joined by AND: BETWEEN 1 AND 5."),
    _case("A pattern without quotes", r" (LIKE|GLOB) (?:[%*_]( \w+ [%*_])?|\w+ [%*](?= (?:AND|OR|GROUP|ORDER|LIMIT|\)|;) | $))", (), "a pattern is text and stands in single quotes: LIKE '%a%'."),
    _case("COUNT *", r" COUNT \* ", (), "an aggregate has its argument in parentheses: COUNT(*)."),
    _case("COUNT DISTINCT", r" (COUNT|SUM|AVG) DISTINCT ", (), "DISTINCT stands inside the parentheses: COUNT(DISTINCT x)."),
    _case("ORDER BY DESC", r" ORDER BY (DESC|ASC) [\w\"(]", (), "DESC stands after its key: ORDER BY x DESC."),
    _case("ORDER without BY", r" (ORDER|GROUP|PARTITION) (?!BY )[\w\"]+ ", (), "these are two words: ORDER BY, GROUP BY, PARTITION BY."),
    _case("NOT before =", r" NOT (=|<|>|<=|>=) ", (), "not equal is written <>."),
    _case("LIMIT, OFFSET", r" LIMIT # , OFFSET ", (), "there is no comma before OFFSET: LIMIT n OFFSET m."),
    _case("FETCH FIRST without ONLY", r" FETCH (FIRST|NEXT) (# )?ROWS? (?!ONLY |WITH )", (), "FETCH FIRST ends with ONLY: FETCH FIRST 3 ROWS ONLY."),
    _case("LIKE >", r" (IS|LIKE|IN|BETWEEN) (NOT )?(=|<|>|<=|>=|<>|!=) ", (), "a comparison has one operator: leave IS, LIKE, IN or BETWEEN out before a sign."),
    _case("CONTAINS", r" [\w\")]+ (CONTAINS|INCLUDES|(STARTS|ENDS|BEGINS) WITH) ' ", (), "a part of a text is looked for with LIKE: x LIKE '%a%', x LIKE 'a%' at its beginning."),
    _case("SORT BY", r" SORT BY ", (), "rows are sorted by ORDER BY."),
    _case("A comma before DESC", r" , (DESC|ASC) (?=$|[,;)]|LIMIT )", (), "ASC and DESC stand directly after their key, with no comma between: ORDER BY x DESC."),
    _case("EXISTS without parentheses", r"(?<! IF)(?<! IF NOT) EXISTS (?!SELECT |WITH |VALUES )\w", (), "EXISTS takes a query in parentheses: EXISTS (SELECT …)."),
    _case("UPPER name", r" (UPPER|LOWER|LENGTH|ROUND|ABS|TRIM|SUM|AVG|MIN|MAX) \w+ ([=<>]|LIKE |IN )", (), "a function takes its values in parentheses: UPPER(x)."),
    _case("SELECT without columns", r" SELECT FROM ", (POSTGRES,), "SELECT is followed by what is to be shown: columns, or * for all of them."),
)  # fmt: skip
"""How whole forms are written elsewhere, or by slip."""

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
)
FUNCTIONS: Final[dict[str, tuple[tuple[str, ...], Mapping[str, str]]]] = {
    name: (right_in, ({"sqlite": sqlite} if sqlite else {}) | FUNCTIONS_ELSEWHERE.get(name, {}))
    for name, right_in, sqlite in (*_FUNCTIONS, *_OF_SQLITE)
}
"""Functions by their names: the dialects that have them, and what each engine has instead."""

_TIME_NOW: Final = "CURRENT_TIMESTAMP is the time now"
_PSEUDO_COLUMNS: Final[dict[str, tuple[tuple[str, ...], Mapping[str, str]]]] = {
    "rownum": ((ORACLE,), dict.fromkeys(ENGINES, "LIMIT n stands at the end of the query, and ROW_NUMBER() OVER (ORDER BY …) numbers rows")),
    "sysdate": ((ORACLE,), dict.fromkeys(ENGINES, _TIME_NOW)),
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
        f"{name.upper()} with such values belongs to {_dialects(found[0])}. In {label}, one writes "
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
        return f"It belongs to {_dialects(right_in)}; there is nothing like it here."
    return f"It belongs to {_dialects(right_in)}; here one writes {instead[engine]}."


def _dialects(right_in: tuple[str, ...]) -> str:
    return listed([name for one in right_in for name in one.split(" and ")])


def form_at(skeleton: Skeleton, at: int, engine: str, label: str) -> str | None:
    """The hint for a form that holds the token at an index, or ends just before it."""
    for form, start, end in found_forms(skeleton, engine):
        if start <= at <= end:
            return form.says(engine, label)
    return None


def slip_in(skeleton: Skeleton, engine: str, label: str) -> str | None:
    """The hint for a form that is right nowhere, wherever it stands in a text."""
    for form, _, _ in found_forms(skeleton, engine):
        if not form.right_in:
            return form.says(engine, label)
    return None


def found_forms(skeleton: Skeleton, engine: str) -> Iterator[tuple[Spelling, int, int]]:
    """The forms of other dialects in a text, each with its first token and the one after its last."""
    for form in FORMS:
        if engine in form.instead:
            for start, end in skeleton.spans(form.pattern):
                yield form, start, end
