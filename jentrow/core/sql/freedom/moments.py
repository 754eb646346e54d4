"""Queries whose result hangs on the moment that they run at: on the clock, or on chance.

What such a query gave is no word on what it gives now, so nobody may remember it.
"""

from __future__ import annotations

import re
from typing import Final

from jentrow.core.sql.tokens import Token, tokens_of

CHANCE: Final = frozenset(
    [
        "gen_random_uuid",
        "newid",
        "nextval",
        "rand",
        "random",
        "random_normal",
        "randomblob",
        "setseed",
        "sys_guid",
        "tablesample",
        "uuid",
        "uuid_generate_v4",
        "uuid_short",
        "uuidv4",
        "uuidv7",
    ]
)
"""Functions and words that give something else each time, in any dialect."""
CLOCKS: Final = frozenset(
    [
        "age",
        "clock_timestamp",
        "curdate",
        "current_date",
        "current_time",
        "current_timestamp",
        "curtime",
        "get_current_time",
        "get_current_timestamp",
        "getdate",
        "getutcdate",
        "localtime",
        "localtimestamp",
        "now",
        "statement_timestamp",
        "sysdate",
        "sysdatetime",
        "sysdatetimeoffset",
        "systimestamp",
        "sysutcdatetime",
        "timeofday",
        "today",
        "tomorrow",
        "transaction_timestamp",
        "unix_timestamp",
        "utc_date",
        "utc_time",
        "utc_timestamp",
        "yesterday",
    ]
)
"""Functions and words that tell the time, in any dialect; some of them stand in texts, as 'now'."""
CLOCKS_BY_ABSENCE: Final = frozenset(
    {"date", "time", "datetime", "julianday", "unixepoch", "strftime", "timediff"}
)
"""Functions of SQLite that tell the time where nobody says which."""

ARGUMENTS_OF_CLOCKS: Final = {"age": 1, "unix_timestamp": 0}
"""With more arguments these tell no time."""

_MOMENTS: Final = CHANCE | CLOCKS
_MENTIONED: Final = _MOMENTS | CLOCKS_BY_ABSENCE
_WORD: Final = re.compile(r"\w+", re.ASCII)


def hangs_on_the_moment(sql: str, dialect: str) -> bool:
    """Whether what a text gives may be something else when it runs again on the same data.

    It is said too often rather than too seldom: of a column that is called ``today`` as well.
    """
    # Most texts hold none of these words, and need not be cut into tokens.
    if _MENTIONED.isdisjoint(_WORD.findall(sql.lower())):
        return False
    tokens = tokens_of(sql, dialect)
    return any(
        (word := _bare(sql, token)) in _MOMENTS
        or (word in CLOCKS_BY_ABSENCE and _tells_no_time(tokens, at))
        for at, token in enumerate(tokens)
        if token.kind in ("word", "name", "text")
    )


def _bare(sql: str, token: Token) -> str:
    written = sql[token.start : token.end]
    if token.kind == "text":  # E'now'
        written = written.lstrip("eEnNuU&")
    return written.strip("'\"`[]$ ").lower()


def _tells_no_time(tokens: tuple[Token, ...], at: int) -> bool:
    """Whether a call has no argument, or a single text: ``DATE()``, ``STRFTIME('%Y')``."""
    after = [(token.kind, token.word) for token in tokens[at + 1 : at + 4]]
    return after[:2] == [("mark", "("), ("mark", ")")] or (
        len(after) == 3
        and after[0] == ("mark", "(")
        and after[1][0] == "text"
        and after[2] == ("mark", ")")
    )
