"""What one query may use before it is stopped, and what else is said of how it runs."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Final

from annotated_types import Ge, Gt, Le

STEPS_PER_SECOND: Final = 20_000_000
"""Steps of SQLite's virtual machine that count as one second, on an unhurried machine of today."""

SQL_LENGTH: Final = 200_000
"""Characters in one query."""

_NAMES: Final = ("seconds", "rows", "memory_mb", "cell_kb")


@dataclass(frozen=True, slots=True)
class Limits:
    """The bounds of one query, each within what a pack may ask for, whatever the installation allows.

    ``seconds`` is time of the engine, counted in its steps where the engine counts them, so that a
    busy machine changes no verdict; ``rows`` bounds the result; ``memory_mb`` bounds the memory,
    in MiB. A text or binary value longer than ``cell_kb`` (in KiB) is compared by its digest.
    ``patience`` is the time on a processor after which somebody who waits gives up, whatever the
    engine counts; no pack can set it. ``minds_case`` is no bound: LIKE tells capitals from small
    letters, on an engine that does so only when it is told.
    """

    seconds: Annotated[float, Gt(0), Le(600)] = 5.0
    rows: Annotated[int, Ge(1), Le(1_000_000)] = 100_000
    memory_mb: Annotated[int, Ge(8), Le(4_096)] = 256
    cell_kb: Annotated[int, Ge(1), Le(1_024)] = 64
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
