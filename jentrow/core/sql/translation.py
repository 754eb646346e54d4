"""A text in another dialect: for moving an exercise, and for dialects that run on a stand-in."""

from __future__ import annotations

from dataclasses import dataclass

import sqlglot
from sqlglot import exp
from sqlglot.errors import ErrorLevel, UnsupportedError

from jentrow.core.sql.parser_failures import PARSER_FAILURES, said_of
from jentrow.core.sql.parsing import dialect_named, parsed_statement


@dataclass(frozen=True, slots=True)
class Translation:
    """A text in another dialect; ``notes`` say what could not be carried over.

    ``sql`` is empty where the text could not be read.
    """

    sql: str
    notes: tuple[str, ...] = ()


UNREADABLE = "The text cannot be read, and was not translated."


def translated(sql: str, read: str, write: str) -> Translation:
    """A query in another dialect; ``read`` and ``write`` are the parser's names of dialects.

    The text is written afresh: whoever has one that means the same there as it stands keeps that.
    """
    if read == write:
        return Translation(sql)
    tree = parsed_statement(sql, read)
    if not isinstance(tree, exp.Query):
        return Translation("", (UNREADABLE,))
    notes: list[str] = []
    try:
        tree.copy().sql(
            dialect_named(write), unsupported_level=ErrorLevel.RAISE, max_unsupported=20
        )
    except UnsupportedError as problem:
        notes = [one.strip() for one in str(problem).splitlines() if one.strip()]
    except PARSER_FAILURES as problem:
        return Translation("", (f"It could not be translated: {said_of(problem)}",))
    made = tree.copy().sql(dialect_named(write), pretty=True, unsupported_level=ErrorLevel.IGNORE)
    # What the one dialect writes must be something that the other can read.
    try:
        sqlglot.parse_one(made, read=dialect_named(write))
    except PARSER_FAILURES:
        return Translation("", (UNREADABLE,))
    return Translation(made + "\n", tuple(notes))
