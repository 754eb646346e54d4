"""A thousand different submissions through the worker processes, against one open connection."""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import apsw

from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.packs.reading import read_pack
from jentrow.core.samples.sources import SampleSource

COUNT = 1_000
ROUNDS = 5
DEMO = Path(__file__).resolve().parents[1] / "demo"

WORDINGS = (
    "SELECT name, COUNT(stay_id), IFNULL(SUM(nights), {n} - {n}) FROM huts LEFT JOIN stays USING (hut_id) GROUP BY hut_id, name",
    "SELECT h.name, COUNT(*), SUM(s.nights) + {n} - {n} FROM huts h JOIN stays s ON s.hut_id = h.hut_id GROUP BY h.hut_id",
    "SELECT h.name, (SELECT COUNT(*) FROM stays s WHERE s.hut_id = h.hut_id AND {n} > 0), (SELECT COALESCE(SUM(nights), 0) FROM stays s WHERE s.hut_id = h.hut_id) FROM huts h",
    "SELECT h.name, COUNT(s.stay_id) AS stays, COALESCE(SUM(s.nights), 0) AS n{n} FROM huts h LEFT JOIN stays s ON s.hut_id = h.hut_id GROUP BY h.hut_id",
    "WITH p AS (SELECT hut_id, COUNT(*) AS n, SUM(nights) AS t FROM stays GROUP BY hut_id) SELECT h.name, COALESCE(p.n, 0), COALESCE(p.t, {n} - {n}) FROM huts h LEFT JOIN p ON p.hut_id = h.hut_id",
)


def run() -> Iterator[str]:
    pack = read_pack(DEMO)
    exercise = pack.exercise("14-huts-and-nights")
    sample = pack.samples[exercise.sample]
    one_dataset = type(sample)(sample.name, sample.datasets[:1])
    queries = [WORDINGS[at % len(WORDINGS)].format(n=at + 1) for at in range(COUNT)]
    apart = [sql.replace("COUNT(", f"{at} + COUNT(", 1) for at, sql in enumerate(queries)]
    for what, texts, meant in (
        ("few different results", queries, 1.5),
        ("every result different", apart, 6),
    ):
        yield _measured(f"verdicts, {what}", texts, exercise, one_dataset, meant, explained=False)
        yield _measured(f"explained, {what}", texts, exercise, one_dataset, meant, explained=True)


def _measured(
    what: str,
    queries: list[str],
    exercise: Exercise,
    sample: SampleSource,
    meant: float,
    *,
    explained: bool,
) -> str:
    ratios = []
    for _ in range(ROUNDS):
        # New processes each time: they would remember what they ran.
        engine = SQLiteEngine()
        engine.warm()
        grader = Grader(engine, exercise, sample)
        grader = grader if explained else grader.unexplained()
        dict(grader.grade_many([f"SELECT {at}" for at in range(200)]))
        connection = apsw.Connection(
            f"file:{grader.datasets[0].location}?immutable=1&mode=ro",
            flags=apsw.SQLITE_OPEN_READONLY | apsw.SQLITE_OPEN_URI,
        )
        start = time.perf_counter()
        for sql in queries:
            connection.execute(sql).fetchall()
        plain = time.perf_counter() - start
        start = time.perf_counter()
        outcomes = dict(grader.grade_many(queries))
        ratios.append((time.perf_counter() - start) / plain)
        connection.close()
        engine.close()
    counts = Counter(outcome.verdict for outcome in outcomes.values())
    assert set(counts) <= {"correct", "incorrect"}
    shown = ", ".join(f"{ratio:.2f}" for ratio in sorted(ratios))
    return (
        f"grading {COUNT:,} different submissions, {what}: {shown} times running and fetching them in one "
        f"open connection, {plain / COUNT * 1e6:.0f} us each (meant: at most {meant:g})"
    )
