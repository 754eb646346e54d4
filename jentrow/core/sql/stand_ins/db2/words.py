"""What Db2 writes in words that no parser here reads, written so that one does.

Sources: expressions and the select statement in the references of Db2 11.5
(https://www.ibm.com/docs/en/db2/11.5).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import Final

from jentrow.core.sql.tokens import Token, opening_of, tokens_of

_UNITS: Final = {
    f"{unit}{ending}": unit
    for unit in ("YEAR", "MONTH", "DAY", "HOUR", "MINUTE", "SECOND")
    for ending in ("", "S")
}
_NOW: Final = frozenset({"DATE", "TIME", "TIMESTAMP"})
_BEFORE_VALUE: Final = frozenset({"SELECT", "DISTINCT", "ALL", "WHERE", "AND", "OR", "ON", "WHEN"}) | {
    "THEN", "ELSE", "HAVING", "BY", "IN", "CASE", "NOT", "BETWEEN", "LIKE", "FROM", "JOIN", "AS",
}  # fmt: skip
_ISOLATION: Final = frozenset({"UR", "CS", "RS", "RR"})
_CASTS: Final = frozenset(
    {"DECIMAL", "DEC", "NUMERIC", "INTEGER", "INT", "BIGINT", "SMALLINT", "DOUBLE", "FLOAT", "REAL"}
) | {"VARCHAR", "CHAR", "TIME"}
CAST_PREFIX: Final = "db2_"
"""What a function that is called like a type is called instead: the parser takes it for the type."""

_AFTER_VALUES: Final = frozenset({"UNION", "EXCEPT", "INTERSECT", "ORDER", "FETCH", "LIMIT", ")"})

_SIDES: Final = {"L": "LEADING", "T": "TRAILING", "B": "BOTH"}
"""The short words of TRIM for where it looks."""

_OVER_NULLS: Final = ("IGNORE NULLS", "RESPECT NULLS")
"""What functions of a window take as their last value, for whether they pass over NULL."""

OF_EXPRESSION: Final = "A duration of anything but a number, such as (x) DAYS, is not kept."

MINUS: Final = "MINUS is taken by some versions of Db2 alone: EXCEPT is the set difference in all."


def plain_db2(sql: str) -> tuple[str, tuple[str, ...]]:
    """A text without Db2's own words, and what it may not mean any more."""
    tokens = tokens_of(sql, "db2")
    changed: list[tuple[int, int, str]] = []
    notes: list[str] = []
    for at, token in enumerate(tokens):
        after = tokens[at + 1] if at + 1 < len(tokens) else None
        before = tokens[at - 1] if at else None
        if token.word == "CURRENT" and after is not None and after.word in _NOW:
            changed.append((token.start, after.end, f"CURRENT_{after.word}"))
        elif token.word == "CONCAT" and _is_operand(before) and after is not None:
            changed.append((token.start, token.end, "||"))
        elif token.word in _UNITS and before is not None and _is_added(tokens, at):
            if before.kind == "number":
                said = f"INTERVAL '{sql[before.start : before.end]}' {_UNITS[token.word]}"
                changed.append((before.start, token.end, said))
            else:
                notes.append(OF_EXPRESSION)
        elif token.word == "MINUS" and after is not None and after.word in ("SELECT", "ALL", "("):
            changed.append((token.start, token.end, "EXCEPT"))
            notes.append(MINUS)
        elif _is_cast(tokens, at):
            changed.append((token.start, token.start, CAST_PREFIX))
        elif token.word in _SIDES and _words_at(tokens, at - 2, 2) == ["TRIM", "("]:
            if after is not None and (after.word == "FROM" or after.kind == "text"):
                changed.append((token.start, token.end, _SIDES[token.word]))
        elif token.word == "TABLE" and _words_at(tokens, at + 1, 2) in _BEGINNINGS:
            changed.append((token.start, token.end, "LATERAL"))
        elif token.kind == "text" and _words_at(tokens, at + 1, 2) == [")", "OVER"]:
            said = sql[token.start + 1 : token.end - 1].upper()
            if before is not None and before.word == "," and said in _OVER_NULLS:
                changed.append((before.start, tokens[at + 1].end, f") {said}"))
        if token.word == "VALUES" and after is not None and after.word != "(":
            for start, stop in _single_values(tokens, at):
                changed += [(start, start, "("), (stop, stop, ")")]
    end = _end_of_query(tokens)
    if end is not None:
        changed = [one for one in changed if one[0] < end]
        changed.append((end, len(sql), ""))
    for start, stop, said in sorted(changed, reverse=True):
        sql = sql[:start] + said + sql[stop:]
    return sql, tuple(dict.fromkeys(notes))


_BEGINNINGS: Final = (["(", "SELECT"], ["(", "WITH"], ["(", "VALUES"])
"""How a query in parentheses begins."""


def _words_at(tokens: Sequence[Token], at: int, count: int) -> list[str]:
    return [token.word for token in tokens[max(at, 0) : max(at, 0) + count]]


def _single_values(tokens: Sequence[Token], at: int) -> Iterator[tuple[int, int]]:
    """Where the values behind VALUES begin and end that are rows of one column without saying so."""
    depth = tokens[at].depth
    begun = None
    for before, token in pairwise(tokens[at:]):
        if token.depth < depth or (token.depth == depth and token.word in _AFTER_VALUES):
            break
        if begun is None:
            begun = token.start
        elif token.depth == depth and token.word == ",":
            yield begun, before.end
            begun = None
        last = token.end
    if begun is not None:
        yield begun, last


def _is_operand(token: Token | None) -> bool:
    """Whether a value ends with a token: what stands behind it is no function then."""
    if token is None or token.word in _BEFORE_VALUE:
        return False
    return token.kind != "mark" or token.word == ")"


def _is_added(tokens: Sequence[Token], unit: int) -> bool:
    """Whether what a unit of time stands behind is added or taken away: then it is no name."""
    before = tokens[unit - 1]
    if before.word == ")":
        opened = opening_of(tokens, unit - 1)
        return opened > 0 and tokens[opened - 1].word in ("+", "-")
    return unit > 1 and tokens[unit - 2].word in ("+", "-")


def _is_cast(tokens: Sequence[Token], at: int) -> bool:
    """Whether a type's name is called as a function: INTEGER(x), and not CAST(x AS DECIMAL(7, 2))."""
    if tokens[at].word not in _CASTS or at + 1 >= len(tokens) or tokens[at + 1].word != "(":
        return False
    return not (at and tokens[at - 1].word == "AS")


def _end_of_query(tokens: Sequence[Token]) -> int | None:
    """Where WITH UR, FOR READ ONLY or OPTIMIZE FOR begins; None where a query ends by itself."""
    words = [token.word for token in tokens]
    if len(words) > 2 and words[-2] == "WITH" and words[-1] in _ISOLATION:
        return tokens[-2].start
    if (
        len(words) > 3
        and words[-3] == "FOR"
        and words[-2] in ("READ", "FETCH")
        and words[-1] == "ONLY"
    ):
        return tokens[-3].start
    if len(words) > 4 and words[-4:-2] == ["OPTIMIZE", "FOR"] and words[-1] in ("ROW", "ROWS"):
        return tokens[-4].start
    return None
