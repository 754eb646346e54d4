"""Which of a learner's attempts at an exercise count for its mark."""

from __future__ import annotations

from collections.abc import Sequence

from jentrow.core.exercises.sheets import Counting


def counting_attempts(marks: Sequence[float | None], counting: Counting) -> list[int]:
    """The places of the attempts that count, in an order of time; ``marks`` are as they stand.

    None is an attempt that has no mark yet: it may turn out to be the best, but is not until then.
    Of equally good attempts the first counts: nothing was won by trying on.
    """
    if not marks or counting == "all":
        return list(range(len(marks)))
    if counting == "last":
        return [len(marks) - 1]
    known = [at for at, mark in enumerate(marks) if mark is not None]
    if not known:
        return [len(marks) - 1]
    return [max(known, key=lambda at: (marks[at] or 0.0, -at))]
