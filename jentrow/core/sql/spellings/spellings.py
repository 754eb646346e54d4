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
from jentrow.core.sql.spellings.dialect_names import (
    ENGINES,
    MYSQL,
    ORACLE,
    POSTGRES,
    STANDARD,
    TSQL,
    dialects_listed,
)
from jentrow.core.sql.spellings.elsewhere import FORMS_ELSEWHERE
from jentrow.core.sql.spellings.on_stand_ins import FORMS_ON_STAND_INS


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
        return f"{self.name} belongs to {dialects_listed(self.right_in)}. In {label}, {instead}"


_NO_ALL: Final = "INTERSECT and EXCEPT have no ALL: they always leave out repeated rows."


def _case(name: str, pattern: str, right_in: tuple[str, ...], sqlite: str = "") -> Spelling:
    """A form; a slip that is right nowhere is one on every engine."""
    instead = (
        dict.fromkeys(ENGINES, sqlite) if not right_in else {"sqlite": sqlite} if sqlite else {}
    )
    return Spelling(
        name,
        re.compile(pattern),
        right_in,
        instead | FORMS_ELSEWHERE.get(name, {}) | FORMS_ON_STAND_INS.get(name, {}),
    )


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
