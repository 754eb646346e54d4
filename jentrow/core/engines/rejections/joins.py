"""What a join lacks or has too much of, told by the words around the place where the engine stopped."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Final

from jentrow.core.engines.rejections.stop import Stop
from jentrow.core.sql.skeleton import Skeleton

BEFORE_JOIN: Final = frozenset({"INNER", "LEFT", "RIGHT", "FULL", "OUTER", "CROSS", "NATURAL"})
_AFTER_FROM: Final = frozenset(
    {"WHERE", "GROUP", "ORDER", "HAVING", "LIMIT", "UNION", "INTERSECT", "EXCEPT", ")", ";"}
)


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
    while words.word(at) in BEFORE_JOIN:
        at += 1
    return words.word(at) == "JOIN"


def join_without_condition(stop: Stop) -> str:
    """A JOIN that has no ON where the engine wants one, before the clause at which it stopped."""
    words, at = stop.skeleton, stop.at
    if at == len(words.tokens) - 1 and _is_named_by_join(words, at):
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


def _is_named_by_join(words: Skeleton, at: int) -> bool:
    """Whether a token is the table that a JOIN names, or its alias."""
    before = [words.word(at - back) for back in (1, 2, 3)]
    return before[0] == "JOIN" or before[1] == "JOIN" or before == ["AS", before[1], "JOIN"]


def _wants_condition(stop: Stop, join: int) -> bool:
    """Whether a JOIN is an error without ON: on some engines some give all pairs then."""
    kinds = {stop.skeleton.word(join - back) for back in (1, 2, 3)}
    if "NATURAL" in kinds or stop.skeleton.word(join - 1) == "CROSS":
        return False
    if stop.one.engine == "mariadb":
        return stop.skeleton.word(join - 1) in ("LEFT", "RIGHT", "OUTER")
    return stop.one.engine in ("postgresql", "duckdb")


def _natural_with_condition(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    if words.word(at) == "(" and words.word(at - 1) == "USING":
        at -= 1  # DuckDB goes on to what USING takes
    if words.word(at) not in ("ON", "USING"):
        return ""
    join = next((place for place in range(at - 1, -1, -1) if words.word(place) == "JOIN"), -1)
    if "NATURAL" not in {words.word(join - back) for back in (1, 2, 3) if join >= back}:
        return ""
    return "A NATURAL join finds its columns by their names: it has no ON and no USING."


def _using_without_parentheses(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    if words.word(at - 1) != "USING" or words.kind(at) not in ("word", "name"):
        return ""
    return f"USING takes its columns in parentheses: USING ({stop.near})."


def kind_without_join(stop: Stop) -> str:
    """INNER, LEFT and their like, with no JOIN behind."""
    words = stop.skeleton
    tables = {table.lower() for table in stop.one.catalogue}
    for at in range(stop.at, max(stop.at - 4, 0), -1):
        kind = words.word(at)
        if kind == "OUTER" and words.word(at - 1) not in ("LEFT", "RIGHT", "FULL", "NATURAL"):
            return "OUTER stands behind LEFT, RIGHT or FULL: LEFT OUTER JOIN, or LEFT JOIN."
        is_table = words.written(at + 1).strip('"`').lower() in tables
        if kind in BEFORE_JOIN and is_table:
            return f"JOIN is missing behind {kind}."
    return ""


JOIN_HINTS: Final[tuple[Callable[[Stop], str], ...]] = (
    _comma_before_join_here,
    _natural_with_condition,
    _using_without_parentheses,
    kind_without_join,
    join_without_condition,
)
