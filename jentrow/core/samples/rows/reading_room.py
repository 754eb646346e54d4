"""Looking at rows, and changing them, in processes of their own: the server's side of it."""

from __future__ import annotations

import pickle
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

from jentrow.core.errors import EngineInterrupted, InvalidSample, UnusableInput
from jentrow.core.processes.crossing import unpacked
from jentrow.core.processes.workers import WorkerLost, WorkerPool
from jentrow.core.samples.dataset import TooSlow
from jentrow.core.samples.exports import CannotExport
from jentrow.core.samples.rows.edits import RefusedEdit

SECONDS: Final = 120.0
"""Of a processor's time, for one look or change: a backstop, above what the rows' own bound is."""

_ERRORS: Final[dict[str, type[UnusableInput]]] = {
    kind.__name__: kind for kind in (UnusableInput, TooSlow, InvalidSample, CannotExport)
}


@dataclass(frozen=True, slots=True)
class TableCount:
    """How many rows a table or view has."""

    name: str
    rows: int


class ReadingRoom:
    """Worker processes that look at rows and change them. Safe to share between threads."""

    def __init__(self, workers: int = 3) -> None:
        self._pool = WorkerPool("jentrow.core.samples.rows.worker", workers)

    def look(self, what: str, place: Path, *given: Any, serial: int = 0, **how: Any) -> Any:
        """What there is to see of a dataset's folder or a file.

        The processes keep a dataset open under its ``serial``, which no other dataset ever has: a
        folder may be used again. With 0 it is opened anew.
        Raises :class:`UnusableInput`, :class:`TooSlow` or :class:`EngineInterrupted`.
        """
        return self._ask(self._pool.ask, what, place, serial, given, how)

    def change(self, what: str, place: Path, *given: Any) -> Any:
        """Changes a dataset's rows, once at most. Raises the same, and :class:`RefusedEdit`."""
        return self._ask(self._pool.ask_once, what, place, 0, given, {})

    def _ask(self, ask: Any, what: str, place: Path, serial: int, given: Any, how: Any) -> Any:
        request = pickle.dumps((what, str(place), serial, given, how))
        try:
            kind, *parts = ask(SECONDS, request)
        except WorkerLost as lost:
            if lost.overran:
                raise TooSlow("looking at the rows takes too long; narrow the condition.") from lost
            raise EngineInterrupted(
                "the process that looked at the rows was ended before it answered. Try again."
            ) from lost
        if kind == "done":
            return unpacked(parts[0])
        name, message, refusal = parts
        if refusal:
            raise RefusedEdit(unpacked(refusal))
        raise _ERRORS.get(name, UnusableInput)(message)

    def close(self) -> None:
        """Ends the processes."""
        self._pool.close()
