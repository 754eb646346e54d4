"""What a worker process finds out about queries of one exercise, beside judging them."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from typing import Final

from jentrow.core.engines.protocol import Judging, LookedFor, Run
from jentrow.core.engines.scratch import Scratch
from jentrow.core.exercises.distinguishing.analysis import Analysis
from jentrow.core.exercises.distinguishing.bench import Bench
from jentrow.core.exercises.distinguishing.blind_spots import sight_of
from jentrow.core.exercises.distinguishing.made_to_measure import made_to_measure
from jentrow.core.exercises.distinguishing.near_misses import near_misses
from jentrow.core.exercises.distinguishing.right_by_luck import right_by_luck
from jentrow.core.exercises.distinguishing.smallest_example import on_rows, smallest_example
from jentrow.core.exercises.distinguishing.two_edits import two_edits
from jentrow.core.exercises.grading.measure import Measure
from jentrow.core.exercises.grading.outcomes import Outcome

NOT_HERE: Final = (
    "Made-up rows cannot be tried with this schema, or the server gives its datasets no temporary tables: there are no "
    "blind spots, near misses and smallest examples."
)
TOO_LARGE: Final = "Made-up rows are not tried on this query: it is too large or nested too deeply."


class Analyst:
    """Finds out about the queries of one exercise on made-up rows."""

    def __init__(
        self, measure: Measure, open_scratch: Callable[[], Scratch | None], run: Run
    ) -> None:
        self._measure, self._open_scratch, self._run = measure, open_scratch, run

    @cached_property
    def _bench(self) -> Bench | None:
        scratch = self._open_scratch()
        return None if scratch is None else Bench(self._measure, scratch, self._run)

    def analysis(
        self, sql: str, outcome: Outcome, how: Judging, is_right: Callable[[str], bool]
    ) -> Analysis:
        """What ``how`` asks to be looked for, about a query that came to an outcome."""
        bench = self._bench
        if bench is None:
            return Analysis(outcome, without=NOT_HERE)
        try:
            return self._looked_for(bench, sql, outcome, how, is_right)
        except (RecursionError, MemoryError):
            return Analysis(outcome, without=TOO_LARGE)

    def _looked_for(
        self,
        bench: Bench,
        sql: str,
        outcome: Outcome,
        how: Judging,
        is_right: Callable[[str], bool],
    ) -> Analysis:
        wanted: LookedFor = how.look_for
        match wanted:
            case "explanation":
                return self._explained(bench, sql, outcome, is_right, how)
            case "luck":
                accepted = outcome.standing == "correct"
                return Analysis(outcome, luck=right_by_luck(bench, sql) if accepted else None)
            case "sight":
                return Analysis(outcome, sight=sight_of(bench, self._run))
            case "made_to_measure":
                return Analysis(outcome, made=made_to_measure(bench))
            case "two_edits":
                wrong = outcome.standing == "incorrect"
                return Analysis(outcome, two_edits(bench, sql, is_right) if wrong else ())
            case "example":
                return Analysis(outcome, example=smallest_example(bench, sql))
            case "on_rows":
                return Analysis(
                    outcome, example=on_rows(bench, sql, how.made, for_learner=how.for_learner)
                )
            case "" | "wording" | "reading":
                return Analysis(outcome)

    def edits_away(self, sql: str, is_right: Callable[[str], bool], *, two: bool) -> int:
        """How many single edits would make a wrong query right: 1, 2, or 0 where neither is found.

        Two are looked for only with ``two``.
        """
        bench = self._bench
        if bench is None:
            return 0
        if near_misses(bench, sql, is_right, 1):
            return 1
        return 2 if two and two_edits(bench, sql, is_right) else 0

    def _explained(
        self,
        bench: Bench,
        sql: str,
        outcome: Outcome,
        is_right: Callable[[str], bool],
        how: Judging,
    ) -> Analysis:
        if outcome.standing != "incorrect":
            return Analysis(outcome)
        example = smallest_example(bench, sql, for_learner=how.for_learner)
        return Analysis(outcome, near_misses(bench, sql, is_right), example)
