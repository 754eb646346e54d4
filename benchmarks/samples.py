"""Making a sample of a million rows, a page in the middle of two million, a map of forty tables."""

from __future__ import annotations

import random
import tempfile
import time
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from typing import Any

import apsw

from benchmarks.rush import DEMO, PASSWORD, started
from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.making.process import make
from jentrow.core.samples.recipes import ColumnSource, CSVSource, Recipe
from jentrow.core.samples.rows.pages import RowReader, SortKey
from jentrow.core.samples.schema.coltypes import ColumnType
from jentrow.core.samples.schema.tables import ColumnSchema, ForeignKey, TableSchema
from jentrow.services.packs.demo import load_demo
from jentrow.services.runtime.runtime import Runtime
from jentrow.services.samples.new_samples import make_by_hand
from jentrow.services.scope import course_scope
from tests.browser.conftest import opened
from tests.browser.steps import find, sign_in
from tests.servers import free_port

ROWS = 1_000_000
TYPES = {
    "id": "integer",
    "station": "integer",
    "taken_at": "timestamp",
    "level": "decimal",
    "quality": "text",
    "lag": "integer",
}
SCHEMA = """CREATE TABLE readings (id INTEGER PRIMARY KEY, station INTEGER NOT NULL,
    taken_at TIMESTAMP NOT NULL, level DECIMAL(6,2), quality TEXT, lag INTEGER);"""


def seconds(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def made_up(count: int) -> list[tuple[object, ...]]:
    chance = random.Random(7)
    return [
        (
            at,
            chance.randrange(40),
            f"2026-{1 + at % 12:02}-{1 + at % 28:02} {at % 24:02}:{at % 60:02}:00",
            chance.randrange(100_000) / 100,
            ("good", "suspect", "estimated")[at % 3],
            None if at % 50 == 0 else at % 7,
        )
        for at in range(1, count + 1)
    ]


def plainly(path: Path, rows: list[tuple[object, ...]]) -> None:
    db = apsw.Connection(str(path))
    db.execute(SCHEMA)
    with db:
        db.executemany("INSERT INTO readings VALUES (?, ?, ?, ?, ?, ?)", rows)
    db.close()


def importing(folder: Path) -> Iterator[str]:
    rows = made_up(ROWS)
    csv = folder / "readings.csv"
    with csv.open("w", encoding="utf-8") as out:
        out.write(",".join(TYPES) + "\n")
        for row in rows:
            out.write(",".join("" if value is None else str(value) for value in row) + "\n")
    columns = tuple(ColumnSource(name, name, ColumnType(type)) for name, type in TYPES.items())  # type: ignore[arg-type]
    recipe = Recipe("tables", SCHEMA, (CSVSource("readings", str(csv), columns),))
    make(Recipe("tables", "CREATE TABLE t (a);"), folder / "warm.db")
    for number in range(3):
        plain = seconds(partial(plainly, folder / f"plain-{number}.db", rows))
        ours = seconds(partial(make, recipe, folder / f"made-{number}.db"))
        yield (
            f"{ROWS:,} rows of CSV: {ours:.2f} s, executemany alone {plain:.2f} s: "
            f"{ours / plain:.2f} times (meant: at most 3)"
        )


def paging(folder: Path) -> Iterator[str]:
    db = apsw.Connection(str(folder / "large.db"))
    db.execute(SCHEMA)
    with db:
        db.execute(
            "WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n WHERE x < 2000000) "
            "INSERT INTO readings SELECT x, x % 40, '2026-01-01', (x * 7919 % 100003) / 100.0, "
            "'good', x % 7 FROM n"
        )
    db.close()
    dataset = Dataset.adopt(folder / "large", folder / "large.db", "made for measuring")
    reader = RowReader(dataset)
    cases: dict[str, dict[str, Any]] = {
        "as they are": {},
        "sorted": {"sort": [SortKey("level", True), SortKey("station")]},
        "sorted and narrowed": {"sort": [SortKey("level")], "where": "station < 30"},
    }
    for words, how in cases.items():
        page = partial(reader.page, "readings", **how)
        first = seconds(partial(page, offset=900_000))
        later = max(seconds(partial(page, offset=900_000 + at)) for at in range(100, 1_100, 100))
        yield (
            f"a page in the middle of 2,000,000 rows, {words}: {1000 * later:.0f} ms at most of "
            f"10, {1000 * first:.0f} ms the first time (meant: at most 300)"
        )


FORTY = """
    const start = performance.now();
    const done = arguments[0];
    const look = () => {
        const cards = document.querySelectorAll("[data-table]");
        if (cards.length === 40) requestAnimationFrame(() => done(performance.now() - start));
        else requestAnimationFrame(look);
    };
    document.querySelector("a[href$='/samples/many-tables']").click();
    look();
"""


def mapping(folder: Path) -> Iterator[str]:
    tables = [
        TableSchema(
            f"table_{at}",
            tuple(ColumnSchema(f"column_{n}", "INTEGER") for n in range(8)),
            primary_key=("column_0",),
            foreign_keys=tuple(
                ForeignKey((f"column_{n + 1}",), f"table_{(at - 1) // (n + 2)}", ("column_0",))
                for n in range(min(2, at))
            ),
        )
        for at in range(40)
    ]
    data = folder / "data"
    load_demo(data, DEMO, password=PASSWORD)
    runtime = Runtime(data)
    make_by_hand(course_scope(runtime, 1, "Somebody"), "many-tables", tables)
    runtime.close()
    port = free_port()
    server = started(data, port)
    address = f"http://127.0.0.1:{port}/courses/alpine-data-course"
    try:
        with opened(folder / "profile") as browser:
            sign_in(browser, address, "instructor")
            for _ in range(3):
                browser.get(f"{address}/samples")
                find(browser, "a[href$='/samples/many-tables']")
                taken = browser.execute_async_script(FORTY)
                yield f"the map of 40 tables, from the click on: {taken:.0f} ms (meant: at most 1,000)"
    finally:
        server.terminate()
        server.wait()


def run() -> Iterator[str]:
    with tempfile.TemporaryDirectory() as name:
        for part in (importing, paging, mapping):
            yield from part(Path(name))
