"""Making a sample of a million rows, a page in the middle of two million, a map of forty tables."""

from __future__ import annotations

import random
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import apsw

from jentrow.core.samples.coltypes import ColumnType
from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.makers import make
from jentrow.core.samples.recipes import ColumnSource, CSVSource, Recipe
from jentrow.core.samples.rows import RowReader, SortKey

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
        plain = seconds(lambda number=number: plainly(folder / f"plain-{number}.db", rows))
        ours = seconds(lambda number=number: make(recipe, folder / f"made-{number}.db"))
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
    cases = {
        "as they are": {},
        "sorted": {"sort": [SortKey("level", True), SortKey("station")]},
        "sorted and narrowed": {"sort": [SortKey("level")], "where": "station < 30"},
    }
    for words, how in cases.items():
        first = seconds(lambda how=how: reader.page("readings", offset=900_000, **how))  # type: ignore[arg-type]
        later = max(
            seconds(lambda how=how, at=at: reader.page("readings", offset=900_000 + at, **how))  # type: ignore[arg-type]
            for at in range(100, 1_100, 100)
        )
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
    document.querySelector("a[href$='/samples/forty']").click();
    look();
"""


def mapping(folder: Path) -> Iterator[str]:
    import socket
    import threading

    import uvicorn
    from selenium import webdriver
    from selenium.webdriver.chrome.service import Service
    from selenium.webdriver.common.by import By
    from selenium.webdriver.support.ui import WebDriverWait

    from jentrow.api.app import create_app
    from jentrow.core.samples.schema import ColumnSchema, ForeignKey, TableSchema
    from jentrow.services.runtime.runtime import Runtime
    from jentrow.services.samples.new_samples import make_by_hand

    runtime = Runtime(folder / "data")
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
    make_by_hand(runtime, "forty", tables)
    listener = socket.create_server(("127.0.0.1", 0))
    server = uvicorn.Server(uvicorn.Config(create_app(lambda: runtime), log_level="error"))
    thread = threading.Thread(target=server.run, args=([listener],))
    thread.start()
    options = webdriver.ChromeOptions()
    for switch in ("--headless=new", "--no-sandbox", f"--user-data-dir={folder / 'profile'}"):
        options.add_argument(switch)
    options.binary_location = "/usr/bin/chromium"
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    try:
        for _ in range(3):
            driver.get(f"http://127.0.0.1:{listener.getsockname()[1]}/samples")
            WebDriverWait(driver, 30).until(
                lambda page: page.find_elements(By.CSS_SELECTOR, "a[href$='/samples/forty']")
            )
            driver.execute_script(
                "for (const one of document.querySelectorAll('svg')) one.remove()"
            )
            taken = driver.execute_async_script(FORTY)
            yield f"the map of 40 tables, from the click on: {taken:.0f} ms (meant: at most 1,000)"
    finally:
        driver.quit()
        server.should_exit = True
        thread.join()
        listener.close()


def run() -> Iterator[str]:
    with tempfile.TemporaryDirectory() as name:
        for part in (importing, paging, mapping):
            yield from part(Path(name))
