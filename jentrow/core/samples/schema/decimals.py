"""DECIMAL columns kept as real numbers.

SQLite has no decimal numbers: a column that is declared so keeps 25.00 as the whole number 25, and
25 / 2 is 12 (https://sqlite.org/datatype3.html#type_affinity). Declared as real numbers, with the
size that they had, they divide as they do in other engines.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from jentrow.core.sql.tokens import Token, tokens_of

_DECIMAL: Final = frozenset({"DECIMAL", "NUMERIC", "DEC"})


def decimal_columns(schema: str) -> list[str]:
    """The columns that a schema declares as decimal numbers, in its order, without their tables."""
    tokens = tokens_of(schema, "sqlite")
    names = [
        schema[tokens[at - 1].start : tokens[at - 1].end].strip('"`[]') for at in _types(tokens)
    ]
    return list(dict.fromkeys(names))


def with_real_decimals(schema: str) -> str:
    """A schema with those columns declared as real numbers; all else stays as it was written."""
    tokens = tokens_of(schema, "sqlite")
    for at in reversed(list(_types(tokens))):
        schema = f"{schema[: tokens[at].start]}REAL{schema[tokens[at].end :]}"
    return schema


def _types(tokens: tuple[Token, ...]) -> Iterator[int]:
    """Where a decimal type follows the name of a column: within CREATE TABLE's own parentheses."""
    in_table = False
    for at, token in enumerate(tokens):
        if token.depth == 0:
            if token.word == "CREATE":
                before = {one.word for one in tokens[at + 1 : at + 3]}
                in_table = "TABLE" in before
            continue
        begins = tokens[at - 1].kind in ("word", "name") and tokens[at - 2].word in ("(", ",")
        if in_table and token.depth == 1 and token.word in _DECIMAL and begins:
            yield at
