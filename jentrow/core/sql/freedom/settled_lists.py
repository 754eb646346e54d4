"""Select lists whose words alone show that grouping leaves no value of them open.

Reading a syntax tree takes longer than running most answers; most texts need none for this.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from jentrow.core.sql.skeleton import Skeleton

_AGGREGATES: Final = frozenset({"COUNT", "SUM", "AVG", "MIN", "MAX", "TOTAL", "GROUP_CONCAT"})
_NO_COLUMNS: Final = frozenset(
    {"ALL", "AND", "AS", "BETWEEN", "CASE", "DISTINCT", "ELSE", "END", "FALSE", "IN", "IS", "LIKE"}
) | {"NOT", "NULL", "OR", "THEN", "TRUE", "WHEN"}
_SCALARS: Final = frozenset(
    {"ABS", "CAST", "COALESCE", "CONCAT", "DATE", "IFNULL", "IIF", "INSTR", "JULIANDAY", "LENGTH"}
) | {"LOWER", "NULLIF", "REPLACE", "ROUND", "STRFTIME", "SUBSTR", "TRIM", "UPPER"}
"""Functions that are no aggregates; of any other, the words alone do not tell."""
_LIST_ENDS: Final = frozenset({"FROM", "UNION", "INTERSECT", "EXCEPT", ";"})
_KEYS_END: Final = frozenset({"HAVING", "ORDER", "LIMIT", "WINDOW"}) | _LIST_ENDS - {"FROM"}


def all_settled(skeleton: Skeleton) -> bool:
    """Whether no SELECT of a text can show a column that its grouping leaves open.

    False where the words alone do not tell.
    """
    return all(
        _is_settled(skeleton, at)
        for at in range(len(skeleton.tokens))
        if skeleton.word(at) == "SELECT"
    )


def holds_aggregate(skeleton: Skeleton, first: int, last: int) -> bool:
    """Whether a value holds an aggregate of its own, apart from its subqueries'.

    It is written by the tokens from ``first`` to ``last``. False where their words alone do not tell.
    """
    item = list(range(first, last + 1))
    return any(
        _aggregate_end(skeleton, at) is not None for at in _outside_subqueries(skeleton, item)
    )


def _outside_subqueries(skeleton: Skeleton, item: list[int]) -> Iterator[int]:
    below = None  # how deep a subquery stands that is being passed
    for at in item:
        token = skeleton.tokens[at]
        if below is not None and token.depth > below:
            continue
        below = token.depth if skeleton.word(at + 1) == "SELECT" and token.word == "(" else None
        yield at


def _is_settled(skeleton: Skeleton, select: int) -> bool:
    own = list(_own_tokens(skeleton, select))
    end = next((at for at in own if skeleton.word(at) in _LIST_ENDS), len(skeleton.tokens))
    items = _split(skeleton, select + 1, end if own else select + 1, skeleton.tokens[select].depth)
    group = next((at for at in own if skeleton.word(at) == "GROUP"), None)
    if group is None and not any(_may_aggregate(skeleton, item) for item in items):
        return True
    keys = _keys(skeleton, group, own, items) if group is not None else set()
    return all(_columns_of(skeleton, item) <= keys for item in items)


def _own_tokens(skeleton: Skeleton, select: int) -> Iterator[int]:
    """The tokens of a SELECT that stand in no parentheses of it, up to its end."""
    depth = skeleton.tokens[select].depth
    for at in range(select + 1, len(skeleton.tokens)):
        token = skeleton.tokens[at]
        if token.depth < depth or (token.depth == depth and token.word == "SELECT"):
            return
        if token.depth == depth:
            yield at


def _split(skeleton: Skeleton, start: int, end: int, depth: int) -> list[list[int]]:
    """The parts of a list between its commas, each as the places of its tokens."""
    parts: list[list[int]] = [[]]
    for at in range(start, end):
        token = skeleton.tokens[at]
        if token.depth < depth:
            break
        if token.depth == depth and token.word == ",":
            parts.append([])
        else:
            parts[-1].append(at)
    return [part for part in parts if part]


def _keys(skeleton: Skeleton, group: int, own: list[int], items: list[list[int]]) -> set[str]:
    """The columns that a query is grouped by, without their tables."""
    end = next(
        (at for at in own if at > group and skeleton.word(at) in _KEYS_END), len(skeleton.tokens)
    )
    found = set()
    for key in _split(skeleton, group + 2, end, skeleton.tokens[group].depth):
        written = skeleton.written(key[0])
        if len(key) == 1 and written.isdecimal():
            key = items[int(written) - 1] if 0 < int(written) <= len(items) else key
        is_column = len(key) == 1 or (len(key) == 3 and skeleton.word(key[1]) == ".")
        if is_column and _columns_of(skeleton, key) == {skeleton.word(key[-1])}:
            found.add(skeleton.word(key[-1]))
    return found


def _columns_of(skeleton: Skeleton, item: list[int]) -> set[str]:
    """The words of an item that may be columns beside its aggregates; "" for what may be anything."""
    found = set()
    at = item[0]
    while at <= item[-1]:
        end = _aggregate_end(skeleton, at)
        kind, word = skeleton.kind(at), skeleton.word(at)
        if end is not None:
            at = end
        elif word == "AS":  # what follows is the item's name
            at += 1
        elif word in ("SELECT", "OVER") or kind == "name":
            found.add("")
        elif kind == "word" and skeleton.word(at + 1) == ".":
            at += 1
            continue
        elif kind == "word" and word not in _NO_COLUMNS and not _is_call(skeleton, at):
            found.add(word)
        at += 1
    return found


def _may_aggregate(skeleton: Skeleton, item: list[int]) -> bool:
    """Whether an item may hold an aggregate of its own, apart from its subqueries'."""
    return any(
        _is_call(skeleton, at) and skeleton.word(at) not in _SCALARS
        for at in _outside_subqueries(skeleton, item)
    )


def _is_call(skeleton: Skeleton, at: int) -> bool:
    is_word = skeleton.kind(at) == "word" and skeleton.word(at) not in _NO_COLUMNS
    return is_word and skeleton.word(at + 1) == "("


def _aggregate_end(skeleton: Skeleton, at: int) -> int | None:
    """The closing parenthesis of an aggregate that is called at a place; None where none is."""
    word = skeleton.word(at)
    if word not in _AGGREGATES or skeleton.word(at + 1) != "(":
        return None
    depth = skeleton.tokens[at].depth
    for place in range(at + 2, len(skeleton.tokens)):
        token = skeleton.tokens[place]
        if token.depth == depth:
            # What filters or spans it comes behind; where it does, a tree tells.
            after = skeleton.word(place + 1)
            return None if token.word != ")" or after in ("OVER", "FILTER") else place
        if token.word == "SELECT":
            return None
        if token.word == "," and word in ("MIN", "MAX"):
            return None  # of several values, for each row: no aggregate
    return None
