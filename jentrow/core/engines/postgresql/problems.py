"""What PostgreSQL says of a statement that it does not run."""

from __future__ import annotations

from typing import Final

import psycopg

from jentrow.core.engines.answers import Answer, failed

_MEMORY: Final = frozenset({"53200", "53400", "54000"})
_STOPPED: Final = frozenset({"57014", "55P03"})
_READ_ONLY: Final = "25006"
_NO_RIGHT: Final = "42501"


def rejected(problem: psycopg.Error) -> Answer:
    """A query that PostgreSQL rejected, or stopped, or that its login may not run."""
    code = problem.sqlstate or ""
    said = problem.diag
    words = said.message_primary or str(problem).strip()
    place = said.statement_position
    index = int(place) - 1 if place and place.isdigit() else -1
    if code in _STOPPED:
        return failed("stopped", "limit.time", words)
    if code in _MEMORY:
        return failed("stopped", "limit.memory", words)
    if code == _READ_ONLY:
        return failed("refused", "policy.statement", words, index)
    if code == _NO_RIGHT:
        found = words.rpartition(" ")[2]
        kind = "policy.function" if "for function" in words else "policy.statement"
        return failed("refused", kind, words, index, found)
    return failed("error", "", words, index, code)
