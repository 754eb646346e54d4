"""A name of the sample that is a word of the engine's own, and stands without quotes."""

from __future__ import annotations

from typing import Final

from jentrow.core.engines.rejections.stop import Stop
from jentrow.core.sql.parsing import parsed_statement
from jentrow.core.sql.skeleton import Skeleton
from jentrow.core.sql.spellings.reserved_words import RESERVED

_BEFORE_VALUE: Final = frozenset(
    """
    SELECT DISTINCT WHERE AND OR NOT ON BY HAVING WHEN THEN ELSE CASE BETWEEN LIKE IN FROM JOIN , ( = < > <=
    >= <> != + - * / % ||
    """.split()  # noqa: SIM905
)
_BEHIND_VALUE: Final = frozenset(
    """
    FROM AS WHERE AND OR NOT IS IN LIKE BETWEEN GROUP ORDER HAVING LIMIT OFFSET ASC DESC THEN ELSE END WHEN
    UNION EXCEPT INTERSECT JOIN INNER LEFT CROSS ON , ) ; = < > <= >= <> != + - * / % ||
    """.split()  # noqa: SIM905
)
_BACK: Final = 3
"""How many words before it stops an engine may have read the one that it took for its own."""


def reserved_name(stop: Stop) -> str:
    """That a name is reserved; said where the engine stops at one, and could read it in quotes."""
    words, dialect = stop.skeleton, stop.one.dialect
    reserved = RESERVED.get(dialect, frozenset())
    for at in range(stop.at, max(stop.at - _BACK, -1), -1):
        word = words.word(at)
        if word not in reserved or word.lower() not in stop.one.names or not _is_value(words, at):
            continue
        mark = "`" if dialect == "mysql" else '"'
        if parsed_statement(_quoted(words, word, mark), dialect) is not None:
            written = words.written(at)
            quotes = "backticks" if mark == "`" else "double quotes"
            return f"{written} is a word of SQL: as a name it stands in {quotes}, {mark}{written}{mark}."
    return ""


def _is_value(words: Skeleton, at: int) -> bool:
    """Whether what stands around a word takes it for a value, or a table."""
    behind = words.word(at + 1)
    is_last = at + 1 >= len(words.tokens)
    return words.word(at - 1) in _BEFORE_VALUE and (is_last or behind in _BEHIND_VALUE)


def _quoted(words: Skeleton, word: str, mark: str) -> str:
    """The text with a word in quotes wherever it is a value."""
    sql = words.sql
    for at in reversed(range(len(words.tokens))):
        if words.word(at) == word and _is_value(words, at):
            token = words.tokens[at]
            sql = f"{sql[: token.start]}{mark}{words.written(at)}{mark}{sql[token.end :]}"
    return sql
