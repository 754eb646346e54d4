"""How many answers are graded together."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from jentrow.services.runtime.batch_sizes import (
    BATCH_SECONDS,
    LEAST,
    LONGEST_SECONDS,
    MOST,
    BatchSize,
)


def after(size: BatchSize, seconds_an_answer: float, batches: int = 12) -> int:
    for _ in range(batches):
        size.note(size.answers, size.answers * seconds_an_answer)
    return size.answers


@given(st.floats(1e-5, 30))
def test_a_batch_comes_to_take_about_as_long_as_it_is_meant_to(seconds_an_answer: float) -> None:
    answers = after(BatchSize(), seconds_an_answer)
    seconds = answers * seconds_an_answer
    assert answers in (LEAST, MOST) or BATCH_SECONDS / 2 <= seconds <= BATCH_SECONDS * 2


def test_quick_answers_go_many_at_a_time_and_slow_ones_few() -> None:
    assert after(BatchSize(), 0.0001) == MOST
    assert after(BatchSize(), 5) == LEAST
    assert after(BatchSize(most=6), 0.0001) == 6
    hurried = {"most": 4, "least": 1, "seconds": 0.25}
    assert after(BatchSize(**hurried), 0.02) == 4
    assert after(BatchSize(**hurried), 0.2) == 1


def test_a_batch_that_was_not_full_says_nothing_unless_it_took_long() -> None:
    size = BatchSize()
    size.note(3, 0.001)
    assert size.answers == MOST
    size.note(3, 9)
    assert size.answers < MOST


def test_the_rest_of_a_batch_is_given_back_where_it_takes_too_long() -> None:
    size = BatchSize()
    assert not size.is_too_long(200, LONGEST_SECONDS)
    assert size.is_too_long(200, LONGEST_SECONDS + 1)
    assert not size.is_too_long(LEAST, 1_000), "a small batch is never given up: it would never end"
