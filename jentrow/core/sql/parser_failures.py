"""What the parser's package raises at a text, or at a tree, that it can make nothing of.

Its own errors are for what its authors thought of. A text broken off elsewhere makes a step of the
parser, or of the printer, go on with nothing in its hand; the compiled ones say so with an error of
Python's. To whoever asked it is the same: there is no tree, or no text.
"""

from __future__ import annotations

import logging
from typing import Final

from sqlglot.errors import SqlglotError

# What it makes of a text is looked at, and its own words for that are nobody's.
logging.getLogger("sqlglot").setLevel(logging.CRITICAL)

PARSER_FAILURES: Final = (
    SqlglotError, AttributeError, LookupError, RecursionError, TypeError, ValueError,
)  # fmt: skip


def said_of(problem: Exception) -> str:
    """What such a failure says, on one line and without places in a text that nobody wrote."""
    if not isinstance(problem, SqlglotError):
        return "something is missing in it, or it is nested too deeply"
    return (str(problem).splitlines() or ["it is no SQL"])[0].split(". Line")[0]
