"""The whole process of a small comparison, beside importing the engine and the parser."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path
from statistics import median

ROUNDS = 7
DEMO = Path(__file__).resolve().parents[1] / "demo"


def seconds(command: list[str]) -> float:
    start = time.perf_counter()
    # As for anybody who runs it twice: compiled modules are kept.
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
    subprocess.run(command, check=True, capture_output=True, env=environment)
    return time.perf_counter() - start


def run() -> Iterator[str]:
    exercise = DEMO / "exercises" / "01-high-huts"
    bare = [sys.executable, "-c", "import apsw, sqlglot"]
    whole = [
        str(Path(sys.executable).parent / "jentrow"), "compare", "--json",
        "--sample", str(DEMO / "samples" / "huts"),
        "--reference", str(exercise / "reference.sql"),
        "--submission", str(exercise / "trials" / "boundary-left-out.sql"),
    ]  # fmt: skip
    seconds(bare), seconds(whole)
    gaps, ratios = [], []
    for _ in range(ROUNDS):
        least, ours = seconds(bare), seconds(whole)
        gaps.append(ours - least)
        ratios.append(ours / least)
    yield (
        f"jentrow compare, whole process: {median(gaps):.2f} s more than importing apsw and sqlglot, "
        f"{median(ratios):.1f} times as long (meant: at most 0.5 s more)"
    )
