"""Where a worker process begins, by its name: what starts one need not load what it runs."""

from __future__ import annotations

from typing import Final

WORKER_MODULE: Final = "jentrow.core.exercises.judging_worker"
"""A name, as engines know no exercises."""
