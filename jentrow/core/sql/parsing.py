"""A query's syntax tree, read as the engine reads it rather than as other dialects would.

The parser is a package for some thirty dialects, and its idea of a keyword is the union of theirs.
Here it gets the text without comments, one statement, and words as keywords only where the engine
has them as such. The tree only informs: where there is none, what it would have told is unknown,
and whoever asks has to say so.
"""

from __future__ import annotations

import logging
from functools import lru_cache
from typing import Any, Final

import sqlglot
from sqlglot import exp
from sqlglot.dialects.sqlite import SQLite
from sqlglot.parsers.sqlite import SQLiteParser
from sqlglot.tokenizer_core import Token, TokenType

from jentrow.core.sql.tokens import statements_in, tokens_of, without_comments

logging.getLogger("sqlglot").setLevel(logging.CRITICAL)

PARSED_LENGTH: Final = 20_000
"""Longer texts, comments aside, are not parsed: it would take too long, and nobody writes them."""

_SQLITE_KEYWORDS: Final = frozenset(
    """
    ALL AND AS ASC BETWEEN BY CASE CAST COLLATE CROSS CURRENT CURRENT_DATE CURRENT_TIME
    CURRENT_TIMESTAMP DESC DISTINCT ELSE END ESCAPE EXCEPT EXCLUDE EXISTS FALSE FILTER FIRST
    FOLLOWING FROM FULL GLOB GROUP GROUPS HAVING IN INDEXED INNER INTERSECT INTO IS ISNULL JOIN LAST
    LEFT LIKE LIMIT MATCH MATERIALIZED NATURAL NO NOT NOTNULL NULL NULLS OFFSET ON OR ORDER OTHERS
    OUTER OVER PARTITION PRECEDING RANGE RECURSIVE REGEXP RIGHT ROW ROWS SELECT THEN TIES TRUE
    UNBOUNDED UNION USING VALUES WHEN WHERE WINDOW WITH
    """.split()  # noqa: SIM905
)
"""SQLite's keywords as far as they occur in queries (https://sqlite.org/lang_keywords.html)."""

_OPERAND_ENDS: Final = frozenset(
    {
        TokenType.VAR, TokenType.IDENTIFIER, TokenType.STRING, TokenType.NUMBER, TokenType.R_PAREN,
        TokenType.END, TokenType.NULL, TokenType.TRUE, TokenType.FALSE, TokenType.HEX_STRING,
        TokenType.CURRENT_DATE, TokenType.CURRENT_TIME, TokenType.CURRENT_TIMESTAMP,
    }
)  # fmt: skip
_JOINING: Final = frozenset(
    {
        TokenType.JOIN, TokenType.LEFT, TokenType.RIGHT, TokenType.FULL, TokenType.INNER,
        TokenType.OUTER, TokenType.CROSS, TokenType.NATURAL,
    }
)  # fmt: skip
_MATCHING: Final = frozenset(
    {TokenType.LIKE, TokenType.GLOB, TokenType.RLIKE, TokenType.MATCH, TokenType.SIMILAR_TO}
)


class SQLiteText(SQLite):
    """The parser's dialect for SQLite, with SQLite's own keywords and types."""

    NUMBERS_CAN_BE_UNDERSCORE_SEPARATED = True

    class Tokenizer(SQLite.Tokenizer):
        """Words are keywords only where SQLite has them as such."""

        KEYWORDS = {  # noqa: RUF012
            keyword: kind
            for keyword, kind in SQLite.Tokenizer.KEYWORDS.items()
            if not keyword[0].isalpha() or set(keyword.split()) <= _SQLITE_KEYWORDS
        }

    class Parser(SQLiteParser):
        """Types are any words; ANY, IF and the like are names."""

        NO_PAREN_FUNCTION_PARSERS = {  # noqa: RUF012
            "CASE": SQLiteParser.NO_PAREN_FUNCTION_PARSERS["CASE"]
        }

        def _parse_types(self, *args: Any, **options: Any) -> exp.Expr | None:
            """A type as SQLite has it: words, and up to two numbers in parentheses."""
            if not options.get("allow_identifiers", True):
                return None
            words = []
            while self._curr and self._curr.token_type in (TokenType.VAR, TokenType.IDENTIFIER):
                words.append(self._curr.text)
                self._advance()
            if not words:
                return None
            sizes = (
                self._parse_wrapped_csv(self._parse_number, optional=True)
                if (self._curr and self._curr.token_type == TokenType.L_PAREN)
                else []
            )
            written = " ".join(words)
            if sizes:
                written += f"({', '.join(size.sql() for size in sizes if size)})"
            return exp.DataType(this=exp.DType.USERDEFINED, kind=written)


class Db2Text(sqlglot.Dialect):
    """The parser's dialect for Db2: standard SQL, in which NULL is the largest value."""

    NULL_ORDERING = "nulls_are_large"


_DIALECTS: Final[dict[str, type[sqlglot.Dialect]]] = {"sqlite": SQLiteText, "db2": Db2Text}


def dialect_named(name: str) -> type[sqlglot.Dialect] | str:
    """What the parser is to be given for an engine's dialect."""
    return _DIALECTS.get(name, name)


def printed_sql(node: exp.Expr, dialect: str) -> str:
    """A tree as the parser writes it afresh: to be shown, never to be run for a verdict."""
    return node.sql(dialect_named(dialect), comments=False)


def is_short(sql: str, dialect: str) -> bool:
    """Whether a text is short enough to be parsed."""
    return sum(token.end - token.start for token in tokens_of(sql, dialect)) <= PARSED_LENGTH


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
    except (sqlglot.errors.SqlglotError, RecursionError):
        return ()
    if dialect == "sqlite":
        _tell_names_from_keywords(tokens)
    return tuple(tokens)


def _tell_names_from_keywords(tokens: list[Token]) -> None:
    """Makes names of the words that SQLite takes for keywords in their own place only."""
    before: Token | None = None
    for at, token in enumerate(tokens):
        after = tokens[at + 1] if at + 1 < len(tokens) else None
        kind = token.token_type
        ends = before is not None and before.token_type in _OPERAND_ENDS
        is_name = False
        if before is not None and before.token_type in (TokenType.DOT, TokenType.ALIAS):
            is_name = token.text.isidentifier() and kind not in (TokenType.STRING, TokenType.SELECT)
        elif kind in _JOINING and kind != TokenType.JOIN:
            is_name = after is None or after.token_type not in _JOINING
        elif kind in _MATCHING:
            is_name = not (ends or (before is not None and before.token_type == TokenType.NOT))
            is_name = is_name or after is None or after.token_type == TokenType.COMMA
        elif kind == TokenType.OFFSET:
            is_name = not ends
        elif kind == TokenType.WINDOW:
            following = tokens[at + 2] if at + 2 < len(tokens) else None
            is_name = following is None or following.token_type != TokenType.ALIAS
        elif kind == TokenType.WITH:
            is_name = before is not None and before.token_type not in (
                TokenType.L_PAREN, TokenType.ALIAS,
            )  # fmt: skip
        if is_name:
            token.token_type = TokenType.VAR
        before = token


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
    except (sqlglot.errors.SqlglotError, RecursionError):
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
