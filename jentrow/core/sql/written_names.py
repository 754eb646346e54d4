"""The names that stand in a query's text, for telling what it might use."""

from __future__ import annotations

from dataclasses import dataclass

from jentrow.core.sql.tokens import name_of, tokens_of


@dataclass(frozen=True, slots=True)
class WrittenNames:
    """The names in a text, in small letters; ``takes_all`` where a ``*`` stands for columns."""

    names: frozenset[str]
    takes_all: bool


def written_names(sql: str, dialect: str) -> WrittenNames:
    """What names a text has. Never fails."""
    tokens = tokens_of(sql, dialect)
    names = frozenset(
        name.casefold() for token in tokens if (name := name_of(sql, token)) is not None
    )
    before = ["", *(token.word for token in tokens)]
    takes_all = any(
        token.word == "*" and word in ("SELECT", "DISTINCT", "ALL", ",", ".")
        for token, word in zip(tokens, before, strict=False)
    )
    return WrittenNames(names, takes_all)
