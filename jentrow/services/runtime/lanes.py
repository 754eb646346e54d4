"""Two lanes for what a learner waits for: first a short try, then a place among what takes long.

Whoever asks for little is never behind somebody who asks for much.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Final, Literal

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Judging, QueryFailure

NO_HURRY: Final = Judging()


class TakesLong(Exception):
    """Raised where a query takes longer than its lane has room for; nothing is known of it yet."""


@dataclass(frozen=True, slots=True)
class Lane:
    """Where a query runs, and how long it may take there.

    ``seconds`` bound it below what its limits say, ``patience`` is of a processor's time; None
    leaves both to the limits.
    """

    use: Literal["runs", "long-runs"]
    seconds: float | None = None
    patience: float | None = None
    judging: Judging = NO_HURRY

    def bounds(self, limits: Limits) -> Limits:
        """The limits of a query in this lane."""
        if self.seconds is None:
            return limits
        return replace(limits, seconds=min(self.seconds, limits.seconds), patience=self.patience)

    def check(self, outcome: object) -> None:
        """Raises :class:`TakesLong` where a query came to this for want of time in this lane."""
        if (
            self.seconds is not None
            and isinstance(outcome, QueryFailure)
            and outcome.code == "limit.time"
        ):
            raise TakesLong


HURRIED: Final = Lane(
    "runs", seconds=0.25, patience=0.4, judging=Judging(seconds=0.25, judging_seconds=0.25)
)
UNHURRIED: Final = Lane("long-runs")
