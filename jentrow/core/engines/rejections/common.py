"""What engines reject in words of their own, and what is said of it whichever engine it was."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import Final

from jentrow.core.engines.labels import STAND_INS
from jentrow.core.engines.rejections.clauses import quote_inside_text
from jentrow.core.engines.rejections.conditions import half_condition_by, quantified_list
from jentrow.core.engines.rejections.kinds import kind_of, kinds_in
from jentrow.core.engines.rejections.names import (
    DISTINCT_OF_ONE,
    named_aggregate_in_where,
    no_column,
)
from jentrow.core.engines.rejections.rejected import Explanation, Rejected
from jentrow.core.engines.rejections.syntax import syntax_hint, unfinished_hint
from jentrow.core.sql.sources import Catalogue
from jentrow.core.sql.spellings.functions import other_meaning
from jentrow.core.sql.spellings.spellings import form_at

Explained = Callable[[Rejected], Explanation]
Pattern = tuple[str, Explained]

UNKNOWN: Final = "The engine says: {words}."


def plain(message: str, near: str = "") -> Explained:
    """An explanation that is always the same; {names} of the engine's words are filled in."""

    def explained(one: Rejected) -> Explanation:
        pieces = {name: value.strip() for name, value in one.found.items()}
        pieces["label"] = one.label
        return Explanation("sql.runtime", message.format(**pieces), near.format(**pieces))

    return explained


def first_of(
    patterns: Sequence[tuple[re.Pattern[str], Explained]],
    engine: str,
    words: str,
    index: int | None,
    sql: str,
    catalogue: Catalogue,
) -> Explanation:
    """What the first pattern says that an engine's words fit."""
    for pattern, explained in patterns:
        found = pattern.fullmatch(words)
        if found:
            pieces = {name: value or "" for name, value in found.groupdict().items()}
            return explained(Rejected(engine, pieces, sql, index, catalogue))
    return Explanation(
        "sql.runtime", UNKNOWN.format(words=words.strip().split("\n")[0].rstrip(".!"))
    )


def compiled(patterns: Sequence[Pattern]) -> list[tuple[re.Pattern[str], Explained]]:
    """Patterns made ready; letter case is the engine's own."""
    return [(re.compile(pattern, re.DOTALL), explained) for pattern, explained in patterns]


def syntax(one: Rejected) -> Explanation:
    """A text that the engine cannot read from a word on: ``near``."""
    near = one.found["near"]
    hint = syntax_hint(one, near)
    if one.engine in STAND_INS and near not in one.sql:  # a word of the translation
        return Explanation("sql.syntax", f"{one.label} cannot read the translated query.{hint}")
    message = f"The query cannot be read from {near!r} on.{hint}"
    return Explanation("sql.syntax", message, near, one.index)


def incomplete(one: Rejected) -> Explanation:
    """A text that breaks off."""
    return Explanation(
        "sql.syntax",
        f"The query breaks off: something is missing at its end.{unfinished_hint(one)}",
    )


def unclosed(one: Rejected) -> Explanation:
    """A text or name whose quote is never closed."""
    sign = one.sql[one.index] if one.index is not None and one.index < len(one.sql) else "'"
    sign = sign if sign in "'\"`" else "'"
    inside = quote_inside_text(one.skeleton, range(1, len(one.skeleton.tokens)))
    message = f"A text or name that begins with {sign} is never closed.{inside and f' {inside}'}"
    return Explanation("sql.syntax", message, index=one.index)


def not_grouped(one: Rejected) -> Explanation:
    """A column that stands beside an aggregate, or outside of the groups: ``name``."""
    name = one.found["name"].strip('"')
    if name.rpartition(".")[2].lower() not in one.names:
        return no_column(one)
    return Explanation(
        "sql.runtime",
        f"{name} is neither grouped nor inside an aggregate, so that a group has several values of it: "
        f"put it into GROUP BY, or into an aggregate such as MIN({name}).",
        name.rpartition(".")[2],
    )


def aggregate_in(one: Rejected) -> Explanation:
    """An aggregate in a clause that has none: ``clause``."""
    named = named_aggregate_in_where(one)
    if named is not None:
        return named
    clause = one.found.get("clause", "").upper() or "WHERE"
    where = "that clause" if clause.startswith(("JOIN", "FROM")) else clause
    return Explanation(
        "sql.runtime",
        f"An aggregate cannot stand in {where}. A condition on an aggregate belongs in HAVING, and one "
        "aggregate cannot stand inside another.",
    )


def nested_aggregate(one: Rejected) -> Explanation:
    """An aggregate inside another."""
    return Explanation(
        "sql.runtime",
        "One aggregate cannot stand inside another: work the inner one out in FROM (…), by groups, and "
        "take the outer one of that.",
    )


def window_in(one: Rejected) -> Explanation:
    """A window function in a clause that has none."""
    return Explanation(
        "sql.runtime",
        "A window function stands only in SELECT and ORDER BY: to filter by it, put the query into a "
        "subquery.",
    )


def window_without_over(one: Rejected) -> Explanation:
    """A window function without OVER."""
    name = one.found.get("name", "").upper()
    which = f"The window function {name}()" if name else "A window function"
    return Explanation("sql.runtime", f"{which} needs OVER (…).", one.found.get("name", ""))


def operands(one: Rejected) -> Explanation:
    """A set operation of queries with different numbers of columns: ``operation``."""
    operation = one.found.get("operation", "").upper() or "the set operation"
    return Explanation(
        "sql.runtime",
        f"The queries to the left and right of {operation} must have the same number of columns.",
        one.found.get("operation", ""),
    )


def scalar_rows(one: Rejected) -> Explanation:
    """A subquery that stands for one value and gives several rows."""
    return Explanation(
        "sql.runtime",
        "A subquery that stands for one value gives several rows: compare with IN, ANY or ALL, or make "
        "it give one row, with an aggregate or a further condition.",
    )


def scalar_columns(one: Rejected) -> Explanation:
    """A subquery with several columns where one value is due; a list that is read as one."""
    said = quantified_list(one.skeleton)
    if said:
        return Explanation("sql.runtime", said)
    return Explanation("sql.runtime", "A subquery gives several columns where one value is due.")


def position(one: Rejected) -> Explanation:
    """A sort key or grouping key by its place, outside of the select list."""
    clause = (one.found.get("clause", "").upper() or "ORDER").removesuffix(" BY") + " BY"
    return Explanation(
        "sql.runtime", f"A key of {clause} is a position outside the select list.", clause
    )


def types_differ(one: Rejected) -> Explanation:
    """Values of two kinds that are compared or combined: ``one``, ``other``, perhaps ``sign``."""
    at = one.skeleton.token_holding(one.index)
    slip = form_at(one.skeleton, at, one.engine, one.engine_label) if at is not None else None
    if slip:
        return Explanation("sql.runtime", slip, one.found.get("sign", ""))
    sign = _SIGNS.get(one.found.get("sign", ""), one.found.get("sign", ""))
    if one.engine in STAND_INS:  # LIKE that minds no case is ILIKE there
        sign = sign.replace("ILIKE", "LIKE")
    between = f"{sign} does not take" if sign else "These do not go together:"
    return Explanation(
        "sql.runtime",
        f"{between} {kind_of(one.found['one'])} and {kind_of(one.found['other'])}: {one.label_inside} changes no type "
        "by itself here. CAST(x AS type) does.",
        sign,
    )


_SIGNS: Final = {"~~": "LIKE", "!~~": "NOT LIKE", "~~*": "ILIKE", "!~~*": "NOT ILIKE"}


def wrong_arguments(one: Rejected) -> Explanation:
    """A function that is there, and takes other values: ``name``, perhaps ``types``."""
    name = one.found["name"]
    if f" {name.upper()} ( DISTINCT " in one.skeleton.text and "," in one.found.get("types", ""):
        return Explanation("sql.object", DISTINCT_OF_ONE, name)
    meaning = other_meaning(name, one.engine, one.engine_label)
    if meaning:
        return Explanation("sql.object", meaning, name)
    types = kinds_in(one.found.get("types", ""))
    given = f" It gets {types}." if types else ""
    # The stand-in may call it otherwise, or with more values, than the text does.
    is_own = one.engine not in STAND_INS or name.upper() in one.sql.upper()
    called = name.upper() if is_own else "A function of the translated query"
    return Explanation(
        "sql.object",
        f"{called} takes other values, or another number of them.{given} CAST(x AS type) changes "
        "a type.",
        name if is_own else "",
    )


def no_value_of(one: Rejected) -> Explanation:
    """A text that is no value of a type: ``text`` and ``type``."""
    return Explanation(
        "sql.runtime",
        f"{one.found['text']!r} is no {_TYPE_WORDS.get(one.found['type'].lower(), one.found['type'].lower())}.",
        one.found["text"],
    )


NOT_LISTED: Final = plain(
    "{text!r} is none of the values that such a column may have; a comparison takes no other, either.",
    "{text}",
)
"""A text that an enumeration does not list."""

_TYPE_WORDS: Final = {
    "integer": "whole number", "int32": "whole number", "int64": "whole number",
    "bigint": "whole number", "numeric": "number", "decimal": "number", "double precision": "number", "double": "number",
    "real": "number", "boolean": "true or false", "bool": "true or false", "date": "date",
    "timestamp": "date and time", "timestamp with time zone": "date and time", "time": "time of day",
    "interval": "interval", "uuid": "UUID", "json": "JSON", "jsonb": "JSON",
}  # fmt: skip


def no_type(one: Rejected) -> Explanation:
    """A type that there is not: a word before a text is read as one, as in DATE '2026-01-31'."""
    name = one.found["name"]
    joining = half_condition_by(one.skeleton, name.upper())
    if name.lower() in one.names:
        message = f'A name that SELECT gives stands in double quotes, or in none: {name} AS "…".'
    else:
        there = _TYPES_HERE.get(name.lower(), {}).get(one.dialect, "")
        instead = f" Here one writes {there}." if there else ""
        message = joining or f"{one.label} has no type {name}.{instead}"
    return Explanation("sql.runtime", message, name)


_INTEGER: Final = dict.fromkeys(("duckdb", "postgres"), "BIGINT")
_TEXT: Final = {"postgres": "TEXT", "mysql": "CHAR"}
_TYPES_HERE: Final[dict[str, dict[str, str]]] = {
    "string": _TEXT,
    "nvarchar": _TEXT,
    "varchar2": _TEXT | {"duckdb": "VARCHAR"},
    "nvarchar2": _TEXT | {"duckdb": "VARCHAR"},
    "unsigned": _INTEGER,
    "signed": _INTEGER,
    "tinyint": {"postgres": "SMALLINT", "mysql": "SIGNED"},
    "number": {"duckdb": "DECIMAL", "postgres": "NUMERIC", "mysql": "DECIMAL"},
    "double": {"postgres": "DOUBLE PRECISION"},
    "datetime": {"postgres": "TIMESTAMP"},
    "blob": {"postgres": "BYTEA"},
    "bit": {"mysql": "SIGNED"},
}
"""Types of other dialects, and what an engine that has none of that name has instead."""


def not_a_condition(one: Rejected) -> Explanation:
    """A clause that wants true or false: ``type``, and perhaps ``clause``."""
    clause = one.found.get("clause", "").rpartition("/")[2].upper()
    return Explanation(
        "sql.runtime",
        f"{clause or 'A clause'} wants a condition, which is true or false, and gets a value of the "
        f"type {one.found['type'].lower()}: compare it with something.",
        clause,
    )


def one_sided(one: Rejected) -> Explanation:
    """An operator with one value, ``one``, which it does not take: ``sign``."""
    sign = one.found["sign"]
    if sign in ("-", "+"):
        said = f"{sign} before a value takes a number, and gets {kind_of(one.found['one'])}."
    else:
        said = f"{sign} stands between two values, and there is none before it."
    return Explanation("sql.runtime", said, sign)


def no_list(one: Rejected) -> Explanation:
    """A value that is read as a list: after ANY or ALL a query is meant."""
    said = quantified_list(one.skeleton)
    if not said and " UNNEST " not in one.skeleton.text:
        said = "ANY and ALL take a query: (SELECT …)."
    return Explanation("sql.runtime", said or "UNNEST takes a list, and gets a single value.")


CHAINED: Final = (
    "A comparison has two sides, and gives true or false: two comparisons are joined by AND, as in "
    "a < b AND b < c."
)
NO_SUCH_WINDOW: Final = plain(
    "No window is called {name}: WINDOW {name} AS (…) names one, at the end of the query, before ORDER BY.",
    "{name}",
)
NO_DEFAULT: Final = plain(
    "DEFAULT is a word of SQL, and no value in a query: a column of that name stands in double quotes, "
    '"default".',
    "default",
)
COUNTS_NOTHING: Final = plain(
    "Nothing stands in the parentheses: {name}(*) counts rows, {name}(x) the values of x.", "{name}"
)
NO_WHOLE_NUMBER: Final = plain("{clause} takes a whole number.", "{clause}")
TOO_MANY_PARTS: Final = plain("A name has too many parts: a column is called table.column.")
WHOLE_ROW: Final = plain(
    "A whole row, or a structure, stands where one value is due: write a part of it, as in table.column."
)
NO_KEY: Final = plain(
    "{clause} takes a column, an expression or a place in the select list: a value that is written out is "
    "the same for every row. A name stands in no single quotes.",
    "{clause}",
)
STAR: Final = plain("* stands only in SELECT, alone or after a table's name, and in COUNT(*).", "*")
UNEQUAL_ROWS: Final = plain("Each row of VALUES must have as many values as the first.", "VALUES")
LIMIT_BELOW_ZERO: Final = plain("LIMIT and OFFSET take no number below 0.", "LIMIT")
UNEQUAL_NAMES: Final = plain("WITH names another number of columns than its query gives.", "WITH")
DIVISION_BY_ZERO: Final = plain(
    "Something is divided by zero: NULLIF(x, 0) makes the divisor NULL there, and the result too."
)
TOO_DEEP: Final = plain(
    "The query is nested too deep for the engine: take some of its parentheses away, and write long chains in parts."
)
TOO_MANY_TABLES: Final = plain(
    "Too many tables are joined: the engine takes {most} at most.", "JOIN"
)
OUT_OF_RANGE: Final = plain("A number is larger than its type holds: CAST(x AS a larger type).")
PLACE_FOR_A_VALUE: Final = plain(
    "The query holds a place for a value, such as ? or $1, which nobody fills in here. Write the value itself."
)
MISSING_IN_USING: Final = plain(
    "USING ({name}) wants a column of that name on both sides of the join.", "USING"
)
