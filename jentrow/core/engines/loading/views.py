"""Views made on an engine: in their author's words where those are of its dialect, else translated."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

import sqlglot

from jentrow.core.engines.loading.loader import Loader, StatementFailed
from jentrow.core.samples.schema.view_texts import author_of, is_stand_in
from jentrow.core.sql.parser_failures import PARSER_FAILURES
from jentrow.core.sql.tokens import statements_in


def make_view(loader: Loader, ddl: str) -> None:
    """Makes a view. Raises :class:`StatementFailed`.

    One that only another engine can read is left out where it cannot be made.
    """
    problem = None
    for text in texts_for(ddl, loader.dialect):
        if not _makes_one_view(text, loader.dialect):
            problem = problem or StatementFailed("the words kept of it are not one CREATE VIEW")
            continue
        try:
            loader.run(text)
        except StatementFailed as failed:
            problem = problem or failed
        else:
            return
    if problem and not is_stand_in(ddl):
        raise problem


def _makes_one_view(text: str, dialect: str) -> bool:
    """Whether a text is what it should be: anybody may have written into the comment."""
    found = statements_in(text, dialect)
    if len(found) != 1:
        return False
    first, *others = (token.word for token in found[0][:_HEAD])
    return first == "CREATE" and "VIEW" in others


_HEAD: Final = 16
"""Tokens in which VIEW comes: behind OR REPLACE, and whose rights it has on a server."""


def texts_for(ddl: str, dialect: str) -> Iterator[str]:
    """The DDL of a view for an engine, what means the same there most surely first."""
    author = author_of(ddl)
    if author and author[0] == dialect:
        yield author[1]
        return
    if author:
        yield from _translated(author[1], author[0], dialect)
    if not is_stand_in(ddl):
        yield ddl
    if not author:
        yield from _translated(ddl, "sqlite", dialect)


def _translated(ddl: str, read: str, write: str) -> Iterator[str]:
    try:
        yield sqlglot.transpile(ddl, read=read, write=write)[0]
    except PARSER_FAILURES:
        return
