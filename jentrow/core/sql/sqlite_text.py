"""SQLite's words, cut for the parser: what is a name, what a keyword, and what a type.

The parser takes words for keywords that SQLite knows as such in their own place only, or not at
all, and for types only those that it has heard of. All of that is settled in the tokens, before it
reads them.
"""

from __future__ import annotations

from typing import Final

from sqlglot.dialects.sqlite import SQLite
from sqlglot.tokenizer_core import Token, TokenType

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
_IN_SIZES: Final = frozenset({TokenType.NUMBER, TokenType.COMMA, TokenType.DASH, TokenType.PLUS})
_MATCHING: Final = frozenset(
    {TokenType.LIKE, TokenType.GLOB, TokenType.RLIKE, TokenType.MATCH, TokenType.SIMILAR_TO}
)
_READ_AS_OPERATORS: Final = frozenset({"ANY", "IF", "CONNECT_BY_ROOT", "PRIOR"})
"""Names that stand before an operand in other dialects; as if quoted they are names to the parser."""


class SQLiteText(SQLite):
    """The parser's dialect for SQLite, with SQLite's own keywords."""

    NUMBERS_CAN_BE_UNDERSCORE_SEPARATED = True

    class Tokenizer(SQLite.Tokenizer):
        """Words are keywords only where SQLite has them as such."""

        KEYWORDS = {  # noqa: RUF012
            keyword: kind
            for keyword, kind in SQLite.Tokenizer.KEYWORDS.items()
            if not keyword[0].isalpha() or set(keyword.split()) <= _SQLITE_KEYWORDS
        }


def read_as_sqlite(tokens: list[Token]) -> list[Token]:
    """The parser's tokens of a statement with their kinds as SQLite has them.

    The type that a CAST names is one token, whatever its words and sizes.
    """
    _tell_names_from_keywords(tokens)
    return _with_whole_types(tokens)


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
        elif kind == TokenType.VAR and token.text.upper() in _READ_AS_OPERATORS:
            token.token_type = TokenType.IDENTIFIER
        before = token


def _with_whole_types(tokens: list[Token]) -> list[Token]:
    """SQLite takes any words for a type, and up to two numbers in parentheses after them."""
    whole: list[Token] = []
    is_cast: list[bool] = []
    at = 0
    while at < len(tokens):
        token = tokens[at]
        kind = token.token_type
        if kind == TokenType.L_PAREN:
            is_cast.append(at > 0 and tokens[at - 1].text.upper() == "CAST")
        elif kind == TokenType.R_PAREN and is_cast:
            is_cast.pop()
        whole.append(token)
        at += 1
        if kind == TokenType.ALIAS and is_cast and is_cast[-1]:
            end = _end_of_type(tokens, at)
            if end > at:
                whole.append(_as_one(tokens[at:end]))
                at = end
    return whole


def _end_of_type(tokens: list[Token], begin: int) -> int:
    """The index after a type's last token; ``begin`` where no type stands."""
    end = begin
    while end < len(tokens) and tokens[end].token_type in (TokenType.VAR, TokenType.IDENTIFIER):
        end += 1
    if end > begin and end < len(tokens) and tokens[end].token_type == TokenType.L_PAREN:
        after = end + 1
        while after < len(tokens) and tokens[after].token_type in _IN_SIZES:
            after += 1
        if after < len(tokens) and tokens[after].token_type == TokenType.R_PAREN:
            end = after + 1
    return end


def _as_one(tokens: list[Token]) -> Token:
    """A type's tokens as a single name, written with one blank between its words."""
    words = [one.text for one in tokens if one.token_type in (TokenType.VAR, TokenType.IDENTIFIER)]
    sizes = "".join(one.text for one in tokens[len(words) :]).replace(",", ", ")
    first, last = tokens[0], tokens[-1]
    return Token(
        TokenType.VAR, " ".join(words) + sizes, first.line, first.col, first.start, last.end
    )
