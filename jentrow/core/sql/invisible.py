"""Characters that look like a blank or like nothing, and that an engine takes for letters."""

from __future__ import annotations

import unicodedata
from dataclasses import dataclass

from jentrow.core.sql.text import Place, place_at
from jentrow.core.sql.tokens import tokens_of


@dataclass(frozen=True, slots=True)
class InvisibleCharacter:
    """One such character in a text: its index and place, and what is to be said of it."""

    index: int
    place: Place
    message: str


def invisible_character(sql: str, dialect: str) -> InvisibleCharacter | None:
    """The first character of a word that nobody sees: a no-break space, a zero-width space.

    Texts and names in quotes may hold any character and are passed over.
    """
    if sql.isascii():
        return None
    for token in tokens_of(sql, dialect):
        if token.kind not in ("word", "mark"):
            continue
        for index in range(token.start, token.end):
            if _is_invisible(sql[index]):
                return _told(sql, index)
    return None


def _is_invisible(character: str) -> bool:
    # Separators, and format characters such as joiners and byte order marks.
    return ord(character) >= 0x80 and unicodedata.category(character) in ("Zs", "Zl", "Zp", "Cf")


def _told(sql: str, index: int) -> InvisibleCharacter:
    character = sql[index]
    name = unicodedata.name(character, "an invisible character").lower()
    words = sql[:index].split()
    where = f"after {words[-1]}" if words else "at the beginning"
    space = unicodedata.category(character) != "Cf"
    return InvisibleCharacter(
        index,
        place_at(sql, index),
        f"The query holds a {name} (U+{ord(character):04X}) {where}. It "
        f"{'looks like a blank' if space else 'cannot be seen'}, and is read as a part of the word: "
        f"{'put a blank in its place' if space else 'delete it'}.",
    )
