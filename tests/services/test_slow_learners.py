"""Whose queries took long of late."""

from __future__ import annotations

from jentrow.services.runtime.slow_learners import ANSWER_SECONDS, RUN_SECONDS, SlowLearners

ADA, TOMAS = 1, 2


def test_an_answer_that_took_long_is_remembered_for_a_while() -> None:
    now = [0.0]
    slow = SlowLearners(lambda: now[0])
    slow.note_answer(ADA)
    assert [slow.are_answers_slow(one) for one in (ADA, TOMAS)] == [True, False]
    assert not slow.are_runs_slow(ADA), "a Run is a try, and may be of anything"
    now[0] = ANSWER_SECONDS
    assert not slow.are_answers_slow(ADA)


def test_a_run_that_took_long_tells_of_the_next_answer_and_two_of_the_next_run() -> None:
    now = [0.0]
    slow = SlowLearners(lambda: now[0])
    slow.note_run(ADA)
    assert not slow.are_runs_slow(ADA)
    assert [slow.are_answers_slow(one) for one in (ADA, TOMAS)] == [True, False]
    now[0] = RUN_SECONDS / 2
    slow.note_run(ADA)
    assert [slow.are_runs_slow(one) for one in (ADA, TOMAS)] == [True, False]
    now[0] = 2 * RUN_SECONDS
    assert not slow.are_runs_slow(ADA)
    assert not slow.are_answers_slow(ADA)
