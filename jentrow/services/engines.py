"""The one place that wires engines by name."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from jentrow.core.engines.protocol import ENGINES, Engine
from jentrow.core.engines.sqlite import SQLiteEngine
from jentrow.core.errors import EngineUnavailable


def engine_named(
    name: str, folder: Path | None = None, workers: int | None = None, niceness: int = 0
) -> Engine:
    """The engine with this name, its processes starting. Raises :class:`EngineUnavailable`."""
    if name == "sqlite":
        engine = SQLiteEngine(folder, workers, niceness)
        engine.warm()
        return engine
    raise EngineUnavailable(f"there is no engine {name!r}; known are {', '.join(ENGINES)}.")


@contextmanager
def opened_engine(name: str, workers: int | None = None) -> Iterator[Engine]:
    """An engine for the time of the context."""
    engine = engine_named(name, workers=workers)
    try:
        yield engine
    finally:
        engine.close()
