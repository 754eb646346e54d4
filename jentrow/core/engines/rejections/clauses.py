"""What a clause lacks or has too much of, told by the words around the place where the engine stopped.

Each is said only where the words leave no other reading: no engine takes them so.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Final

from jentrow.core.engines.rejections.stop import Stop
from jentrow.core.sql.skeleton import Skeleton

_BEFORE_JOIN: Final = frozenset({"INNER", "LEFT", "RIGHT", "FULL", "OUTER", "CROSS", "NATURAL"})
_AFTER_FROM: Final = frozenset(
    {"WHERE", "GROUP", "ORDER", "HAVING", "LIMIT", "UNION", "INTERSECT", "EXCEPT", ")", ";"}
)
_SET_OPERATIONS: Final = frozenset({"UNION", "INTERSECT", "EXCEPT", "MINUS"})
_BEFORE_SUBQUERY: Final = frozenset(
    {"EXISTS", "IN", "ANY", "SOME", "=", "<", ">", "<=", ">=", "<>", "!=", "FROM", "JOIN"}
)
_TYPOGRAPHIC: Final = frozenset("\u2018\u2019\u201a\u201c\u201d\u201e\u00ab\u00bb\u2039\u203a")
_VALUES: Final = ("text", "number")


def typographic_quotes(written: str) -> str:
    """What is wrong with text in quotes of a word processor's; empty where there are none."""
    found = [char for char in written if char in _TYPOGRAPHIC]
    if not found:
        return ""
    text = "".join(char for char in written if char not in _TYPOGRAPHIC).strip()
    return f"{found[0]} is no quote of SQL: text stands in straight ones, '{text}'."


def _quotes(stop: Stop) -> str:
    words = stop.skeleton
    for at in (stop.at, stop.at - 1, stop.at + 1):
        if 0 <= at < len(words.tokens) and words.kind(at) == "word":
            begun = at
            while begun and words.kind(begun - 1) == "word" and not _opens(words.written(begun)):
                begun -= 1
            if not _opens(words.written(begun)):
                continue
            end = begun
            while words.kind(end) == "word" and words.written(end)[-1:] not in _TYPOGRAPHIC:
                end += 1
            last = min(end, len(words.tokens) - 1)
            return typographic_quotes(words.sql[words.tokens[begun].start : words.tokens[last].end])
    return ""


def _opens(word: str) -> bool:
    return word[:1] in _TYPOGRAPHIC and bool(word)


def comma_before_join(words: Skeleton, places: Iterable[int]) -> str:
    """What is wrong with a comma that a JOIN follows at one of these places; empty where none does."""
    for at in places:
        if words.word(at - 1) == "," and _joins(words, at):
            return f"The comma before {words.word(at)} is one too many."
    return ""


def _comma_before_join_here(stop: Stop) -> str:
    return comma_before_join(stop.skeleton, range(stop.at, max(stop.at - 4, 0), -1))


def _joins(words: Skeleton, at: int) -> bool:
    """Whether a join begins here: LEFT may be a function, too."""
    while words.word(at) in _BEFORE_JOIN:
        at += 1
    return words.word(at) == "JOIN"


def join_without_condition(stop: Stop) -> str:
    """A JOIN that has no ON where the engine wants one, before the clause at which it stopped."""
    words, at = stop.skeleton, stop.at
    if at == len(words.tokens) - 1 and words.word(at - 1) == "JOIN":
        at += 1  # DuckDB stops at the last word where it wants more
    if not words.tokens or (at < len(words.tokens) and words.word(at) not in _AFTER_FROM):
        return ""
    depth = words.tokens[min(at, len(words.tokens) - 1)].depth
    if at < len(words.tokens) and words.word(at) == ")":
        depth += 1
    lacking = 0
    for before in range(at - 1, -1, -1):
        token = words.tokens[before]
        if token.depth < depth or (token.depth == depth and words.word(before) == "FROM"):
            break
        if token.depth != depth:
            continue
        if words.word(before) in ("ON", "USING"):
            lacking -= 1
        elif words.word(before) == "JOIN" and _wants_condition(stop, before):
            lacking += 1
    return "A JOIN needs its condition: ON …, or USING (…)." if lacking > 0 else ""


def _wants_condition(stop: Stop, join: int) -> bool:
    """Whether a JOIN is an error without ON: on some engines some give all pairs then."""
    kinds = {stop.skeleton.word(join - back) for back in (1, 2, 3)}
    if "NATURAL" in kinds or stop.skeleton.word(join - 1) == "CROSS":
        return False
    if stop.one.engine == "mariadb":
        return stop.skeleton.word(join - 1) in ("LEFT", "RIGHT", "OUTER")
    return stop.one.engine in ("postgresql", "duckdb")


def _in_without_parentheses(stop: Stop) -> str:
    words = stop.skeleton
    for at in range(stop.at - 1, max(stop.at - 4, 0), -1):
        if words.word(at) == "IN" and words.kind(at + 1) in _VALUES:
            return "IN takes its values in parentheses: IN (1, 2)."
    return ""


def _is_with_a_value(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    after = words.word(at - 1) == "IS" or (words.word(at - 2), words.word(at - 1)) == ("IS", "NOT")
    if not after or words.kind(at) not in _VALUES:
        return ""
    return "IS goes with NULL; a value is compared with = or <>."


def _not_with_a_value(stop: Stop) -> str:
    words = stop.skeleton
    for at in (stop.at, stop.at - 1):
        is_operand = words.kind(at - 1) in ("word", "name") or words.word(at - 1) == ")"
        if words.word(at) == "NOT" and is_operand and words.kind(at + 1) in _VALUES:
            before = words.word(at - 1)
            if before not in ("WHERE", "AND", "OR", "ON", "HAVING", "WHEN", "IS", "SELECT", "NOT"):
                return "NOT stands before a condition; two values that differ are compared with <>."
    return ""


def _subquery_without_parentheses(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    before = words.word(at - 1)
    is_operand = before in _BEFORE_SUBQUERY or (
        before == "ALL" and words.word(at - 2) not in (*_SET_OPERATIONS, "SELECT")
    )
    if words.word(at) != "SELECT" or not is_operand:
        return ""
    return "A query inside another stands in parentheses: (SELECT …)."


def _over_without_parentheses(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    if words.word(at - 1) != "OVER" or words.word(at - 2) != ")" or words.word(at) == "(":
        return ""
    return "OVER takes its window in parentheses: OVER (), or OVER (PARTITION BY …)."


def _extract_without_from(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    if (words.word(at - 3), words.word(at - 2)) != ("EXTRACT", "("):
        return ""
    if words.kind(at - 1) != "word" or words.word(at) == "FROM":
        return ""
    if stop.one.engine == "sqlite":
        return "SQLite has no EXTRACT: STRFTIME('%Y', d) gives the year of a date as text."
    unit = words.written(at - 1)
    return f"EXTRACT takes its part with FROM: EXTRACT({unit} FROM d)."


def _order_before_set_operation(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    if words.word(at) not in _SET_OPERATIONS:
        return ""
    depth = words.tokens[at].depth
    for before in range(at - 1, -1, -1):
        token = words.tokens[before]
        if token.depth < depth or words.word(before) in _SET_OPERATIONS:
            return ""
        if token.depth == depth and words.word(before) in ("ORDER", "LIMIT"):
            clause = "ORDER BY" if words.word(before) == "ORDER" else "LIMIT"
            return f"{clause} belongs after the last of the combined queries, once for all of them."
    return ""


CLAUSE_HINTS: Final[tuple[Callable[[Stop], str], ...]] = (
    _quotes,
    _comma_before_join_here,
    _in_without_parentheses,
    _is_with_a_value,
    _not_with_a_value,
    _subquery_without_parentheses,
    _over_without_parentheses,
    _extract_without_from,
    _order_before_set_operation,
    join_without_condition,
)
