"""The lanes of the grading queue: what each of its threads takes, and how much of it at once."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from jentrow.records.tasks import ANEW, HANDED_IN, SLOW, TAKEN_IN
from jentrow.services.runtime.batch_sizes import BATCH_SECONDS, LEAST, MOST, BatchSize

HURRIED_BATCH: Final = 4
HURRIED_BATCH_SECONDS: Final = 0.25
"""Of what was handed in, at most so many are graded together, and fewer where they take longer:
whoever waits need not wait for more."""

KEEPING_SECONDS: Final = 2.0
HURRIED_KEEPING_SECONDS: Final = 0.2
"""After how long what is judged is kept, whatever is left of its batch; of what was handed in, too."""


@dataclass(frozen=True, slots=True)
class QueueLane:
    """What one thread of the queue takes: at most so many tasks of these priorities, in their order.

    The hurried lane has worker processes of its own, so that nothing holds up whoever waits.
    """

    name: str
    priorities: tuple[int, ...]
    most: int
    least: int = LEAST
    batch_seconds: float = BATCH_SECONDS
    keeping_seconds: float = KEEPING_SECONDS
    hurried: bool = False

    def size(self) -> BatchSize:
        """The size of its batches."""
        return BatchSize(most=self.most, least=self.least, seconds=self.batch_seconds)


# Two, over two processes: while one is at what turns out to take long, the other goes on.
HURRIED: Final = tuple(
    QueueLane(
        name,
        (HANDED_IN,),
        HURRIED_BATCH,
        1,
        HURRIED_BATCH_SECONDS,
        HURRIED_KEEPING_SECONDS,
        hurried=True,
    )
    for name in ("hurried", "hurried too")
)
STEADY: Final = QueueLane("steady", (SLOW, TAKEN_IN, ANEW), MOST)
ALL: Final = QueueLane("all", (HANDED_IN, SLOW, TAKEN_IN, ANEW), MOST)

RUNNING: Final = (*HURRIED, STEADY)
"""The lanes of a running server, a thread each."""
