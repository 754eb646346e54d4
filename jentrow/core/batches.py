"""Long sequences in portions."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TypeVar

T = TypeVar("T")


def batched(items: Sequence[T], most: int) -> Iterator[Sequence[T]]:
    """The items in portions of at most ``most``, in their order."""
    for start in range(0, len(items), most):
        yield items[start : start + most]
