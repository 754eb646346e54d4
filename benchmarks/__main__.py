"""Prints each benchmark's ratio beside the bound that is meant for it."""

from __future__ import annotations

import sys

from benchmarks import (
    comparing,
    drawing,
    engines,
    explaining,
    grading,
    hostile,
    kills,
    marking,
    queueing,
    rush,
    samples,
    starting,
)

PARTS = {
    "comparing": comparing.run,
    "drawing": drawing.run,
    "engines": engines.run,
    "explaining": explaining.run,
    "grading": grading.run,
    "hostile": hostile.run,
    "kills": kills.run,
    "marking": marking.run,
    "queueing": queueing.run,
    "rush": rush.run,
    "samples": samples.run,
    "starting": starting.run,
}

if __name__ == "__main__":
    for name in sys.argv[1:] or PARTS:
        for line in PARTS[name]():
            print(line, flush=True)
