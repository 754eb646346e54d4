"""Which statements are queries: what begins with another word is refused, whatever the engine says."""

from __future__ import annotations

import re
from collections.abc import Sequence
from itertools import pairwise
from typing import Final

from jentrow.core.engines.answers import Answer, failed
from jentrow.core.sql.tokens import Token, name_of, opening_of, statements_in, tokens_of

OTHER_STATEMENTS: Final = frozenset(
    """
    ALTER ANALYZE ATTACH BACKUP BEGIN BINLOG CACHE CALL CHANGE CHECK CHECKPOINT CHECKSUM CLOSE
    CLUSTER COMMENT COMMIT COPY CREATE DEALLOCATE DECLARE DELETE DESC DESCRIBE DETACH DISCARD DO
    DROP END EXEC EXECUTE EXPLAIN EXPORT FETCH FLUSH FORCE GET GRANT HANDLER HELP IMPORT INSERT
    INSTALL KILL LISTEN LOAD LOCK MERGE MOVE NOTIFY OPEN OPTIMIZE PIVOT PRAGMA PREPARE PURGE
    REASSIGN REFRESH REINDEX RELEASE RENAME REPAIR REPLACE RESET RESIGNAL REVOKE ROLLBACK
    SAVEPOINT SECURITY SET SHOW SHUTDOWN SIGNAL START STOP SUMMARIZE TRUNCATE UNINSTALL UNLISTEN
    UNLOCK UNPIVOT UPDATE USE VACUUM XA
    """.split()  # noqa: SIM905
)
"""Words that begin a statement which is not a query, in this engine or in another."""


_FIRST_WORD: Final = re.compile(r"[ \t\r\n]*([A-Za-z]+)[ \t\r\n(]")
"""A text's first word, where it is one in any dialect: most texts need not be cut into tokens."""


def stands_in(sql: str, pieces: Sequence[str]) -> bool:
    """Whether one of these pieces, in small letters, stands anywhere in a text, in any letters.

    Cutting a text into tokens and looking at each takes much of what a short query takes.
    """
    small = sql.casefold()
    return any(piece in small for piece in pieces)


def refused_call(sql: str, dialect: str, names: re.Pattern[str]) -> Answer | None:
    """The refusal of a text that calls a function of these names, also in quotes; None for others."""
    tokens = tokens_of(sql, dialect)
    for at, (token, after) in enumerate(pairwise(tokens)):
        name = name_of(sql, token) if after.word == "(" else None
        if name and names.fullmatch(name) and not _names_columns(tokens, at):
            return failed("refused", "policy.function", "", token.start, name)
    return None


def _names_columns(tokens: Sequence[Token], at: int) -> bool:
    """Whether a name before a parenthesis is that of a query within a query, with its columns.

    Surely so: what may be a call as well, is one.
    """
    before = tokens[at - 1].word if at else ""
    if before in ("WITH", "RECURSIVE"):
        return True
    first = next((token.word for token in tokens if token.word != "("), "")
    if before == "AS":
        return first in ("SELECT", "WITH")
    if before == ")":
        opened = opening_of(tokens, at - 1)
        return opened > 0 and tokens[opened - 1].word in ("FROM", "JOIN", "LATERAL")
    depth = 0
    for end, token in enumerate(tokens[at + 1 :], at + 1):
        depth += (token.word == "(") - (token.word == ")")
        if depth == 0:
            words = [one.word for one in tokens[end + 1 : end + 4]]
            return before == "," and words[:2] == ["AS", "("] and words[2:] == ["SELECT"]
    return False


def refused_statement(sql: str, dialect: str) -> Answer | None:
    """Why a text is no single query, as far as its words tell; None where it may be one."""
    begun = _FIRST_WORD.match(sql)
    if begun and ";" not in sql and begun[1].upper() not in OTHER_STATEMENTS:
        return None
    statements = statements_in(sql, dialect)
    if not statements:
        return failed("error", "sql.syntax", "", detail="empty")
    word = next((token.word for token in statements[0] if token.word != "("), "")
    if word in OTHER_STATEMENTS:
        return failed("refused", "policy.statement", "", detail=word)
    if len(statements) > 1:
        return failed("refused", "policy.statement", "", detail="several")
    return None
