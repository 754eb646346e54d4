"""Right by luck: accepted queries that other rows would tell from the reference answer."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import islice
from typing import Final, Literal, TypeAlias

from jentrow.core.exercises.distinguishing.bench import Bench
from jentrow.core.exercises.distinguishing.smallest_example import (
    SmallestExample,
    example_of,
    smaller,
)
from jentrow.core.samples.generated.made_rows import MadeRows

Grade: TypeAlias = Literal["usual", "unusual"]
"""Whether the rows look like the open data, or show what it never does."""

SECONDS: Final = 1.0
_OF_THE_EXERCISE: Final = 100
_OF_BOTH: Final = 250


@dataclass(frozen=True)
class Luck:
    """What trying an accepted query on made-up rows came to.

    ``example`` is None where ``tried`` datasets told nothing apart; that proves nothing.
    """

    tried: int
    grade: Grade | None = None
    example: SmallestExample | None = None
    rows: MadeRows | None = None


def right_by_luck(bench: Bench, sql: str) -> Luck:
    """Tries an accepted query on datasets made of its own and the answers' words.

    Rows that look like the open data come first; what only other rows show is told apart.
    """
    draft = bench.draft(sql)
    drafts = (draft,) if draft is not None else ()
    budget = bench.budget(SECONDS)
    tried = 0
    for usual in (True, False):
        for dataset in islice(
            bench.making(drafts, usual=usual, seed=7 + usual),
            bench.count(_OF_BOTH if drafts else _OF_THE_EXERCISE),
        ):
            if budget.is_spent:
                break
            tried += 1
            bench.scratch.fill(dataset.rows)
            if bench.is_right(bench.run(sql), dataset.due):
                continue
            if bench.tells_apart(sql, dataset.rows) is not None:
                return _found(bench, sql, dataset.rows, "usual" if usual else "unusual", tried)
    return Luck(tried)


def _found(bench: Bench, sql: str, rows: MadeRows, grade: Grade, tried: int) -> Luck:
    less = smaller(bench, sql, rows, usual=grade == "usual")
    return Luck(tried, grade, example_of(bench, sql, less), less)
