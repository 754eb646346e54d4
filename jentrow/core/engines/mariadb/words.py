"""MariaDB's rejections in a learner's words."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

from jentrow.core.engines.rejections.common import (
    NO_SUCH_WINDOW,
    OUT_OF_RANGE,
    UNEQUAL_NAMES,
    UNEQUAL_ROWS,
    compiled,
    first_of,
    incomplete,
    no_value_of,
    not_grouped,
    operands,
    plain,
    position,
    scalar_columns,
    scalar_rows,
    syntax,
    types_differ,
    unclosed,
    window_in,
    window_without_over,
    wrong_arguments,
)
from jentrow.core.engines.rejections.names import ambiguous, no_column, no_function, no_table
from jentrow.core.engines.rejections.rejected import Explanation, Rejected
from jentrow.core.sql.skeleton import Skeleton
from jentrow.core.sql.sources import Catalogue, sources_in
from jentrow.core.sql.tokens import tokens_of


def explained(
    words: str, detail: str, index: int | None, sql: str, catalogue: Catalogue
) -> Explanation:
    """What MariaDB's words mean; ``detail`` is the number of its error."""
    return first_of(_PATTERNS, "mariadb", words, index, sql, catalogue)


def _syntax(one: Rejected) -> Explanation:
    """MariaDB quotes the text from where it stopped on."""
    rest = one.found["near"]
    if not rest:
        return incomplete(one)
    if rest[0] in "'\"`" and rest.count(rest[0]) == 1:
        at = one.sql.rfind(rest[0])
        return unclosed(Rejected(one.engine, {}, one.sql, at, one.catalogue))
    at = one.sql.rfind(rest)
    near = next(
        (rest[token.start : token.end] for token in tokens_of(rest[:200], one.dialect)), rest[:20]
    )
    # What it quotes goes on to the end of the text, unless that is far.
    is_rest = at >= 0 and (one.sql.endswith(rest) or one.sql.find(rest) == at)
    index = at if is_rest else None
    return syntax(Rejected(one.engine, {"near": near}, one.sql, index, one.catalogue))


def _unknown_column(one: Rejected) -> Explanation:
    """MariaDB says in which clause a column stands, and not where."""
    clause = one.found["clause"].split()[0].upper()
    owner, _, name = one.found["name"].rpartition(".")
    words = one.skeleton
    begun = -1 if clause in ("SELECT", "FIELD") else _first(words, clause, -1)
    at = None if begun is None else _first(words, (owner or name).upper(), begun)
    here = one if at is None else replace(one, index=words.tokens[at].start)
    said = no_column(here)
    sources = sources_in(words, one.catalogue)
    columns = {column.lower() for it in sources for column in one.catalogue[it.table]}
    if clause == "HAVING" and name.lower() in columns:
        message = (
            f"HAVING sees what SELECT gives and GROUP BY groups by, and {name} is neither: a condition "
            "on rows belongs in WHERE."
        )
        said = replace(said, message=message)
    return replace(said, index=here.index)


def _first(words: Skeleton, written: str, after: int) -> int | None:
    """The first token after a place that is this word or name, in capitals."""
    return next(
        (
            at
            for at in range(after + 1, len(words.tokens))
            if words.written(at).strip("`").upper() == written
        ),
        None,
    )


_PATTERNS: Final = compiled(
    (
        (r"Table '(?:.+?\.)?(?P<name>[^.']+)' doesn't exist", no_table),
        (r"Unknown table '(?P<name>.+)'", no_table),
        (r"Unknown column '\d+' in '(?P<clause>(?i:order|group)).*'", position),
        (r"Unknown column '(?P<name>.+)' in '(?P<clause>.*)'", _unknown_column),
        (r"Column '(?P<name>.+)' in .* is ambiguous", ambiguous),
        (r"FUNCTION (?:.+\.)?(?P<name>\w+) does not exist", no_function),
        (r"execute command denied to user .* for routine '(?:.+\.)?(?P<name>\w+)'", no_function),
        (r"Incorrect parameter count in the call to native function '(?P<name>\w+)'", wrong_arguments),
        (r"Incorrect parameters in the call to (?:native|stored) function [`'](?P<name>\w+)[`']", wrong_arguments),
        (
            r"You have an error in your SQL syntax; check the manual that corresponds to your .* "
            r"for the right syntax to use near '(?P<near>.*)' at line \d+",
            _syntax,
        ),
        (
            r"Invalid use of group function",
            plain(
                "An aggregate stands where it cannot: a condition on one belongs in HAVING, not in WHERE, "
                "and one aggregate cannot stand inside another."
            ),
        ),
        (
            r"'(?P<name>.+)' isn't in GROUP BY|(?:Expression #\d+ of .*?contains nonaggregated column '|.*nonaggregated column ')(?P<other>[^']+)'.*",
            lambda one: not_grouped(
                Rejected(
                    one.engine,
                    {"name": (one.found["name"] or one.found["other"]).rpartition(".")[2]},
                    one.sql, one.index, one.catalogue,
                )
            ),
        ),
        (r"Window function is allowed only in SELECT list and ORDER BY clause", window_in),
        (r"Window functions? .*not allowed.*", window_in),
        (r"'?(?P<name>\w+)'? .*without OVER.*", window_without_over),
        (r"The used SELECT statements have a different number of columns", operands),
        (r"Operand should contain \d+ column\(s\)", scalar_columns),
        (r"Illegal parameter data types \w+ and row for operation .*", scalar_columns),
        (
            r"Illegal parameter data types (?P<one>[\w ]+) and (?P<other>[\w ]+) for operation '(?P<sign>.+)'",
            types_differ,
        ),
        (r"Window specification with name '(?P<name>.+)' is not defined", NO_SUCH_WINDOW),
        (r"The used table value constructor has a different number of values", UNEQUAL_ROWS),
        (r"WITH column list and SELECT field list have different column counts", UNEQUAL_NAMES),
        (r"Subquery returns more than 1 row", scalar_rows),
        (r"Incorrect (?P<type>\w+) value: '(?P<text>.*)'.*", no_value_of),
        (r"Truncated incorrect (?P<type>\w+) value: '(?P<text>.*)'", no_value_of),
        (r".* value is out of range in '.*'", OUT_OF_RANGE),
        (
            r"Not unique table/alias: '(?P<name>.+)'",
            plain("Two tables in FROM are called {name}: give each an alias of its own.", "{name}"),
        ),
        (
            r"Every derived table must have its own alias",
            plain("A subquery in FROM needs a name after its parenthesis: (…) AS part."),
        ),
        (
            r"No tables used",
            plain("* means all columns of the tables in FROM, and there is no FROM.", "*"),
        ),
        (
            r"Mixing of GROUP columns \(.*\) with no GROUP columns is illegal if there is no GROUP BY clause",
            plain("A column stands beside an aggregate without GROUP BY: group by it, or put it into an aggregate."),
        ),
        (
            r"Expression #\d+ of ORDER BY contains aggregate function and applies to .*",
            plain("Combined queries are sorted only by columns that they give.", "ORDER BY"),
        ),
        (
            r"Table '(?P<name>.+)' from one of the SELECTs cannot be used in .*",
            plain("Combined queries are sorted only by columns that they give, without a table's name.", "ORDER BY"),
        ),
        (
            r"Illegal mix of collations .*",
            plain("Two texts are compared that sort by different rules: COLLATE says which is meant."),
        ),
        (
            r"This version of .* doesn't yet support '(?P<what>.+)'",
            plain("{label} does not have this: {what}."),
        ),
        (
            r"(?:Got a packet bigger than|Regex error).*",
            plain("A value is too large, or a pattern cannot be read."),
        ),
        (
            r"No database selected",
            plain("A table is named without its sample: write its name alone."),
        ),
    )
)  # fmt: skip
