"""Results of queries kept as files, for all processes of a server: what ran once need not run again.

A change of rules or of the mark scheme compares again what every answer gave; it asks no engine.
"""

from __future__ import annotations

import os
from contextlib import suppress
from hashlib import sha256
from pathlib import Path
from typing import Final

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import QueryFailure, QueryOutcome
from jentrow.core.processes.crossing import Unreadable, packed, unpacked
from jentrow.core.results import ResultSet

PLACES: Final = 16_384
"""Results that are kept: each has one place, and a later one takes it over."""

MOST_BYTES: Final = 64 << 10
"""A larger result is not kept: with all places taken they need 1 GB at most, usually a few MB."""


FORM: Final = 2
"""Of what is kept. What an earlier version kept in another form is not recalled."""


class ResultFiles:
    """What queries gave, by dataset, text and the limits that they are allowed.

    Safe to share between processes.
    """

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        folder.mkdir(parents=True, exist_ok=True)

    def recall(self, dataset: str, sql: str, limits: Limits) -> QueryOutcome | None:
        """What a query gave before; None where that is not known any more."""
        key = _key(dataset, sql, limits)
        try:
            content = self._place(key).read_bytes()
        except OSError:
            return None
        if content[: len(key)] != key:
            return None
        try:
            found = unpacked(content[len(key) :])
        except Unreadable:
            return None
        return found if isinstance(found, ResultSet | QueryFailure) else None

    def keep(self, dataset: str, sql: str, limits: Limits, outcome: QueryOutcome) -> None:
        """Keeps what a query gave, unless it is large, or was stopped: another time it may not be."""
        if isinstance(outcome, QueryFailure) and outcome.verdict == "stopped":
            return
        content = packed(outcome)
        if len(content) > MOST_BYTES:
            return
        key = _key(dataset, sql, limits)
        place = self._place(key)
        unfinished = place.with_suffix(f".{os.getpid()}")
        with suppress(OSError):  # a full disk: it runs again when it is asked for
            unfinished.write_bytes(key + content)
            unfinished.replace(place)

    def _place(self, key: bytes) -> Path:
        return self._folder / f"{int.from_bytes(key[:8], 'big') % PLACES:04x}"


def _key(dataset: str, sql: str, limits: Limits) -> bytes:
    said = f"{FORM}\0{dataset}\0{limits}\0{sql}"
    return sha256(said.encode(errors="surrogatepass")).digest()
