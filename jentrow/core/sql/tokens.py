"""SQL cut into tokens as the engine itself cuts it: what is a comment, a text, a word.

A parser for many dialects reads words as keywords that this engine takes for names, and keeps no
places of comments. What the text of a verdict rests on is therefore cut by the engine's own rules,
here SQLite's (https://sqlite.org/src/file/src/tokenize.c). Everything else may build on it.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import Final, Literal, TypeAlias

TokenKind: TypeAlias = Literal["word", "name", "text", "number", "mark"]
"""``name`` is a quoted identifier; ``text`` a literal in quotes, also a binary one."""

# A quote that is never closed runs to the end: looking for its end again at each further one would
# take time by the square of the length.
_TOKEN: Final = re.compile(
    r"""
      (?P<blank>[\ \t\n\f\r]+ | \ufeff | --[^\n]* | /\*(?=.)[^*]*(?:\*(?!/)[^*]*)*(?:\*/)?)
    | (?P<text>[xX]?'[^']*(?:''[^']*)*(?:'|\Z))
    | (?P<name>"[^"]*(?:""[^"]*)*(?:"|\Z) | `[^`]*(?:``[^`]*)*(?:`|\Z) | \[[^\]]*(?:\]|\Z))
    | (?P<number>(?:0[xX][0-9a-fA-F_]+ | [0-9][0-9_]*(?:\.[0-9_]*)?(?:[eE][+-]?[0-9_]+)?
        | \.[0-9][0-9_]*(?:[eE][+-]?[0-9_]+)?))
    | (?P<word>[A-Za-z_\x80-\U0010ffff][A-Za-z0-9_$\x80-\U0010ffff]*)
    | (?P<mark><=|>=|<>|!=|==|<<|>>|\|\||->>|->|.)
    """,
    re.VERBOSE | re.DOTALL,
)


@dataclass(frozen=True, slots=True)
class Token:
    """One token: ``sql[start:end]`` of its text, ``depth`` parentheses deep.

    A parenthesis itself counts as outside. ``word`` is its text in capitals where it is an unquoted
    word, and the mark itself where it is a mark; otherwise empty, so that no quoted name and no
    text ever reads as a keyword.
    """

    kind: TokenKind
    start: int
    end: int
    depth: int
    word: str


@lru_cache(maxsize=512)
def tokens_of(sql: str) -> tuple[Token, ...]:
    """The tokens of a text, without white space and comments. Never fails."""
    return tuple(_tokens(sql))


def _tokens(sql: str) -> Iterator[Token]:
    depth = 0
    for found in _TOKEN.finditer(sql):
        kind = found.lastgroup
        if kind == "blank":
            continue
        text = found.group()
        if text == ")":
            depth -= 1
        word = text.upper() if kind == "word" else text if kind == "mark" else ""
        yield Token(kind, found.start(), found.end(), depth, word)  # type: ignore[arg-type]
        if text == "(":
            depth += 1


def without_comments(sql: str) -> str:
    """The text with blanks in place of comments: every place in it stays where it was."""
    pieces: list[str] = []
    for found in _TOKEN.finditer(sql):
        text = found.group()
        if found.lastgroup == "blank":
            text = "".join(char if char in "\n\r" else " " for char in text)
        pieces.append(text)
    return "".join(pieces)


def statements_in(sql: str) -> list[tuple[Token, ...]]:
    """The statements of a text, each as its tokens; nothing between semicolons is no statement."""
    statements: list[list[Token]] = [[]]
    for token in tokens_of(sql):
        if token.word == ";":
            statements.append([])
        else:
            statements[-1].append(token)
    return [tuple(one) for one in statements if one]


def name_of(sql: str, token: Token) -> str | None:
    """The name that a word or a quoted name stands for; None for anything else."""
    text = sql[token.start : token.end]
    if token.kind == "word":
        return text
    if token.kind != "name":
        return None
    quote = text[-1]
    return text[1:-1] if quote == "]" else text[1:-1].replace(quote * 2, quote)
