"""Enumerations in a sample: texts of a list, which engines that have the type sort as it lists them.

SQLite has no such type. A column of one is declared ``ENUM_TEXT``, and a condition of its table
lists the values: ``CHECK ("state" IN ('wild', 'calm', 'shut'))``.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Final

import sqlglot
from sqlglot import exp

from jentrow.core.sql.parser_failures import PARSER_FAILURES
from jentrow.core.sql.text import quoted_name

ENUMERATION: Final = "ENUM_TEXT"
"""What a column of an enumeration declares. SQLite takes what holds TEXT for text."""


def condition_of(column: str, literals: Iterable[str]) -> str:
    """The condition that lists an enumeration's values, which are literals of SQL."""
    return f"{quoted_name(column)} IN ({', '.join(literals)})"


def values_of(column: str, declared: str, checks: Sequence[str]) -> tuple[str, ...]:
    """The values of an enumeration in their order; none where the column is none.

    ``declared`` is what the column declares, ``checks`` are the conditions of its table.
    """
    return listed_by(column, checks) if declared.strip().upper() == ENUMERATION else ()


def listed_by(column: str, checks: Sequence[str]) -> tuple[str, ...]:
    """The only texts that a column may have; none where no condition lists them."""
    return next((found for one in checks if (found := listed_in(one, column))), ())


def listed_in(condition: str, column: str) -> tuple[str, ...]:
    """The texts that a condition lists for a column; none where it is not just such a list."""
    if "IN" not in condition.upper():
        return ()
    try:
        found = sqlglot.parse_one(condition, read="sqlite")
    except PARSER_FAILURES:
        return ()
    if not isinstance(found, exp.In) or not isinstance(found.this, exp.Column):
        return ()
    texts = [
        one.name for one in found.expressions if isinstance(one, exp.Literal) and one.is_string
    ]
    is_whole = found.this.name.lower() == column.lower() and len(texts) == len(found.expressions)
    return tuple(texts) if is_whole else ()
