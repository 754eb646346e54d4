"""What is judged of a batch is kept in a thread of its own, while the rest of it is judged."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from typing import Generic, Self, TypeVar

_Judged = TypeVar("_Judged")


class KeepingMeanwhile(Generic[_Judged]):
    """Keeps one part after the other. For one thread, which is done with it when it leaves it.

    What keeping a part raises, is raised by the next call.
    """

    def __init__(self, keep: Callable[[_Judged], None]) -> None:
        self._keep = keep
        self._thread: ThreadPoolExecutor | None = None
        self._under_way: Future[None] | None = None

    @property
    def is_free(self) -> bool:
        """Whether a part that is begun now need not wait for the one before."""
        return self._under_way is None or self._under_way.done()

    def begin(self, judged: _Judged) -> None:
        """Has a part kept, once the one before is."""
        self._wait()
        if self._thread is None:
            self._thread = ThreadPoolExecutor(1, "keeping")
        self._under_way = self._thread.submit(self._keep, judged)

    def finish(self, judged: _Judged) -> None:
        """Keeps the last part, in the caller's thread: a small batch needs no other."""
        self._wait()
        self._keep(judged)

    def _wait(self) -> None:
        under_way, self._under_way = self._under_way, None
        if under_way is not None:
            under_way.result()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, kind: type[BaseException] | None, *_: object) -> None:
        # What goes wrong elsewhere is what the caller hears of; nothing is at work afterwards.
        with suppress(*([Exception] if kind else [])):
            self._wait()
        if self._thread is not None:
            self._thread.shutdown()
