"""SQL as plain text: where it begins, whether anything is in it, places in it."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Final

_BLANK: Final = re.compile(r"(?:\s|;|--[^\n]*(?:\n|$)|/\*.*?(?:\*/|$))*", re.DOTALL)
_WORD: Final = re.compile(r"[A-Za-z_]+")


@dataclass(frozen=True, slots=True)
class Place:
    """A place in a text: line and column, both counted from 1."""

    line: int
    column: int


def skip_blank(sql: str, start: int = 0) -> int:
    """The index after white space, comments and semicolons."""
    found = _BLANK.match(sql, start)
    return found.end() if found else start


def is_blank(sql: str) -> bool:
    """Whether there is nothing but white space, comments and semicolons."""
    return skip_blank(sql) == len(sql)


def first_word(sql: str) -> str:
    """The first word in upper case; empty where the text begins with something else."""
    found = _WORD.match(sql, skip_blank(sql))
    return found.group().upper() if found else ""


def index_of_byte(sql: str, offset: int) -> int:
    """The index in the text of a byte offset into its UTF-8 form."""
    return len(sql.encode("utf-8", "surrogatepass")[:offset].decode("utf-8", "ignore"))


def place_of_byte(sql: str, offset: int) -> Place:
    """The place of a byte offset into the UTF-8 form of the text."""
    return place_at(sql, index_of_byte(sql, offset))


def place_of_text(sql: str, text: str) -> Place | None:
    """The place of the first word-like occurrence of ``text``, whatever its case."""
    found = re.search(rf"(?<![\w$]){re.escape(text)}(?![\w$])", sql, re.IGNORECASE)
    if not found:
        return None
    return place_at(sql, found.start())


def place_at(sql: str, index: int) -> Place:
    """The place of the character at an index."""
    before = sql[:index]
    return Place(before.count("\n") + 1, len(before) - before.rfind("\n"))


def place_within(sql: str, start: int, place: Place) -> Place:
    """The place in a text of a place in the part of it that begins at an index."""
    begun = place_at(sql, start)
    if place.line == 1:
        return Place(begun.line, begun.column + place.column - 1)
    return Place(begun.line + place.line - 1, place.column)


def quoted_name(name: str, dialect: str = "") -> str:
    """A name as a quoted identifier, in the marks of a dialect."""
    mark = "`" if dialect == "mysql" else '"'
    return mark + name.replace(mark, mark * 2) + mark


def quoted_text(text: str) -> str:
    """A text as a literal of SQL, in a dialect without escapes."""
    return "'" + text.replace("'", "''") + "'"
