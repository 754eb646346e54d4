"""A query whose ORDER BY ignores letter case, made of its author's own words."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from typing import Final

from jentrow.core.sql.shape import QueryShape
from jentrow.core.sql.tokens import Token, tokens_of

_FOLDED: Final = {"sqlite": "{key} COLLATE NOCASE", "duckdb": "{key} COLLATE NOCASE", "postgres": "LOWER({key})"}  # fmt: skip
"""A sort key without regard to case, by the dialect. MariaDB's own order has none anyway."""
_DIRECTIONS: Final = frozenset({"ASC", "DESC", "NULLS"})


def can_ignore_case(dialect: str) -> bool:
    """Whether there is a way to ask for it in a dialect."""
    return dialect in _FOLDED


def count_sort_keys(shape: QueryShape, dialect: str) -> int:
    """How many sort keys the outermost ORDER BY has."""
    return len(list(_keys(shape.order, dialect)))


def with_caseless_keys(shape: QueryShape, dialect: str, which: Collection[int]) -> str:
    """The whole query with some of its sort keys, counted from 0, without regard to case."""
    order = shape.order
    pieces, at = [], 0
    for number, (begin, end, is_single) in enumerate(_keys(order, dialect)):
        key = order[begin:end]
        if number in which:
            # A place in the select list is one only without parentheses.
            bare = is_single or dialect == "postgres"
            key = _FOLDED[dialect].format(key=key if bare else f"({key})")
        pieces += [order[at:begin], key]
        at = end
    written = shape.sql[shape.start : shape.end]
    begins = shape.sql.index(order, shape.body_end) - shape.start
    return written[:begins] + "".join(pieces) + order[at:] + written[begins + len(order) :]


def _keys(order: str, dialect: str) -> Iterator[tuple[int, int, bool]]:
    """Where each sort key begins and ends, without its direction, and whether it is a single word."""
    tokens = tokens_of(order, dialect)
    key: list[Token] = []
    for token in (*tokens[2:], None):  # behind ORDER BY
        if token is not None and not (token.depth == 0 and token.word == ","):
            key.append(token)
            continue
        ends = next(
            (at for at, one in enumerate(key) if one.depth == 0 and one.word in _DIRECTIONS and at),
            len(key),
        )
        if key:
            yield key[0].start, key[ends - 1].end, ends == 1
        key = []
