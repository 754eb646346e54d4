"""The words of T-SQL and Oracle SQL, cut for the parser where it does not know them as theirs."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise
from typing import Final

from sqlglot.dialects.tsql import TSQL
from sqlglot.tokenizer_core import Token, TokenType


class TSQLText(TSQL):
    """The parser's dialect for T-SQL, in which !< is at least, and !> is at most."""

    class Tokenizer(TSQL.Tokenizer):
        """Signs that T-SQL has beside those that the parser knows."""

        KEYWORDS = {  # noqa: RUF012
            **TSQL.Tokenizer.KEYWORDS,
            "!<": TokenType.GTE,
            "!>": TokenType.LTE,
        }


def _read_as_tsql(tokens: list[Token]) -> list[Token]:
    """W is the day of the week in DATEPART, and the week to the parser."""
    for at, token in enumerate(tokens[2:], 2):
        is_part = tokens[at - 1].token_type == TokenType.L_PAREN and token.text.upper() == "W"
        if is_part and tokens[at - 2].text.upper() == "DATEPART":
            tokens[at] = Token(
                token.token_type, "DW", token.line, token.col, token.start, token.end
            )
    return tokens


def _read_as_oracle(tokens: list[Token]) -> list[Token]:
    """UNIQUE within an aggregate is DISTINCT."""
    for before, token in pairwise(tokens):
        if before.token_type == TokenType.L_PAREN and token.token_type == TokenType.UNIQUE:
            token.token_type = TokenType.DISTINCT
    return tokens


READ_AS: Final[dict[str, Callable[[list[Token]], list[Token]]]] = {
    "tsql": _read_as_tsql,
    "oracle": _read_as_oracle,
}
"""What is done to the tokens of a statement in a dialect before the parser reads them."""
