"""Two shuffled result sets of a million rows against two counters of the same rows."""

from __future__ import annotations

import gc
import multiprocessing
import random
import resource
import time
from collections import Counter
from collections.abc import Callable, Iterator
from typing import Any

from jentrow.core.comparison.compare import compare
from jentrow.core.comparison.rules import ComparisonRules
from jentrow.core.results import Column, Expectation, ResultSet

ROWS = 1_000_000
ROUNDS = 3


def made_rows(count: int) -> list[tuple[Any, ...]]:
    source = random.Random(11)
    regions = ["North", "East", "South", "West", None]
    return [
        (at, source.choice(regions), source.random() * 100, f"gauge {at % 977}", at % 13, None)
        for at in range(count)
    ]


def seconds(work: Callable[[], object]) -> float:
    gc.collect()
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def measured() -> tuple[list[float], float]:
    rows = made_rows(ROWS)
    # The other side's rows are objects of their own, as they would come from an engine.
    shuffled = [(*row,) for row in random.Random(12).sample(rows, len(rows))]
    columns = tuple(Column(name) for name in ("id", "region", "level", "gauge", "basin", "note"))
    due, given = Expectation(ResultSet(columns, rows)), ResultSet(columns, shuffled)
    ratios = []
    for _ in range(ROUNDS):
        plain = seconds(lambda: Counter(rows) == Counter(shuffled))
        ours = seconds(lambda: compare(due, given, ComparisonRules()).verdict)
        ratios.append(ours / plain)
    assert compare(due, given, ComparisonRules()).verdict == "correct"
    return ratios, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 2**20


def run() -> Iterator[str]:
    with multiprocessing.get_context("spawn").Pool(1) as pool:
        ratios, gigabytes = pool.apply(measured)
    shown = ", ".join(f"{ratio:.2f}" for ratio in sorted(ratios))
    yield f"comparing {ROWS:,} shuffled rows x 6: {shown} times two counters (meant: at most 2)"
    yield f"  the whole process, rows included: {gigabytes:.2f} GiB (meant: at most 1.4)"
    wholly = [(f"a{at}", at, at % 7, at * 0.5) for at in range(10_000)]
    other = [(f"b{at}", -at - 1, at % 5, at * 0.25 + 1) for at in range(10_000)]
    columns = tuple(Column(name) for name in "abcd")
    due, given = Expectation(ResultSet(columns, wholly)), ResultSet(columns, other)
    spent = seconds(lambda: compare(due, given, ComparisonRules()).findings)
    yield f"10,000 rows against 10,000 wholly different ones: {spent:.2f} s (meant: at most 2)"
    source = random.Random(7)
    half = [0] * 500 + [1] * 500
    alike = list(zip(*[source.sample(half, 1000) for _ in range(12)], strict=True))
    order = source.sample(range(12), 12)
    turned = [tuple(row[at] for at in order) for row in alike]
    turned_names = tuple(Column(f"x{at}") for at in range(12))
    names = tuple(Column(f"c{at}") for at in range(12))
    due, given = Expectation(ResultSet(names, alike)), ResultSet(turned_names, turned)
    spent = seconds(lambda: compare(due, given, ComparisonRules(column_order="any")).verdict)
    yield f"12 look-alike columns in another order, 1,000 rows: {spent:.2f} s (meant: at most 1)"
    turned[0] = turned[0][::-1]
    given = ResultSet(turned_names, turned)
    spent = seconds(lambda: compare(due, given, ComparisonRules(column_order="any")).findings)
    yield f"  the same with one row turned round: {spent:.2f} s (meant: at most 1)"
