"""What is worth a remark about a statement that changes rows."""

from __future__ import annotations

from typing import Final

from jentrow.core.sql.tokens import tokens_of

_VERBS: Final = {"UPDATE": "changed", "DELETE": "deleted"}


def remark_on(statement: str, dialect: str) -> str:
    """That an UPDATE or DELETE has no WHERE; empty for all else."""
    words = [token.word for token in tokens_of(statement, dialect) if token.depth == 0]
    verb = next((word for word in words if word in _VERBS), None)
    if verb is None or "WHERE" in words or "SELECT" in words[:1]:
        return ""
    return f"It has no WHERE: every row of the table is {_VERBS[verb]}."
