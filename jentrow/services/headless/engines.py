"""Which engines answer: what ``jentrow engines`` prints."""

from __future__ import annotations

import tempfile
from pathlib import Path

from jentrow.services.runtime.engines import Engines, EngineState
from jentrow.services.runtime.settings import read_settings


def engine_states() -> list[EngineState]:
    """Every engine as it is now. Raises :class:`UnusableInput` where a setting cannot be read."""
    with tempfile.TemporaryDirectory(prefix="jentrow-engines-") as folder:
        engines = Engines(Path(folder), read_settings())
        try:
            return engines.all()
        finally:
            engines.close()
