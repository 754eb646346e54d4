"""What a condition lacks, told by the words around the place where the engine stopped."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from jentrow.core.engines.rejections.stop import Stop
from jentrow.core.sql.skeleton import Skeleton

_JOINING: Final = frozenset({"AND", "OR"})
_COMPARING: Final = frozenset(
    {"=", "<", ">", "<=", ">=", "<>", "!=", "LIKE", "IN", "BETWEEN", "IS"}
)
_CLAUSES: Final = frozenset({"SELECT", "FROM", "WHERE", "ON", "HAVING", "WHEN", "BY", "USING"})


def _half_condition(stop: Stop) -> str:
    """X > 1 AND < 5: the second comparison has nothing on its left."""
    for at in (stop.at, stop.at - 1):
        if stop.skeleton.word(at) in _COMPARING and stop.skeleton.word(at - 1) in _JOINING:
            return _whole(stop.skeleton.word(at - 1))
    return ""


def half_condition_by(words: Skeleton, comparing: str) -> str:
    """The same where a comparison by this word stands anywhere with nothing on its left."""
    found = (
        words.word(at - 1)
        for at in range(1, len(words.tokens))
        if words.word(at) == comparing and comparing in _COMPARING
    )
    joining = next((word for word in found if word in _JOINING), "")
    return joining and _whole(joining)


def _whole(joining: str) -> str:
    return (
        f"On each side of {joining} stands a whole condition: x > 1 {joining} x < 5, with the column named "
        "again."
    )


def _nothing_between(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    pair = words.word(at - 1), words.word(at)
    if pair[0] not in _JOINING or pair[1] not in _JOINING:
        return ""
    return f"A condition is missing between {pair[0]} and {pair[1]}."


def _condition_without_where(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    if words.word(at) not in _JOINING:
        return ""
    clause = words.nearest_before(at, _CLAUSES)
    return "Conditions on rows begin with WHERE." if clause == "FROM" else ""


def _exists_beside_a_value(stop: Stop) -> str:
    words = stop.skeleton
    for at in (stop.at, stop.at + 1):
        before = at - 2 if words.word(at - 1) == "NOT" else at - 1
        is_operand = words.kind(before) in ("word", "name", "number", "text")
        if words.word(at) != "EXISTS" or not is_operand or before < 1:
            continue
        if words.word(before) not in {*_JOINING, *_CLAUSES, "NOT", "CASE", "THEN", "ELSE"}:
            return (
                "EXISTS has nothing on its left: WHERE EXISTS (SELECT …). A value is looked for with IN "
                "(SELECT …)."
            )
    return ""


def _comma_between_conditions(stop: Stop) -> str:
    words = stop.skeleton
    for at in range(stop.at, stop.at - 5, -1):
        column = at + 3 if words.word(at + 2) == "." else at + 1
        if words.word(at) == "," and words.word(column + 1) in _COMPARING:
            clause = words.nearest_before(at, _CLAUSES)
            if clause in ("WHERE", "HAVING", "ON"):
                return "Conditions are joined by AND or OR, not by a comma."
    return ""


def bounds_in_parentheses(stop: Stop) -> str:
    """BETWEEN (1 AND 5): read as one value, behind which AND is missing."""
    words = stop.skeleton
    for at in range(len(words.tokens) - 2):
        if (words.word(at), words.word(at + 1)) != ("BETWEEN", "("):
            continue
        inside = words.tokens[at + 1].depth + 1
        closed = next(
            (
                place
                for place in range(at + 2, len(words.tokens))
                if words.word(place) == ")" and words.tokens[place].depth == inside - 1
            ),
            len(words.tokens),
        )
        has_and = any(
            words.word(place) == "AND" and words.tokens[place].depth == inside
            for place in range(at + 2, closed)
        )
        if has_and and words.word(closed + 1) != "AND":
            return "BETWEEN has no parentheses around its bounds: BETWEEN 1 AND 5."
    return ""


def _comma_between_texts(stop: Stop) -> str:
    """IN ('a' 'b'): two texts behind each other."""
    words, at = stop.skeleton, stop.at
    if words.kind(at) != "text" or words.kind(at - 1) != "text":
        return ""
    return f"A comma is missing before {words.written(at)}."


def quantified_list(words: Skeleton) -> str:
    """ANY or ALL with a list of values where a query is due; empty where there is none."""
    for at in range(len(words.tokens) - 2):
        if words.word(at) not in ("ANY", "ALL", "SOME") or words.word(at - 1) not in _SIGNS:
            continue
        if words.word(at + 1) == "(" and words.kind(at + 2) in ("text", "number"):
            word = "NOT IN" if words.word(at - 1) in ("<>", "!=") else "IN"
            return f"{words.word(at)} takes a query: (SELECT …). A list is for {word} (…)."
    return ""


_SIGNS: Final = frozenset({"=", "<", ">", "<=", ">=", "<>", "!="})


def _quantified_list(stop: Stop) -> str:
    return quantified_list(stop.skeleton)


CONDITION_HINTS: Final[tuple[Callable[[Stop], str], ...]] = (
    _half_condition,
    bounds_in_parentheses,
    _comma_between_texts,
    _quantified_list,
    _nothing_between,
    _condition_without_where,
    _exists_beside_a_value,
    _comma_between_conditions,
)
