"""SQLite's rejections in a learner's words, with the place in the text."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from difflib import get_close_matches
from typing import Final

from jentrow.core.comparison.findings import FindingCode
from jentrow.core.sql.invisible import invisible_character
from jentrow.core.sql.text import Place, place_of_byte, place_of_text

Catalogue = dict[str, tuple[str, ...]]
"""The sample's tables with their columns."""


@dataclass(frozen=True, slots=True)
class Explanation:
    """What a rejection is, in plain words."""

    code: FindingCode
    message: str
    near: str = ""


_OTHER_DIALECTS: Final[dict[str, str]] = {
    "nvl": "COALESCE(a, b)",
    "isnull": "a IS NULL, or COALESCE(a, b)",
    "if": "CASE WHEN … THEN … ELSE … END, or IIF(…)",
    "decode": "CASE … WHEN … THEN … END",
    "now": "CURRENT_TIMESTAMP, or DATETIME('now')",
    "getdate": "CURRENT_TIMESTAMP, or DATETIME('now')",
    "sysdate": "CURRENT_TIMESTAMP, or DATETIME('now')",
    "curdate": "CURRENT_DATE, or DATE('now')",
    "today": "CURRENT_DATE, or DATE('now')",
    "year": "STRFTIME('%Y', d)",
    "month": "STRFTIME('%m', d)",
    "day": "STRFTIME('%d', d)",
    "hour": "STRFTIME('%H', d)",
    "dayofweek": "STRFTIME('%w', d)",
    "weekday": "STRFTIME('%w', d)",
    "datepart": "STRFTIME(format, d)",
    "date_part": "STRFTIME(format, d)",
    "extract": "STRFTIME(format, d)",
    "date_trunc": "DATE(d, 'start of month') and the like",
    "to_char": "STRFTIME(format, d) or PRINTF(format, x)",
    "to_date": "DATE(text)",
    "date_format": "STRFTIME(format, d)",
    "dateadd": "DATE(d, '+1 day')",
    "date_add": "DATE(d, '+1 day')",
    "date_sub": "DATE(d, '-1 day')",
    "datediff": "JULIANDAY(a) - JULIANDAY(b)",
    "age": "JULIANDAY(a) - JULIANDAY(b)",
    "len": "LENGTH(text)",
    "char_length": "LENGTH(text)",
    "character_length": "LENGTH(text)",
    "left": "SUBSTR(text, 1, n)",
    "right": "SUBSTR(text, -n)",
    "position": "INSTR(text, part)",
    "charindex": "INSTR(text, part)",
    "locate": "INSTR(text, part)",
    "strpos": "INSTR(text, part)",
    "ucase": "UPPER(text)",
    "lcase": "LOWER(text)",
    "truncate": "CAST(x AS INTEGER), or ROUND(x, n)",
    "trunc": "CAST(x AS INTEGER), or ROUND(x, n)",
    "listagg": "GROUP_CONCAT(x, ', ')",
    "array_agg": "JSON_GROUP_ARRAY(x)",
    "std": "AVG(x*x) - AVG(x)*AVG(x) for the variance",
    "stddev": "AVG(x*x) - AVG(x)*AVG(x) for the variance",
    "greatest": "MAX(a, b)",
    "least": "MIN(a, b)",
    "convert": "CAST(x AS type)",
    "try_cast": "CAST(x AS type)",
    "regexp_like": "LIKE or GLOB",
    "rand": "RANDOM()",
    "space": "a text of blanks",
}
"""Functions that other dialects have, and how SQLite says the same."""

_CLAUSE_ORDER: Final = "SELECT, FROM, WHERE, GROUP BY, HAVING, ORDER BY, LIMIT"
_CLAUSES: Final = frozenset({"select", "from", "where", "group", "having", "order", "limit"})


def explain(
    words: str, offset: int, sql: str, catalogue: Catalogue
) -> tuple[Explanation, Place | None]:
    """What SQLite's words mean, and where in the text they point.

    ``offset`` is the engine's byte offset, or −1 where it gives none.
    """
    place = place_of_byte(sql, offset) if offset >= 0 else None
    explanation, place = _explained(words, place, sql, catalogue)
    hidden = invisible_character(sql)
    if hidden is None or explanation.code == "sql.runtime":
        return explanation, place
    # No word that anybody means holds such a character: it was pasted, and the rest follows.
    return Explanation(explanation.code, hidden.message, sql[hidden.index]), hidden.place


def _explained(
    words: str, place: Place | None, sql: str, catalogue: Catalogue
) -> tuple[Explanation, Place | None]:
    for pattern, explained in _PATTERNS:
        found = pattern.fullmatch(words)
        if found:
            explanation = explained(found, sql, catalogue)
            if place is None and explanation.near:
                place = place_of_text(sql, explanation.near)
            return explanation, place
    return Explanation("sql.runtime", f"The engine says: {words}."), place


def _no_table(found: re.Match[str], _: str, catalogue: Catalogue) -> Explanation:
    name = found["name"].rpartition(".")[2]
    nearest = _nearest(name, list(catalogue))
    hint = f" Did you mean {nearest}?" if nearest else f" The sample has {_named(list(catalogue))}."
    return Explanation("sql.object", f"There is no table {name}.{hint}", name)


def _no_column(found: re.Match[str], _: str, catalogue: Catalogue) -> Explanation:
    written = found["name"].strip('"')
    owner, _dot, name = written.rpartition(".")
    if found["quoted"]:
        return Explanation(
            "sql.object",
            f'There is no column "{name}". Double quotes mark a name; text stands in single '
            f"quotes: '{name}'.",
            name,
        )
    columns = sorted({column for held in catalogue.values() for column in held})
    nearest = _nearest(name, columns)
    if nearest and nearest.lower() == name.lower():
        tables = [table for table, held in catalogue.items() if nearest in held]
        if owner:
            return Explanation(
                "sql.object",
                f"{owner} has no column {name}, or is not a table of this FROM; {nearest} is a "
                f"column of {_named(tables)}.",
                written,
            )
        return Explanation(
            "sql.object",
            f"{name} cannot be seen here: it is a column of {_named(tables)}, which must stand in "
            "FROM for this part of the query.",
            name,
        )
    hint = f" Did you mean {nearest}?" if nearest else ""
    return Explanation("sql.object", f"There is no column {written}.{hint}", written)


def _no_function(found: re.Match[str], _: str, __: Catalogue) -> Explanation:
    name = found["name"]
    instead = _OTHER_DIALECTS.get(name.lower())
    if name.lower() == "concat" or instead is None:
        hint = ""
    else:
        hint = f" Other dialects have it; here one writes {instead}."
    return Explanation("sql.object", f"SQLite has no function {name.upper()}.{hint}", name)


def _function_arguments(found: re.Match[str], _: str, __: Catalogue) -> Explanation:
    name = found["name"]
    instead = _OTHER_DIALECTS.get(name.lower())
    hint = f" For what other dialects do with it, write {instead}." if instead else ""
    return Explanation(
        "sql.object", f"{name.upper()} takes another number of arguments.{hint}", name
    )


def _ambiguous(found: re.Match[str], _: str, catalogue: Catalogue) -> Explanation:
    name = found["name"]
    tables = [table for table, held in catalogue.items() if name.lower() in map(str.lower, held)]
    example = f"{tables[0]}.{name}" if tables else f"table.{name}"
    return Explanation(
        "sql.object",
        f"{name} is ambiguous: more than one table of this query has a column of that name. Say "
        f"which one you mean, as in {example}.",
        name,
    )


def _syntax(found: re.Match[str], sql: str, _: Catalogue) -> Explanation:
    near = found["near"]
    lower = near.lower()
    text = " ".join(sql.lower().split())
    hint = ""
    if re.search(r"\bselect\s+(distinct\s+)?top\s*\(?\s*\d", text):
        hint = " TOP belongs to another dialect; here LIMIT stands at the end."
    elif re.search(r"\bfetch\s+(first|next)\b", text) and lower in (
        "first",
        "next",
        "fetch",
        "rows",
    ):
        hint = " FETCH FIRST belongs to another dialect; here LIMIT n stands at the end."
    elif re.search(r"\bminus\s+select\b", text):
        hint = " MINUS belongs to another dialect; here the set difference is EXCEPT."
    elif re.search(r"\bextract\s*\(", text):
        hint = " EXTRACT belongs to other dialects; here one writes STRFTIME('%Y', d)."
    elif re.search(r"\binterval\s+['\d]", text):
        hint = " INTERVAL belongs to other dialects; here one writes DATE(d, '+1 day')."
    elif lower == "distinct":
        hint = " DISTINCT stands directly after SELECT, or inside an aggregate such as COUNT(DISTINCT x)."
    elif lower in _CLAUSES and (before := _open_parentheses(sql[: _start_of(near, sql)])) > 0:
        hint = (
            f" Before it, {before} closing parenthes{'is is' if before == 1 else 'es are'} missing."
        )
    elif lower in _CLAUSES:
        hint = f" A clause may be in the wrong place, or something before it unfinished: the order is {_CLAUSE_ORDER}."
    elif lower in (")", ","):
        hint = " Something is missing before it, or it is one too many."
    elif near == "=":
        hint = " A comparison has one = between two values."
    return Explanation("sql.syntax", f"The query cannot be read from {near!r} on.{hint}", near)


def _start_of(near: str, sql: str) -> int:
    """Where the word begins that the engine stopped at; 0 where it stands more than once."""
    found = list(re.finditer(rf"\b{re.escape(near)}\b", sql, re.IGNORECASE))
    return found[0].start() if len(found) == 1 else 0


def _open_parentheses(sql: str) -> int:
    """How many parentheses are open at the end of the text, texts in quotes aside."""
    plain = re.sub(r"'[^']*'", "", sql)
    return plain.count("(") - plain.count(")")


def _incomplete(_: re.Match[str], sql: str, __: Catalogue) -> Explanation:
    missing = _open_parentheses(sql)
    hint = (
        f" {missing} closing parenthes{'is is' if missing == 1 else 'es are'} missing."
        if missing > 0
        else ""
    )
    return Explanation(
        "sql.syntax", f"The query breaks off: something is missing at its end.{hint}"
    )


def _token(found: re.Match[str], _: str, __: Catalogue) -> Explanation:
    token = found["token"]
    if token[:1] in "'\"`":
        return Explanation(
            "sql.syntax", f"A text or name that begins with {token[0]} is never closed.", token
        )
    return Explanation("sql.syntax", f"{token!r} is not a word or sign of SQL.", token)


def _aggregate(found: re.Match[str], _: str, __: Catalogue) -> Explanation:
    name = found["name"].upper()
    return Explanation(
        "sql.runtime",
        f"{name}() cannot stand here. A condition on an aggregate belongs in HAVING, not in WHERE, "
        "and one aggregate cannot stand inside another.",
        found["name"],
    )


def _operands(found: re.Match[str], _: str, __: Catalogue) -> Explanation:
    return Explanation(
        "sql.runtime",
        f"The queries to the left and right of {found['operation']} must have the same number of "
        "columns.",
        found["operation"],
    )


def _clause_before(found: re.Match[str], _: str, __: Catalogue) -> Explanation:
    clause, operation = found["clause"], found["operation"]
    return Explanation(
        "sql.runtime",
        f"{clause} stands before {operation}; it belongs after the last of the combined queries, "
        "once for all of them.",
        clause,
    )


def _compound_order(found: re.Match[str], _: str, __: Catalogue) -> Explanation:
    return Explanation(
        "sql.runtime",
        f"The {found['which']} sort key matches no column of the result: combined queries can be "
        "ordered only by columns that they give.",
        "ORDER BY",
    )


def _having(_: re.Match[str], __: str, ___: Catalogue) -> Explanation:
    return Explanation(
        "sql.runtime",
        "HAVING is for groups: this query has no GROUP BY and no aggregate. A condition on rows "
        "belongs in WHERE.",
        "HAVING",
    )


def _scalar(found: re.Match[str], _: str, __: Catalogue) -> Explanation:
    return Explanation(
        "sql.runtime",
        f"A subquery gives {found['count']} columns where {found['due']} {'is' if found['due'] == '1' else 'are'} due.",
    )


def _by_number(found: re.Match[str], _: str, __: Catalogue) -> Explanation:
    return Explanation(
        "sql.runtime",
        f"The {found['which']} term of {found['clause']} is a position outside the select list "
        f"(1 to {found['last']}).",
        found["clause"],
    )


def _window(found: re.Match[str], _: str, __: Catalogue) -> Explanation:
    return Explanation(
        "sql.runtime",
        f"The window function {found['name'].upper()}() needs OVER (…), and stands only in SELECT and "
        "ORDER BY: to filter by it, put the query into a subquery.",
        found["name"],
    )


_Explained = Callable[[re.Match[str], str, Catalogue], Explanation]

_PATTERNS: Final[Sequence[tuple[re.Pattern[str], _Explained]]] = [
    (re.compile(pattern, re.DOTALL), explained)
    for pattern, explained in (
        (r"no such table: (?P<name>.+)", _no_table),
        (
            r"no such column: (?P<name>.+?)(?P<quoted> - should this be a string literal.*)?",
            _no_column,
        ),
        (r"no such function: (?P<name>.+)", _no_function),
        (r"wrong number of arguments to function (?P<name>.+)\(\)", _function_arguments),
        (r"ambiguous column name: (?:.*\.)?(?P<name>.+)", _ambiguous),
        (r'near "(?P<near>.*)": syntax error', _syntax),
        (r"incomplete input", _incomplete),
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
    )
]


def _nearest(name: str, known: Sequence[str]) -> str | None:
    by_lower = {one.lower(): one for one in known}
    found = get_close_matches(name.lower(), list(by_lower), n=1, cutoff=0.6)
    return by_lower[found[0]] if found else None


def _named(names: Sequence[str]) -> str:
    if not names:
        return "no tables"
    return names[0] if len(names) == 1 else ", ".join(names[:-1]) + " and " + names[-1]
