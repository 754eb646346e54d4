"""What was found out about a query on made-up rows, as it leaves the worker process."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from jentrow.core.exercises.distinguishing.blind_spots import Sight
from jentrow.core.exercises.distinguishing.made_to_measure import MadeToMeasure
from jentrow.core.exercises.distinguishing.near_misses import NearMiss
from jentrow.core.exercises.distinguishing.right_by_luck import Luck
from jentrow.core.exercises.distinguishing.smallest_example import SmallestExample
from jentrow.core.exercises.grading.outcomes import Outcome


@dataclass(frozen=True, slots=True)
class Analysis:
    """What was looked for, and found.

    ``outcome`` is the query's; ``without`` says why nothing could be looked for, where it could
    not.
    """

    outcome: Outcome
    near_misses: tuple[NearMiss, ...] = ()
    example: SmallestExample | None = None
    luck: Luck | None = None
    sight: Sight | None = None
    made: MadeToMeasure | None = None
    without: str = ""

    def to_json(self) -> dict[str, Any]:
        """The object that ``jentrow compare --json`` prints."""
        return {
            **self.outcome.to_json(),
            "near_misses": [one.to_json() for one in self.near_misses],
            "smallest_example": None if self.example is None else self.example.to_json(),
        }
