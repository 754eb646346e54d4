"""What MariaDB says of a statement that it does not run."""

from __future__ import annotations

import re
from typing import Final

from jentrow.core.engines.answers import Answer, failed
from jentrow.core.engines.mariadb.connection import number_of, words_of

TIME: Final = frozenset({1205, 1317, 1969, 3024})
"""Numbers of errors that say that a statement, or its wait for a lock, took too long."""
_MEMORY: Final = frozenset({1037, 1038, 1041, 1114, 1104, 1153, 1301})
_BOUND: Final = re.compile("max.session.mem.used")
"""How the bound on a session's memory is called, as a setting or as a server's option."""
_TABLE: Final = re.compile(r"for table `(.+?)`\.`(.+?)`")
_REFUSED: Final = frozenset({1044, 1045, 1142, 1143, 1227, 1290, 1792})


def rejected(problem: Exception) -> Answer:
    """A query that MariaDB rejected, or stopped, or that its login may not run."""
    number, words = number_of(problem), words_of(problem)
    if number in TIME:
        return failed("stopped", "limit.time", words)
    if number in _MEMORY or _BOUND.search(words):
        return failed("stopped", "limit.memory", words)
    if number in _REFUSED:
        table = _TABLE.search(words)
        return failed(
            "refused", "policy.statement", words, -1, ".".join(table.groups()) if table else ""
        )
    return failed("error", "", words, -1, str(number))
