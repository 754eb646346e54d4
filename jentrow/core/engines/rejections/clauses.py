"""What a clause lacks or has too much of, told by the words around the place where the engine stopped.

Each is said only where the words leave no other reading: no engine takes them so.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Final

from jentrow.core.engines.rejections.stop import Stop
from jentrow.core.sql.skeleton import Skeleton

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
    if words.word(at) == "SELECT" and before == "AS" and words.word(0) == "WITH":
        return "WITH takes each query in parentheses: WITH name AS (SELECT …)."
    if words.word(at) != "SELECT" or not is_operand:
        return ""
    return "A query inside another stands in parentheses: (SELECT …)."


def _over_without_parentheses(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    is_open = words.word(at - 1) == "OVER" and words.word(at - 2) == ")" and words.word(at) != "("
    # Engines go on behind it: PARTITION and ORDER may be names of windows.
    is_before = any(
        words.word(one) == "OVER" and words.word(one + 1) in ("PARTITION", "ORDER")
        for one in range(min(at, len(words.tokens)))
    )
    if not is_open and not is_before:
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


_WINDOW_FUNCTIONS: Final = frozenset(
    {"ROW_NUMBER", "RANK", "DENSE_RANK", "PERCENT_RANK", "CUME_DIST", "NTILE", "LAG", "LEAD"}
) | {"FIRST_VALUE", "LAST_VALUE", "NTH_VALUE"}


def _opened_by(words: Skeleton, at: int) -> int:
    """Where the parenthesis opens that closes at a token; -1 where none closes there."""
    if words.word(at) != ")":
        return -1
    depth = words.tokens[at].depth
    return next(
        (
            before
            for before in range(at - 1, -1, -1)
            if words.word(before) == "(" and words.tokens[before].depth == depth
        ),
        -1,
    )


def _window_without_over(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    opened = _opened_by(words, at - 1)
    name = words.word(opened - 1) if opened > 0 else ""
    if name == "GROUP" and words.word(opened - 2) == "WITHIN" and stop.one.engine == "mariadb":
        return "In MariaDB, WITHIN GROUP (…) is followed by OVER (…)."
    if name not in _WINDOW_FUNCTIONS or words.word(at) == "OVER":
        return ""
    return f"The window function {name}() needs OVER (…)."


def subquery_without_name(stop: Stop) -> str:
    """A subquery in FROM that has no name, where the engine wants one."""
    words, at = stop.skeleton, stop.at
    opened = _opened_by(words, at - 1)
    is_source = opened > 0 and words.word(opened - 1) in ("FROM", "JOIN")
    if not is_source or words.word(opened + 1) not in ("SELECT", "WITH"):
        return ""
    if stop.one.engine != "mariadb" or (at < len(words.tokens) and words.kind(at) != "word"):
        return ""
    return "A subquery in FROM needs a name after its parenthesis: (…) AS part."


def _case_without_when(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    if words.word(at) != "THEN":
        return ""
    if words.nearest_before(at, ("CASE", "WHEN", "END", "THEN", "ELSE")) != "CASE":
        return ""
    return "Each condition of a CASE has WHEN before it: CASE WHEN … THEN … END."


def _not_null_before(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    said = (words.word(at - 2), words.word(at - 1))
    if said != ("NOT", "NULL") or words.kind(at) not in ("word", "name"):
        return ""
    if words.word(at - 3) not in ("WHERE", "AND", "OR", "ON", "HAVING", "("):
        return ""
    return f"Whether there is a value is asked behind it: {words.written(at)} IS NOT NULL."


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


def _quote_inside_text(stop: Stop) -> str:
    return quote_inside_text(stop.skeleton, (stop.at, stop.at - 1))


def quote_inside_text(words: Skeleton, places: Iterable[int]) -> str:
    """What is wrong where a text ends at a quote of its own and a word follows without a blank."""
    for at in places:
        if words.kind(at) != "word" or words.kind(at - 1) != "text" or at < 1:
            continue
        text, word = words.tokens[at - 1], words.tokens[at]
        if text.end == word.start and words.written(at - 1)[:1] == "'":
            inside = f"{words.written(at - 1)[1:-1]}''{words.written(at)}"
            return f"A quote inside a text is written twice: '{inside}'."
    return ""


def _name_in_single_quotes(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    if words.word(at - 1) != "AS" or words.kind(at) != "text":
        return ""
    return f'A name stands in double quotes, or in none: AS "{words.written(at)[1:-1]}".'


def _set_operation_without_select(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    before = words.word(at - 2) if words.word(at - 1) == "ALL" else words.word(at - 1)
    if before not in _SET_OPERATIONS or words.kind(at) not in ("word", "name", "text", "number"):
        return ""
    if words.word(at) in ("SELECT", "WITH", "VALUES", "TABLE", "ALL", "DISTINCT"):
        return ""
    return f"Behind {before} stands a whole query, with its SELECT."


def is_in_cast(words: Skeleton, at: int) -> bool:
    """Whether a token stands in the parentheses of a CAST, where what follows AS is a type."""
    return words.word(words.opening(at) - 1) in ("CAST", "TRY_CAST")


def _cast_without_as(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    if not is_in_cast(words, at) or words.kind(at) != "word" or words.word(at) == "AS":
        return ""
    if "AS" in {words.word(one) for one in range(words.opening(at), at)}:
        return ""
    return f"CAST has AS before the type: CAST(x AS {stop.near})."


CLAUSE_HINTS: Final[tuple[Callable[[Stop], str], ...]] = (
    _quotes,
    _in_without_parentheses,
    _is_with_a_value,
    _not_with_a_value,
    _subquery_without_parentheses,
    _over_without_parentheses,
    _extract_without_from,
    _order_before_set_operation,
    _quote_inside_text,
    _name_in_single_quotes,
    _set_operation_without_select,
    _cast_without_as,
    _window_without_over,
    subquery_without_name,
    _case_without_when,
    _not_null_before,
)
