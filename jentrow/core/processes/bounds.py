"""What every worker process does about itself: its memory bounded, its end with its parent's."""

from __future__ import annotations

import os
import resource
from pathlib import Path
from typing import Final

_BASELINE: Final = [0]


def bound_memory(memory: int, beside: int = 0) -> None:
    """Bounds the memory (in bytes) of the whole process, a good deal above an engine's own bound.

    ``beside`` are addresses that an engine asks for and mostly does not use.
    """
    if not _BASELINE[0]:
        pages = int(Path("/proc/self/statm").read_text().split()[0])
        _BASELINE[0] = pages * resource.getpagesize()
    soft = _BASELINE[0] + 2 * memory + 128 * 2**20 + beside
    resource.setrlimit(resource.RLIMIT_AS, (soft, resource.RLIM_INFINITY))


def unbound_memory() -> None:
    """Takes the bound off, for what is no query's doing."""
    resource.setrlimit(resource.RLIMIT_AS, (resource.RLIM_INFINITY, resource.RLIM_INFINITY))


def take_as_baseline() -> None:
    """What the process holds now is not counted by the bounds that are set from here on."""
    _BASELINE[0] = 0


def leave_with_parent() -> None:
    """Standard input is a pipe that the parent holds open; its end is the parent's end."""
    while os.read(0, 1):
        pass
    os._exit(0)
