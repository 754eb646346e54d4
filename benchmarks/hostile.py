"""Ten learners who send what is meant to do harm, and one who works: how long does that one wait?"""

from __future__ import annotations

import contextlib
import tempfile
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from benchmarks.rush import Browser, prepared, share, started
from jentrow.records.models import Sheet
from jentrow.services.runtime.runtime import Runtime
from tests.servers import free_port

HOSTILE = 10
ROUNDS = 40
SHEET = "/sheets/1-choosing-rows/exercises"
PLACE = f"{SHEET}/01-high-huts"
BIG = "replace(hex(zeroblob({bytes})), '0', '{sign}')"
MANY = "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < {to}) "
TEXTS = [
    "SELECT 'x' || " + BIG.format(bytes=30_000, sign=" ") + " || 'x'",
    "SELECT " + BIG.format(bytes=7_000_000, sign="a") + " FROM huts LIMIT 4",
    "SELECT " + BIG.format(bytes=3_000_000, sign=" ") + " || name FROM huts",
    "SELECT zeroblob(15000000) FROM huts LIMIT 4",
    MANY.format(to=10**12) + "SELECT max(i) FROM n",
    MANY.format(to=99_999) + "SELECT i % 7 + 0.1, i % 5 + 0.1, i % 3 + 0.1 FROM n",
    MANY.format(to=99_999) + "SELECT 'a' || i, i * 1.1, NULL FROM n",
    MANY.format(to=20_000) + "SELECT a.name, b.region, n.i FROM huts a, huts b, n",
    "SELECT a.name, b.name, c.name FROM huts a, huts b, huts c, huts d, huts e, stays f",
    "SELECT name, region, altitude_m FROM huts, stays s, stays t ORDER BY s.nights * t.nights",
    "SELECT count(*) FROM stays a, stays b, stays c WHERE a.guest LIKE '%a%b%c%d%e%' || b.guest",
    "SELECT group_concat(a.guest || b.guest) FROM stays a, stays b",
    "SELECT printf('%.*c', 10000000, 'x') FROM huts",
    "SELECT name FROM huts WHERE name GLOB '*a*b*c*d*e*f*g*h*' || " + BIG.format(bytes=40_000, sign="*"),
    "SELECT json_group_array(json_object('a', a.guest, 'b', b.guest)) FROM stays a, stays b",
    "SELECT " + " || ".join(["name"] * 900) + " FROM huts",
    "SELECT " + "(" * 400 + "1" + ")" * 400,
    "SELECT " + ", ".join(f"{at} AS c{at}" for at in range(1_500)) + " FROM huts",
    "SELECT name FROM huts WHERE " + " OR ".join(f"altitude_m = {at}" for at in range(900)),
    "SELECT * FROM (" * 40 + "SELECT name FROM huts" + ")" * 40,
    MANY.format(to=99_999) + "SELECT DISTINCT random() FROM n ORDER BY 1",
    "SELECT hex(randomblob(16000000)) FROM huts",
]  # fmt: skip


def run() -> Iterator[str]:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "data"
        logins = prepared(folder, HOSTILE + 2)
        runtime = Runtime(folder)
        with runtime.records.writing() as session:
            for sheet in session.query(Sheet):
                sheet.attempts = None
        runtime.close()
        port = free_port()
        server = started(folder, port)
        try:
            yield from _measured(port, logins, server.pid)
        finally:
            server.terminate()
            server.wait()


def _measured(port: int, logins: list[str], pid: int) -> Iterator[str]:
    # Two who work, as a page that lists forty attempts more takes longer however quiet it is.
    first, second, *hostile = logins
    quiet = _work(Browser(port, first), "quiet")
    ended = threading.Event()
    sent: list[int] = []
    largest = [0]
    threads = [
        threading.Thread(target=_harm, args=(Browser(port, login), at, ended, sent))
        for at, login in enumerate(hostile)
    ]
    threads.append(threading.Thread(target=_watch, args=(pid, ended, largest)))
    for thread in threads:
        thread.start()
    time.sleep(5)
    loud = _work(Browser(port, second), "loud")
    ended.set()
    for thread in threads:
        thread.join()
    for what, before in quiet.items():
        after = loud[what]
        ratio = share(after, 50) / share(before, 50)
        yield (
            f"{what}, while {HOSTILE} learners send {len(TEXTS)} hostile texts: {ratio:.1f} times the "
            f"quiet median ({share(before, 50) * 1e3:.0f} ms), 95 of 100 within "
            f"{share(after, 95) * 1e3:.0f} ms (meant: at most 2 times, and 1,000 ms)"
        )
    yield f"{len(sent)} hostile requests were answered meanwhile"
    yield f"the server's own memory: at most {largest[0] >> 20} MiB (meant: below 1,024)"


def _work(browser: Browser, name: str) -> dict[str, list[float]]:
    found: dict[str, list[float]] = {"a page": [], "a Run": [], "a hand-in until its verdict": []}
    for at in range(ROUNDS):
        begun = time.perf_counter()
        found["a page"].append(browser.ask("GET", PLACE)[2])
        sql = f"SELECT name, region, altitude_m FROM huts WHERE altitude_m > {1_000 + at}"
        status, _, taken = browser.ask("POST", f"{PLACE}/runs", {"sql": sql})
        assert status == 200, status
        found["a Run"].append(taken)
        sent = time.perf_counter()
        body = {"sql": f"{sql} -- {name}", "key": f"{name}-key-{at}"}
        status, said, _ = browser.ask("POST", f"{PLACE}/submissions", body)
        assert status == 201, said
        while (
            browser.ask("GET", f"/submissions/{said['id']}")[1]["attempt"]["verdict"] == "waiting"
        ):
            time.sleep(0.01)
        found["a hand-in until its verdict"].append(time.perf_counter() - sent)
        # The pace that is allowed: 20 hand-ins and 40 runs a minute.
        time.sleep(max(0.0, 3.4 - (time.perf_counter() - begun)))
    return found


def _harm(browser: Browser, at: int, ended: threading.Event, sent: list[int]) -> None:
    turn = at
    while not ended.is_set():
        turn += 1
        sql = TEXTS[turn % len(TEXTS)]
        body: dict[str, Any] = {"sql": sql}
        with contextlib.suppress(OSError):
            sent.append(browser.ask("POST", f"{PLACE}/runs", body)[0])
            body = {"sql": f"{sql} -- {turn}", "key": f"harm-{at}-{turn:08}"}
            sent.append(browser.ask("POST", f"{PLACE}/submissions", body)[0])
            if sent[-1] == 429:
                ended.wait(0.2)


def _watch(pid: int, ended: threading.Event, largest: list[int]) -> None:
    """The server's resident memory, its workers' not counted."""
    while not ended.wait(0.1):
        pages = int(Path(f"/proc/{pid}/statm").read_text().split()[1])
        largest[0] = max(largest[0], pages * 4096)
