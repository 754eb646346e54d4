"""SQL cut into tokens as the engine itself cuts it: what is a comment, a text, a word.

A parser for many dialects reads words as keywords that an engine takes for names, and keeps no
places of comments. What the text of a verdict rests on is therefore cut by the engine's own rules:
SQLite's (https://sqlite.org/src/file/src/tokenize.c), PostgreSQL's, which DuckDB shares
(https://www.postgresql.org/docs/15/sql-syntax-lexical.html), and MariaDB's
(https://mariadb.com/kb/en/comment-syntax/, https://mariadb.com/kb/en/string-literals/). Everything
else may build on it.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from functools import cache, lru_cache
from typing import Final, Literal, NamedTuple, TypeAlias

TokenKind: TypeAlias = Literal["word", "name", "text", "number", "mark"]
"""``name`` is a quoted identifier; ``text`` a literal in quotes, also a binary one."""

# A quote that is never closed runs to the end: looking for its end again at each further one would
# take time by the square of the length.
_NUMBER: Final = r"""
    (?P<number>(?:0[xX][0-9a-fA-F_]+ | [0-9][0-9_]*(?:\.[0-9_]*)?(?:[eE][+-]?[0-9_]+)?
        | \.[0-9][0-9_]*(?:[eE][+-]?[0-9_]+)?))
"""
# Letters are told by what they are not: a class that names all beyond ASCII takes ten times as long to
# compile, and each worker process would wait for it.
_LETTER: Final = r"[^\x00-@\[-^`{-\x7f]"
_LETTER_OR_DIGIT: Final = r"[^\x00-/:-@\[-^`{-\x7f]"
_WORD: Final = rf"(?P<word>{_LETTER}[^\x00-#%-/:-@\[-^`{{-\x7f]*)"
_SQLITE: Final = rf"""
      (?P<blank>[\ \t\n\f\r]+ | \ufeff | --[^\n]* | /\*(?=.)[^*]*(?:\*(?!/)[^*]*)*(?:\*/)?)
    | (?P<text>[xX]?'[^']*(?:''[^']*)*(?:'|\Z))
    | (?P<name>"[^"]*(?:""[^"]*)*(?:"|\Z) | `[^`]*(?:``[^`]*)*(?:`|\Z) | \[[^\]]*(?:\]|\Z))
    | {_NUMBER} | {_WORD}
    | (?P<mark><=|>=|<>|!=|==|<<|>>|\|\||->>|->|.)
"""
_POSTGRESQL: Final = rf"""
      (?P<blank>[\ \t\n\f\r\v]+ | \ufeff | --[^\n\r]*)
    | (?P<nested>/\*)
    | (?P<text>[eE]'(?:[^'\\]|\\.|'')*(?:'|\Z) | (?:[xXbBnN]|[uU]&)?'[^']*(?:''[^']*)*(?:'|\Z))
    | (?P<dollar>\$(?:{_LETTER}{_LETTER_OR_DIGIT}*)?\$)
    | (?P<name>(?:[uU]&)?"[^"]*(?:""[^"]*)*(?:"|\Z))
    | {_NUMBER} | {_WORD}
    | (?P<mark><=|>=|<>|!=|==|<<|>>|\|\||->>|->|::|:=|=>|.)
"""
_MARIADB: Final = rf"""
      (?P<blank>[\ \t\n\f\r\v]+ | \ufeff | --(?=\s|\Z)[^\n]* | \#[^\n]*
        | /\*[^*]*(?:\*(?!/)[^*]*)*(?:\*/|\Z))
    | (?P<text>[xXbBnN]?'(?:[^'\\]|\\.|'')*(?:'|\Z) | "(?:[^"\\]|\\.|"")*(?:"|\Z))
    | (?P<name>`[^`]*(?:``[^`]*)*(?:`|\Z))
    | {_NUMBER} | {_WORD}
    | (?P<mark><=>|<=|>=|<>|!=|==|<<|>>|\|\||->>|->|:=|&&|.)
"""
_TSQL: Final = rf"""
      (?P<blank>[\ \t\n\f\r\v]+ | \ufeff | --[^\n]*)
    | (?P<nested>/\*)
    | (?P<text>[nN]?'[^']*(?:''[^']*)*(?:'|\Z))
    | (?P<name>"[^"]*(?:""[^"]*)*(?:"|\Z) | \[[^\]]*(?:\]|\Z))
    | {_NUMBER} | {_WORD}
    | (?P<mark><=|>=|<>|!=|.)
"""
_QUOTED: Final = "".join(
    rf"[nN]?[qQ]'{begun}[^{ended}]*(?:{ended}(?!')[^{ended}]*)*(?:{ended}'|\Z) | "
    for begun, ended in (
        (r"\[", r"\]"),
        (r"\(", r"\)"),
        (r"\{", r"\}"),
        ("<", ">"),
        ("!", "!"),
        (r"\|", r"\|"),
    )
)
"""Oracle's texts in which a quote stands for itself: q'[it's]'."""
_STANDARD: Final = rf"""
      (?P<blank>[\ \t\n\f\r\v]+ | \ufeff | --[^\n]* | /\*[^*]*(?:\*(?!/)[^*]*)*(?:\*/|\Z))
    | (?P<text>[nN]?'[^']*(?:''[^']*)*(?:'|\Z))
    | (?P<name>"[^"]*(?:""[^"]*)*(?:"|\Z))
    | {_NUMBER} | {_WORD}
    | (?P<mark><=|>=|<>|!=|\|\||:=|.)
"""
_TOKENS: Final = {
    "sqlite": _SQLITE,
    "postgres": _POSTGRESQL,
    "duckdb": _POSTGRESQL,
    "mysql": _MARIADB,
    "tsql": _TSQL,
    "oracle": _STANDARD.replace("(?P<text>", f"(?P<text>{_QUOTED}"),
    "db2": _STANDARD,
}
"""How each dialect, by the parser's name for it, is cut."""

_COMMENT_ENDS: Final = re.compile(r"/\*|\*/")


class Token(NamedTuple):
    """One token: ``sql[start:end]`` of its text, ``depth`` parentheses deep.

    A parenthesis itself counts as outside. ``word`` is its text in capitals where it is an unquoted
    word, and the mark itself where it is a mark; otherwise empty, so that no quoted name and no
    text ever reads as a keyword. (A tuple is made several times as fast as a frozen dataclass, and
    cutting texts is much of what reading them takes.)
    """

    kind: TokenKind
    start: int
    end: int
    depth: int
    word: str


@lru_cache(maxsize=512)
def tokens_of(sql: str, dialect: str) -> tuple[Token, ...]:
    """The tokens of a text, without white space and comments. Never fails."""
    return tuple(each_token(sql, dialect))


def each_token(sql: str, dialect: str, start: int = 0) -> Iterator[Token]:
    """The same one by one, from a place on: nothing is kept of a long script."""
    depth = 0
    for kind, (begun, end) in _pieces(sql, dialect, start):
        if kind == "blank":
            continue
        word = ""
        if kind == "word":
            word = sql[begun:end].upper()
        elif kind == "mark":
            word = sql[begun:end]
            depth -= word == ")"
        # As Token(…) does it, without the call that takes most of the time of making one.
        yield _made(Token, (kind, begun, end, depth, word))
        depth += word == "("


_made: Final = tuple.__new__


@cache
def _pattern(dialect: str) -> re.Pattern[str]:
    """Made when it is first used: making all of them takes as long as starting does."""
    return re.compile(_TOKENS[dialect], re.VERBOSE | re.DOTALL)


def _pieces(sql: str, dialect: str, start: int = 0) -> Iterable[tuple[str, tuple[int, int]]]:
    """The kind of each piece of a text, where it begins and where it ends."""
    pattern = _pattern(dialect)
    if "nested" in pattern.groupindex and ("/*" in sql or "$" in sql):
        return _pieces_with_ends(sql, pattern, start)
    # A piece begins where another ends.
    return ((str(piece.lastgroup), piece.span()) for piece in pattern.finditer(sql, start))


def _pieces_with_ends(
    sql: str, pattern: re.Pattern[str], at: int
) -> Iterator[tuple[str, tuple[int, int]]]:
    """The same where pieces begin of which no pattern tells the end."""
    while at < len(sql):
        found = pattern.match(sql, at)
        assert found is not None, "any character is a mark at least"
        kind, end = str(found.lastgroup), found.end()
        if kind == "nested":
            kind, end = "blank", _end_of_comment(sql, end)
        elif kind == "dollar":
            closed = sql.find(found.group(), end)
            kind, end = "text", len(sql) if closed < 0 else closed + len(found.group())
        yield kind, (at, end)
        at = end


def _end_of_comment(sql: str, at: int) -> int:
    """Where a comment ends that may hold others; the end of the text where it is never closed."""
    depth = 1
    for found in _COMMENT_ENDS.finditer(sql, at):
        depth += 1 if found.group() == "/*" else -1
        if not depth:
            return found.end()
    return len(sql)


_IN_NEED_OF_CUTTING: Final = re.compile(r"--|/\*|\#|[^\t\n\r\ -~]")
"""Without any of these a text has no comment in any dialect, and no white space but the usual."""


def without_comments(sql: str, dialect: str) -> str:
    """The text with blanks in place of comments: every place in it stays where it was."""
    if not _IN_NEED_OF_CUTTING.search(sql):
        return sql
    pieces: list[str] = []
    for kind, (start, end) in _pieces(sql, dialect):
        text = sql[start:end]
        if kind == "blank":
            text = blanked(text)
        pieces.append(text)
    return "".join(pieces)


def blanks_of(sql: str, dialect: str) -> Iterator[tuple[int, int]]:
    """Where white space and comments begin and end."""
    return (span for kind, span in _pieces(sql, dialect) if kind == "blank")


def masked(sql: str, dialect: str) -> str:
    """The text without comments, and with the letter q in place of each that stands in quotes.

    Every place in it stays where it was: what is found in it by a pattern is no part of a text.
    """
    pieces: list[str] = []
    for kind, (start, end) in _pieces(sql, dialect):
        if kind in ("text", "name"):
            pieces.append("q" * (end - start))
        else:
            pieces.append(blanked(sql[start:end]) if kind == "blank" else sql[start:end])
    return "".join(pieces)


def blanked(text: str) -> str:
    """Blanks in place of a text: the ends of its lines stay."""
    return "".join(char if char in "\n\r" else " " for char in text)


def statements_in(sql: str, dialect: str) -> list[tuple[Token, ...]]:
    """The statements of a text, each as its tokens; nothing between semicolons is no statement."""
    tokens = tokens_of(sql, dialect)
    if ";" not in sql:
        return [tokens] if tokens else []
    statements: list[list[Token]] = [[]]
    for token in tokens:
        if token.word == ";":
            statements.append([])
        else:
            statements[-1].append(token)
    return [tuple(one) for one in statements if one]


def opening_of(tokens: Sequence[Token], closing: int) -> int:
    """Where the parenthesis stands that one closes; -1 where none does."""
    depth = tokens[closing].depth
    before = range(closing - 1, -1, -1)
    return next((at for at in before if tokens[at].word == "(" and tokens[at].depth == depth), -1)


def name_of(sql: str, token: Token) -> str | None:
    """The name that a word or a quoted name stands for; None for anything else."""
    text = sql[token.start : token.end]
    if token.kind == "word":
        return text
    if token.kind != "name":
        return None
    if text[0] in "uU":
        text = text[2:]
    quote = text[-1]
    return text[1:-1] if quote == "]" else text[1:-1].replace(quote * 2, quote)
