"""What is judged is kept in a thread of its own, in its order, and no failure is lost."""

from __future__ import annotations

import threading
from collections.abc import Callable

import pytest

from jentrow.services.runtime.keeping_meanwhile import KeepingMeanwhile


class _Full(Exception):
    """Raised where a part cannot be kept."""


def test_parts_are_kept_in_their_order_while_the_caller_goes_on() -> None:
    begun, go_on = threading.Event(), threading.Event()
    kept: list[tuple[int, bool]] = []

    def keep(part: int) -> None:
        begun.set()
        assert go_on.wait(30)
        kept.append((part, threading.current_thread() is threading.main_thread()))

    with KeepingMeanwhile(keep) as keeping:
        assert keeping.is_free
        keeping.begin(1)
        assert begun.wait(30)
        assert not keeping.is_free
        assert kept == [], "the caller does not wait"
        go_on.set()
        keeping.begin(2)
        keeping.finish(3)
    assert kept == [(1, False), (2, False), (3, True)]


def test_leaving_waits_for_what_is_under_way() -> None:
    kept: list[int] = []
    with KeepingMeanwhile(kept.append) as keeping:
        keeping.begin(1)
    assert kept == [1]


def _fails(part: int) -> None:
    raise _Full(part)


def _kept(then: Callable[[KeepingMeanwhile[int]], None]) -> None:
    with KeepingMeanwhile(_fails) as keeping:
        keeping.begin(1)
        then(keeping)


@pytest.mark.parametrize(
    "then",
    [
        lambda keeping: keeping.begin(2),
        lambda keeping: keeping.finish(2),
        lambda keeping: None,
    ],
)
def test_what_could_not_be_kept_is_told(then: Callable[[KeepingMeanwhile[int]], None]) -> None:
    with pytest.raises(_Full, match="1"):
        _kept(then)


def test_the_caller_s_own_trouble_is_what_it_hears_of() -> None:
    with pytest.raises(ZeroDivisionError):
        _kept(lambda _: 1 / 0)  # type: ignore[arg-type,return-value]
