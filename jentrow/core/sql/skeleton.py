"""A query's text with its words alone, so that a pattern finds how something is written in it."""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Collection
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from jentrow.core.sql.tokens import Token, tokens_of

SEARCHED_LENGTH: Final = 8_000
_SIGNS: Final = {"text": "'", "name": '"', "number": "#"}


@dataclass(frozen=True, slots=True)
class Skeleton:
    """The tokens of a text, each as one word with a blank on both sides.

    Words stand in capitals, marks as they are; ``'`` is a text, ``"`` a quoted name, ``#`` a
    number: what they hold is never taken for a keyword.
    """

    sql: str
    tokens: tuple[Token, ...]
    text: str
    starts: tuple[int, ...]

    def token_index(self, at: int) -> int:
        """Which token stands at an index of ``text``."""
        return max(bisect_right(self.starts, at) - 1, 0)

    def token_holding(self, index: int | None) -> int | None:
        """Which token stands at an index of the text itself; None where none does."""
        for at, token in enumerate(self.tokens):
            if index is not None and token.start <= index < token.end:
                return at
        return None

    def written(self, index: int) -> str:
        """A token as its author wrote it; empty outside the text."""
        if not 0 <= index < len(self.tokens):
            return ""
        token = self.tokens[index]
        return self.sql[token.start : token.end]

    def word(self, index: int) -> str:
        """A token's word in capitals, or its mark; empty for all else."""
        return self.tokens[index].word if 0 <= index < len(self.tokens) else ""

    def kind(self, index: int) -> str:
        """What a token is; empty outside the text."""
        return self.tokens[index].kind if 0 <= index < len(self.tokens) else ""

    def nearest_before(self, index: int, words: Collection[str]) -> str:
        """The nearest of these words before a token, in the same parentheses; empty for none."""
        if not 0 <= index < len(self.tokens):
            return ""
        depth = self.tokens[index].depth
        for token in reversed(self.tokens[:index]):
            if token.depth < depth:
                break
            if token.depth == depth and token.word in words:
                return token.word
        return ""

    def opening(self, index: int) -> int:
        """Where the parenthesis opens that a token stands in; -1 where it stands in none."""
        if not 0 <= index < len(self.tokens):
            return -1
        depth = self.tokens[index].depth
        return next((at for at in range(index, -1, -1) if self.tokens[at].depth < depth), -1)

    def spans(self, pattern: re.Pattern[str]) -> list[tuple[int, int]]:
        """Where a pattern is found: the first token of each place, and the one after its last.

        Long texts are not searched: a pattern with an open middle takes time by the square of the
        length, and nobody who needs a hint wrote so much.
        """
        if len(self.text) > SEARCHED_LENGTH:
            return []
        return [
            (
                self.token_index(found.start() + 1),
                # The blank behind the last word belongs to the next token.
                self.token_index(found.start() + len(found.group().rstrip()) - 1) + 1,
            )
            for found in pattern.finditer(self.text)
        ]


@lru_cache(maxsize=256)
def skeleton_of(sql: str, dialect: str) -> Skeleton:
    """The skeleton of a text. Never fails."""
    tokens = tokens_of(sql, dialect)
    pieces: list[str] = []
    starts: list[int] = []
    length = 0
    for token in tokens:
        piece = " " + (token.word or _SIGNS.get(token.kind, "?"))
        starts.append(length)
        length += len(piece)
        pieces.append(piece)
    return Skeleton(sql, tokens, "".join(pieces) + " ", tuple(starts))
