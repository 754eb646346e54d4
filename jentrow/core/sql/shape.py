"""The shape of a query as far as grading needs it: whether ordered, limited, its columns.

The parser only informs. Where it cannot read a query, what it would have told is simply not known.
"""

from __future__ import annotations

import logging
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import sqlglot
from sqlglot import exp
from sqlglot.tokenizer_core import Token, TokenType

logging.getLogger("sqlglot").setLevel(logging.CRITICAL)

PARSED_LENGTH: Final = 20_000
"""Longer texts are not parsed: it would take too long, and nobody writes them by hand."""


@dataclass(frozen=True)
class QueryShape:
    """What can be said of a query without running it.

    ``tree`` is None where the parser could not read it.
    """

    sql: str
    ordered: bool
    limited: bool
    tree: exp.Query | None


@lru_cache(maxsize=256)
def shape_of(sql: str, dialect: str) -> QueryShape:
    """The shape of a query in a dialect of the parser's. Never fails: see :class:`QueryShape`."""
    tree = parsed(sql, dialect)
    if tree is not None:
        ordered = tree.args.get("order") is not None
        limited = any(tree.args.get(part) is not None for part in ("limit", "offset"))
        return QueryShape(sql, ordered, limited, tree)
    outermost = _outermost_tokens(sql, dialect)
    return QueryShape(
        sql,
        TokenType.ORDER_BY in outermost,
        bool(outermost & {TokenType.LIMIT, TokenType.OFFSET, TokenType.FETCH}),
        None,
    )


def parsed(sql: str, dialect: str) -> exp.Query | None:
    """The syntax tree of a query, or None where the parser cannot read it."""
    if len(sql) > PARSED_LENGTH:
        return None
    try:
        trees = [tree for tree in sqlglot.parse(sql, read=dialect) if tree is not None]
    except (sqlglot.errors.SqlglotError, RecursionError):
        return None
    if len(trees) != 1:
        return None
    tree = trees[0]
    while isinstance(tree, exp.Subquery) and not set(_set_parts(tree)) - {"this"}:
        tree = tree.this
    return tree if isinstance(tree, exp.Query) else None


def unnamed_columns(tree: exp.Query | None, names: tuple[str, ...]) -> frozenset[int]:
    """The places of result columns whose name the engine made up: expressions without an alias.

    ``names`` are the result's. Where the places cannot be told from the text (a ``*`` beside
    expressions, or no tree), a name that could not be written without quotes counts as made up.
    """
    items = tree.selects if tree is not None else []
    stars = [at for at, item in enumerate(items) if item.is_star]
    if not items or len(stars) > 1 or (not stars and len(items) != len(names)):
        return frozenset(at for at, name in enumerate(names) if not name.isidentifier())
    if not stars:
        return frozenset(at for at, item in enumerate(items) if not _has_name(item))
    shift = len(names) - len(items)
    return frozenset(
        at if at < stars[0] else at + shift
        for at, item in enumerate(items)
        if not item.is_star and not _has_name(item)
    )


def _has_name(item: exp.Expr) -> bool:
    return isinstance(item, exp.Alias | exp.Column)


def _set_parts(tree: exp.Expr) -> list[str]:
    return [name for name, value in tree.args.items() if value]


def _outermost_tokens(sql: str, dialect: str) -> set[TokenType]:
    try:
        tokens: list[Token] = sqlglot.tokenize(sql, read=dialect)
    except (sqlglot.errors.SqlglotError, RecursionError):
        return set()
    depth = 0
    found: set[TokenType] = set()
    for token in tokens:
        if token.token_type == TokenType.L_PAREN:
            depth += 1
        elif token.token_type == TokenType.R_PAREN:
            depth -= 1
        elif depth == 0:
            found.add(token.token_type)
    return found
