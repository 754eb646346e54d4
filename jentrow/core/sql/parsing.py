"""A query's syntax tree, read as the engine reads it rather than as other dialects would.

The parser is a package for some thirty dialects, and its idea of a keyword is the union of theirs.
Here it gets the text without comments, one statement, and words as keywords only where the engine
has them as such. The tree only informs: where there is none, what it would have told is unknown,
and whoever asks has to say so.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Final

import sqlglot
from sqlglot import exp
from sqlglot.tokenizer_core import Token, TokenType

from jentrow.core.sql.dialect_text import READ_AS, TSQLText
from jentrow.core.sql.parser_failures import PARSER_FAILURES
from jentrow.core.sql.sqlite_text import SQLiteText, read_as_sqlite
from jentrow.core.sql.tokens import statements_in, tokens_of, without_comments

PARSED_LENGTH: Final = 20_000
"""Longer texts, comments aside, are not parsed: it would take too long, and nobody writes them."""


class Db2Text(sqlglot.Dialect):
    """The parser's dialect for Db2: standard SQL, in which NULL is the largest value."""

    NULL_ORDERING = "nulls_are_large"

    class Tokenizer(sqlglot.Tokenizer):
        """Signs of comparison that Db2 has beside those that the parser knows."""

        KEYWORDS = {  # noqa: RUF012
            **sqlglot.Tokenizer.KEYWORDS,
            **dict.fromkeys(("^=", "¬="), TokenType.NEQ),
            **dict.fromkeys(("!<", "¬<"), TokenType.GTE),
            **dict.fromkeys(("!>", "¬>"), TokenType.LTE),
        }


_DIALECTS: Final[dict[str, type[sqlglot.Dialect]]] = {
    "sqlite": SQLiteText,
    "tsql": TSQLText,
    "db2": Db2Text,
}
_READ_AS: Final = READ_AS | {"sqlite": read_as_sqlite}


def dialect_named(name: str) -> type[sqlglot.Dialect] | str:
    """What the parser is to be given for an engine's dialect."""
    return _DIALECTS.get(name, name)


def printed_sql(node: exp.Expr, dialect: str) -> str:
    """A tree as the parser writes it afresh: to be shown, never to be run for a verdict.

    Raises one of ``PARSER_FAILURES`` for a tree that cannot be written.
    """
    return node.sql(dialect_named(dialect), comments=False)


def is_short(sql: str, dialect: str) -> bool:
    """Whether a text is short enough to be parsed."""
    return (
        len(sql) <= PARSED_LENGTH
        or sum(token.end - token.start for token in tokens_of(sql, dialect)) <= PARSED_LENGTH
    )


@lru_cache(maxsize=256)
def parser_tokens(sql: str, dialect: str) -> tuple[Token, ...]:
    """The parser's tokens of a text's only statement, at their places in the text.

    Empty where the parser cannot cut it, or where there is not exactly one statement.
    """
    statements = statements_in(sql, dialect)
    if len(statements) != 1:
        return ()
    begin, end = statements[0][0].start, statements[0][-1].end
    bare = without_comments(sql, dialect)
    alone = " " * begin + bare[begin:end]
    try:
        tokens = sqlglot.tokenize(alone, read=dialect_named(dialect))
    except PARSER_FAILURES:
        return ()
    read = _READ_AS.get(dialect)
    return tuple(read(tokens) if read is not None else tokens)


@lru_cache(maxsize=256)
def parsed(sql: str, dialect: str) -> exp.Query | None:
    """The syntax tree of a text's only statement, if it is a query; None where it cannot be read.

    Its places are those of the text. It is shared: copy it before changing anything.
    """
    return query_of(parsed_statement(sql, dialect))


@lru_cache(maxsize=256)
def parsed_statement(sql: str, dialect: str) -> exp.Expr | None:
    """The syntax tree of a text's only statement, whatever it is; None where it cannot be read."""
    if not is_short(sql, dialect):
        return None
    tokens = parser_tokens(sql, dialect)
    if not tokens:
        return None
    reader = sqlglot.Dialect.get_or_raise(dialect_named(dialect))
    try:
        trees = reader.parser().parse(list(tokens), sql)
    except PARSER_FAILURES:
        return None
    return trees[0] if len(trees) == 1 else None


def query_of(tree: exp.Expr | None) -> exp.Query | None:
    """A statement's query without the brackets around the whole of it; None where it is no query.

    Brackets that carry something of their own (an ordering, a limit) stay.
    """
    while isinstance(tree, exp.Subquery) and not _set_parts(tree) - {"this"}:
        tree = tree.this
    return tree if isinstance(tree, exp.Query) else None


def _set_parts(tree: exp.Expr) -> set[str]:
    return {name for name, value in tree.args.items() if value}
