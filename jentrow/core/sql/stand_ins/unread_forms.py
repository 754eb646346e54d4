"""What a dialect has and the parser does not read: there is no tree, and so no translation."""

from __future__ import annotations

from typing import Final

from jentrow.core.sql.tokens import tokens_of


def unread_form(sql: str, dialect: str) -> str:
    """What of a dialect a text holds that the parser does not read; empty where nothing is known."""
    words = [token.word for token in tokens_of(sql, dialect)]
    for begins, *others in _UNREAD.get(dialect, ()):
        if begins in words and all(one in words[words.index(begins) :] for one in others):
            return f"{' … '.join([begins, *others])} is not kept in translation."
    return ""


_UNREAD: Final = {
    "tsql": (("PARSE", "USING"), ("TRY_PARSE", "USING")),
    "oracle": (
        ("DEFAULT", "ON", "CONVERSION", "ERROR"),
        ("MODEL", "DIMENSION", "BY", "MEASURES"),
        ("XMLTABLE",),
        ("XMLSERIALIZE",),
    ),
    "db2": (("XMLTABLE",), ("XMLSERIALIZE",), ("ORDER", "OF")),
}
"""Words in their order, each of which the others follow somewhere."""
