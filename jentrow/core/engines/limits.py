"""What one query may use before it is stopped, and what else is said of how it runs."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from jentrow.core.mappings import read_numbers

STEPS_PER_SECOND: Final = 20_000_000
"""Steps of SQLite's virtual machine that count as one second, on an unhurried machine of today."""

SQL_LENGTH: Final = 200_000
"""Characters in one query."""

_NAMES: Final = ("seconds", "rows", "memory_mb", "cell_kb")
_BOUNDS: Final = {"seconds": 600, "rows": 1_000_000, "memory_mb": 4_096, "cell_kb": 1_024}
"""The largest limits that a pack may ask for, whatever the installation allows."""


@dataclass(frozen=True, slots=True)
class Limits:
    """The bounds of one query.

    ``seconds`` is time of the engine, counted in its steps where the engine counts them, so that a
    busy machine changes no verdict; ``rows`` bounds the result; ``memory_mb`` bounds the memory,
    in MiB. A text or binary value longer than ``cell_kb`` (in KiB) is compared by its digest.
    ``patience`` is the time on a processor after which somebody who waits gives up, whatever the
    engine counts; no pack can set it. ``minds_case`` is no bound: LIKE tells capitals from small
    letters, on an engine that does so only when it is told.
    """

    seconds: float = 5.0
    rows: int = 100_000
    memory_mb: int = 256
    cell_kb: int = 64
    patience: float | None = None
    minds_case: bool = False

    @property
    def cell_bytes(self) -> int:
        """Bytes (characters, of text) of a value that is still compared and shown as it is."""
        return self.cell_kb * 1024

    @property
    def steps(self) -> int:
        """Steps of the virtual machine."""
        return int(self.seconds * STEPS_PER_SECOND)

    @property
    def processor_seconds(self) -> float:
        """Time on a processor after which the process is killed: a backstop, well above."""
        return self.patience or 2 * self.seconds + 3

    @property
    def result_bytes(self) -> int:
        """Bytes of text and binary values in the result."""
        return self.memory_mb * 2**20 // 4

    @property
    def value_bytes(self) -> int:
        """Bytes of one value."""
        return min(16 * 2**20, self.memory_mb * 2**20 // 4)

    def to_mapping(self) -> dict[str, float | int]:
        """The limits that differ from the defaults, as they stand in a pack."""
        usual = Limits()
        return {
            name: getattr(self, name)
            for name in _NAMES
            if getattr(self, name) != getattr(usual, name)
        }


def read_limits(value: object, problems: list[str]) -> Limits:
    """Reads ``{seconds, rows, memory_mb}``; what is wrong is added to ``problems``."""
    usual = Limits()
    given = read_numbers("limits", value, _NAMES, problems)
    for name, bound in given.items():
        if bound <= 0:
            problems.append(f"limits.{name} is {bound:g}, but must be more than 0")
        elif name != "seconds" and bound != int(bound):
            problems.append(f"limits.{name} is {bound:g}, but must be a whole number")
    if 0 < given.get("memory_mb", usual.memory_mb) < 8:
        problems.append("limits.memory_mb must be at least 8")
    for name, most in _BOUNDS.items():
        if given.get(name, 0) > most:
            problems.append(f"limits.{name} is {given[name]:g}, but must be at most {most}")
    return Limits(
        seconds=given.get("seconds", usual.seconds),
        rows=int(given.get("rows", usual.rows)),
        memory_mb=int(given.get("memory_mb", usual.memory_mb)),
        cell_kb=int(given.get("cell_kb", usual.cell_kb)),
    )
