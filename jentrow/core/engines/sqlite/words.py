"""SQLite's rejections in a learner's words, with the place in the text."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Final

from jentrow.core.engines.rejections.changes import (
    A_VIEW,
    BREAKS_A_RULE,
    NEEDS_A_VALUE,
    NO_PARTNER,
    NOT_UNIQUE,
    THERE_ALREADY,
    TWICE_A_COLUMN,
    WORKED_OUT,
)
from jentrow.core.engines.rejections.common import (
    MISSING_IN_USING,
    TOO_DEEP,
    TOO_MANY_TABLES,
    Explained,
    incomplete,
    plain,
    syntax,
)
from jentrow.core.engines.rejections.joins import comma_before_join
from jentrow.core.engines.rejections.names import (
    DISTINCT_OF_ONE,
    ambiguous,
    function_arguments,
    named_aggregate_in_where,
    no_column,
    no_function,
    no_table,
)
from jentrow.core.engines.rejections.rejected import Explanation, Rejected
from jentrow.core.engines.rejections.syntax import token_hint
from jentrow.core.engines.sqlite.capabilities import capabilities
from jentrow.core.sql.sources import Catalogue


def explained(
    words: str, detail: str, index: int | None, sql: str, catalogue: Catalogue
) -> Explanation:
    """What SQLite's words mean; ``detail`` is empty."""
    for pattern, explanation_of in _PATTERNS:
        found = pattern.fullmatch(words)
        if found:
            functions = frozenset(capabilities().functions)
            pieces = {name: value or "" for name, value in found.groupdict().items()}
            return explanation_of(Rejected("sqlite", pieces, sql, index, catalogue, functions))
    return Explanation("sql.runtime", f"The engine says: {words}.")


def _token(one: Rejected) -> Explanation:
    token = one.found["token"]
    if token[:1] in "'\"`":
        return Explanation(
            "sql.syntax", f"A text or name that begins with {token[0]} is never closed.", token
        )
    hint = token_hint(one)
    return Explanation("sql.syntax", f"{token!r} is not a word or sign of SQL.{hint}", token)


def _aggregate(one: Rejected) -> Explanation:
    named = named_aggregate_in_where(one)
    if named is not None:
        return named
    name = one.found["name"].upper()
    return Explanation(
        "sql.runtime",
        f"{name}() cannot stand here. A condition on an aggregate belongs in HAVING, not in WHERE, "
        "and one aggregate cannot stand inside another.",
        one.found["name"],
    )


def _operands(one: Rejected) -> Explanation:
    return Explanation(
        "sql.runtime",
        f"The queries to the left and right of {one.found['operation']} must have the same number of "
        "columns.",
        one.found["operation"],
    )


def _clause_before(one: Rejected) -> Explanation:
    clause, operation = one.found["clause"], one.found["operation"]
    return Explanation(
        "sql.runtime",
        f"{clause} stands before {operation}; it belongs after the last of the combined queries, "
        "once for all of them.",
        clause,
    )


def _compound_order(one: Rejected) -> Explanation:
    return Explanation(
        "sql.runtime",
        f"The {one.found['which']} sort key matches no column of the result: combined queries can be "
        "ordered only by columns that they give.",
        "ORDER BY",
    )


def _having(one: Rejected) -> Explanation:
    return Explanation(
        "sql.runtime",
        "HAVING is for groups: this query has no GROUP BY and no aggregate. A condition on rows "
        "belongs in WHERE.",
        "HAVING",
    )


def _scalar(one: Rejected) -> Explanation:
    return Explanation(
        "sql.runtime",
        f"A subquery gives {one.found['count']} columns where {one.found['due']} {'is' if one.found['due'] == '1' else 'are'} due.",
    )


def _by_number(one: Rejected) -> Explanation:
    return Explanation(
        "sql.runtime",
        f"The {one.found['which']} term of {one.found['clause']} is a position outside the select list "
        f"(1 to {one.found['last']}).",
        one.found["clause"],
    )


def _window(one: Rejected) -> Explanation:
    return Explanation(
        "sql.runtime",
        f"The window function {one.found['name'].upper()}() needs OVER (…), and stands only in SELECT and "
        "ORDER BY: to filter by it, put the query into a subquery.",
        one.found["name"],
    )


def _unknown_join(one: Rejected) -> Explanation:
    """After a comma SQLite reads the first word of a join as a table's name."""
    kind = one.found["kind"]
    comma = comma_before_join(one.skeleton, range(len(one.skeleton.tokens)))
    known = "it is JOIN, LEFT JOIN, RIGHT JOIN, FULL JOIN or CROSS JOIN."
    return Explanation("sql.syntax", comma or f"There is no join called {kind}: {known}", kind)


_PATTERNS: Final[Sequence[tuple[re.Pattern[str], Explained]]] = [
    (re.compile(pattern, re.DOTALL), explanation_of)
    for pattern, explanation_of in (
        (r"no such table: (?P<name>.+)", no_table),
        (
            r"no such column: (?P<name>.+?)(?P<quoted> - should this be a string literal.*)?",
            no_column,
        ),
        (r"no such function: (?P<name>.+)", no_function),
        (r"wrong number of arguments to function (?P<name>.+)\(\)", function_arguments),
        (r"ambiguous column name: (?:.*\.)?(?P<name>.+)", ambiguous),
        (r'near "(?P<near>.*)": syntax error', syntax),
        (r"incomplete input", incomplete),
        (r'unrecognized token: "(?P<token>.*)"', _token),
        (r"misuse of aggregate:? (?:function )?(?P<name>\w+)\(\)", _aggregate),
        (r"misuse of window function (?P<name>\w+)\(\)", _window),
        (
            r"SELECTs to the left and right of (?P<operation>.+) do not have the same number of "
            r"result columns",
            _operands,
        ),
        (r"(?P<clause>.+) clause should come after (?P<operation>.+) not before", _clause_before),
        (
            r"(?P<which>\w+) ORDER BY term does not match any column in the result set",
            _compound_order,
        ),
        (r"HAVING clause on a non-aggregate query", _having),
        (r"sub-select returns (?P<count>\d+) columns - expected (?P<due>\d+)", _scalar),
        (
            r"(?P<which>\w+) (?P<clause>ORDER|GROUP) BY term out of range - should be between 1 and "
            r"(?P<last>\d+)",
            _by_number,
        ),
        (
            r"(?P<what>.+) aggregates must have exactly one argument",
            plain(DISTINCT_OF_ONE, "DISTINCT"),
        ),
        (
            r"(?:Incorrect number of bindings supplied|Statement has \d+ bindings).*",
            plain(
                "The query holds a ? or a name that begins with : or @ or $: that is a place for a value, which nobody fills in here. Write the value itself."
            ),
        ),
        (
            r"row value misused",
            plain(
                "Several values in parentheses stand where one value is due: (a, b) can be compared with another pair, or stand in IN, and nowhere else."
            ),
        ),
        (
            r"Expression tree is too large.*",
            plain(
                "The query is nested too deep for the engine: write a long chain of OR as IN (…), and a long sum in parts."
            ),
        ),
        (r"parser stack overflow", TOO_DEEP),
        (
            r"too many terms in compound SELECT",
            plain("Too many queries are combined: the engine takes 500 at most.", "UNION"),
        ),
        (
            r"too many columns.*",
            plain("There are too many columns for the engine, which takes 2,000."),
        ),
        (r"at most (?P<most>\d+) tables in a join", TOO_MANY_TABLES),
        (
            r"no tables specified",
            plain("* means all columns of the tables in FROM, and there is no FROM.", "*"),
        ),
        (
            r"a JOIN clause is required before ON",
            plain("ON stands without a JOIN before it.", "ON"),
        ),
        (
            r"unknown join type: (?P<kind>.+)",
            _unknown_join,
        ),
        (
            r"a NATURAL join may not have an ON or USING clause",
            plain(
                "A NATURAL join finds its columns by their names: it has no ON and no USING.",
                "NATURAL",
            ),
        ),
        (
            r"cannot have both ON and USING clauses in the same join",
            plain("A join has ON or USING, not both.", "USING"),
        ),
        (
            r"cannot join using column (?P<name>.+) - column not present in both tables",
            MISSING_IN_USING,
        ),
        (
            r"no such window: (?P<name>.+)",
            plain(
                "There is no window called {name}: it is defined by WINDOW {name} AS (…) after HAVING.",
                "{name}",
            ),
        ),
        (
            r"DISTINCT is not supported for window functions",
            plain("A window function takes no DISTINCT.", "DISTINCT"),
        ),
        (
            r"FILTER clause may only be used with aggregate window functions",
            plain("FILTER belongs to aggregates: this function is none.", "FILTER"),
        ),
        (
            r"circular reference: (?P<name>.+)",
            plain(
                "{name} refers to itself: a query that does so begins with WITH RECURSIVE, and its first part must not.",
                "{name}",
            ),
        ),
        (
            r"multiple (?:recursive references|references to recursive table): (?P<name>.+)",
            plain("A recursive query may refer to {name} once in each of its parts.", "{name}"),
        ),
        (
            r"recursive aggregate queries not supported",
            plain("The recursive part of a query has no aggregate: put it outside."),
        ),
        (
            r"table (?P<name>\S+) has (?P<due>\d+) values for (?P<given>\d+) columns",
            plain(
                "{name} gives {due} values for {given} columns: there must be as many names as values.",
                "{name}",
            ),
        ),
        (
            r"(?P<given>\d+) values for (?P<due>\d+) columns",
            plain(
                "{given} values are given for {due} columns: there must be as many values as columns.",
                "VALUES",
            ),
        ),
        (
            r"table (?P<name>\S+) has (?P<due>\d+) columns but (?P<given>\d+) values were supplied",
            plain(
                "{name} has {due} columns, and {given} values are given: name the columns that they are for, or give one for each.",
                "{name}",
            ),
        ),
        (
            r"table (?P<name>\S+) has no column named (?P<column>\S+)",
            plain("{name} has no column {column}.", "{column}"),
        ),
        (
            r"all VALUES must have the same number of terms",
            plain("Each row of VALUES must have as many values as the first.", "VALUES"),
        ),
        (
            r"no such collation sequence: (?P<name>.+)",
            plain("There is no collation {name}: there are BINARY, NOCASE and RTRIM.", "{name}"),
        ),
        (
            r"ESCAPE expression must be a single character",
            plain("ESCAPE is followed by one character in quotes.", "ESCAPE"),
        ),
        (
            r"LIKE or GLOB pattern too complex",
            plain("The pattern is too long for the engine.", "LIKE"),
        ),
        (
            r"integer overflow",
            plain(
                "A result passes the largest whole number that there is: with x * 1.0 it is a number with a point."
            ),
        ),
        (r"malformed JSON", plain("A value is taken for JSON and is none.")),
        (
            r"UNIQUE constraint failed: (?P<what>.+)",
            NOT_UNIQUE,
        ),
        (
            r"NOT NULL constraint failed: (?P<what>.+)",
            NEEDS_A_VALUE,
        ),
        (
            r"CHECK constraint failed: (?P<what>.+)",
            BREAKS_A_RULE,
        ),
        (
            r"FOREIGN KEY constraint failed",
            NO_PARTNER,
        ),
        (r"datatype mismatch", plain("A key of whole numbers gets a value that is none.")),
        (
            r"cannot modify (?P<name>\S+) because it is a view",
            A_VIEW,
        ),
        (
            r"table (?P<name>\S+) already exists",
            plain("There is a table {name} already.", "{name}"),
        ),
        (
            r"there is already .+ named (?P<name>\S+)",
            THERE_ALREADY,
        ),
        (
            r"duplicate column name: (?P<name>.+)",
            TWICE_A_COLUMN,
        ),
        (
            r"cannot (?:INSERT into|UPDATE) generated column \"?(?P<name>[^\"]+)\"?",
            WORKED_OUT,
        ),
    )
]
