"""How many answers are graded together: as many as are judged in about a second.

Few, where each takes long: what comes meanwhile, a wish to pause too, waits for a batch at most.
Many, where they are quick: claiming and keeping cost about the same for one as for a hundred.
"""

from __future__ import annotations

from typing import Final

BATCH_SECONDS: Final = 1.0
"""How long a batch is meant to take."""

LEAST: Final = 2
MOST: Final = 8_000
"""Answers in a batch; the first is as large as any."""

LONGEST_SECONDS: Final = 10.0
"""After how long the rest of a batch is given back: its answers take longer than those before."""

STEPS: Final = 4
"""How many times larger or smaller the next batch may be: the next answers may be different."""


class BatchSize:
    """The size of the next batch of one lane, by how long the last one took."""

    def __init__(
        self,
        most: int = MOST,
        least: int = LEAST,
        seconds: float = BATCH_SECONDS,
    ) -> None:
        """``seconds`` is how long a batch is meant to take."""
        self._most = most
        self._least = least
        self._seconds = seconds
        self.answers = most

    def note(self, answers: int, seconds: float) -> None:
        """Tells that a batch of so many answers took so long."""
        if answers < self.answers and seconds < self._seconds:
            return  # there were no more: that says nothing of a full batch
        meant = int(answers * self._seconds / max(seconds, 1e-3))
        bounded = min(max(meant, self.answers // STEPS), self.answers * STEPS)
        self.answers = min(max(bounded, self._least), self._most)

    def is_too_long(self, answers: int, seconds: float) -> bool:
        """Whether what is left of a batch of so many answers ought to be given back."""
        return seconds > LONGEST_SECONDS and answers > STEPS * self._least
