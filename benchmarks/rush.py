"""Two hundred learners who hand in within one minute, some of them queries without an end."""

from __future__ import annotations

import http.client
import json
import random
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from jentrow.core.rosters import RosterEntry
from jentrow.records.exercises import course_of_session
from jentrow.records.models import Person
from jentrow.records.people import learners_of
from jentrow.services.courses.roster import add_learners
from jentrow.services.packs.demo import load_demo
from jentrow.services.runtime.runtime import Runtime
from tests.servers import free_port

LEARNERS = 200
SECONDS = 60.0
PASSWORD = "over the high pass"
DEMO = Path(__file__).resolve().parents[1] / "demo"
COURSE = "/api/courses/alpine-data-course"
PLACES = [
    ("01-high-huts", "SELECT name, region, altitude_m FROM huts WHERE altitude_m > {n} ORDER BY 3 DESC"),
    ("03-open-bills", "SELECT guest FROM stays WHERE paid_on IS NULL AND nights > {n} % 3"),
    ("05-station-state", "SELECT name, CASE WHEN closed THEN 'x' ELSE '{n}' END FROM stations"),
    ("06-meal-plans", "SELECT meal_plan, COUNT(*), {n} FROM stays GROUP BY meal_plan"),
]  # fmt: skip
ENDLESS = "WITH RECURSIVE n(i) AS (SELECT {n} UNION ALL SELECT i + 1 FROM n) SELECT max(i) FROM n"
POLL = 0.1
LONGEST = 60.0


class Browser:
    """One learner's connection to the server."""

    def __init__(self, port: int, login: str) -> None:
        self._connection = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        self._headers = {"Content-Type": "application/json"}
        self._connection.request(
            "POST",
            "/api/sign-in",
            json.dumps({"login": login, "password": PASSWORD}),
            self._headers,
        )
        answer = self._connection.getresponse()
        self._headers["Cookie"] = (answer.getheader("Set-Cookie") or "").partition(";")[0]
        self._headers["X-Jentrow-Guard"] = json.loads(answer.read())["me"]["guard"]
        self._connection.close()  # the server would, before the learner comes back

    def ask(self, method: str, path: str, body: Any = None) -> tuple[int, Any, float]:
        start = time.perf_counter()
        sent = None if body is None else json.dumps(body)
        self._connection.close()  # the server ends a connection on which nothing came for a while
        self._connection.request(method, f"{COURSE}/own{path}", sent, self._headers)
        answer = self._connection.getresponse()
        data = answer.read()
        return answer.status, json.loads(data) if data else None, time.perf_counter() - start


def started(folder: Path, port: int) -> subprocess.Popen[str]:
    """A server that listens."""
    command = [str(Path(sys.executable).parent / "jentrow"), "serve", "--data", str(folder)]
    server = subprocess.Popen(
        [*command, "--port", str(port)], stdout=subprocess.PIPE, text=True, start_new_session=True
    )
    assert server.stdout is not None
    server.stdout.readline()
    return server


def run() -> Iterator[str]:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "data"
        logins = prepared(folder, LEARNERS)
        port = free_port()
        server = started(folder, port)
        try:
            yield from _rush(port, logins)
        finally:
            server.terminate()
            server.wait()
        with sqlite3.connect(folder / "records.db") as records:
            taken, keys, graded = records.execute(
                "SELECT COUNT(*), COUNT(DISTINCT learner_id || ' ' || key), COUNT(g.id) "
                "FROM submissions s LEFT JOIN gradings g ON g.id = s.grading_id "
                "WHERE s.key IS NOT NULL"
            ).fetchone()
        yield (
            f"of {LEARNERS} hand-ins {taken} are kept, {keys} of them different, {graded} graded "
            f"(meant: {LEARNERS} each)"
        )


def prepared(folder: Path, count: int) -> list[str]:
    """Demo data with so many learners more, who have accounts; gives their sign-in names."""
    load_demo(folder, DEMO, password=PASSWORD)
    runtime = Runtime(folder)
    with runtime.records.writing() as session:
        course = course_of_session(session)
        assert course is not None
        add_learners(
            session, course, [RosterEntry(f"rush-{at}", f"Rush {at}") for at in range(count)]
        )
        kept = session.query(Person).first()
        assert kept is not None
        for one in learners_of(session, course.id):
            if one.code.startswith("rush-"):
                person = Person(
                    login=one.code, name=one.name, password=kept.password, made_at=datetime.now(UTC)
                )
                session.add(person)
                session.flush()
                one.person_id = person.id
    runtime.close()
    return [f"rush-{at}" for at in range(count)]


def _rush(port: int, logins: list[str]) -> Iterator[str]:
    start = time.perf_counter()
    browsers = [Browser(port, login) for login in logins]
    yield f"{len(browsers)} sign-ins one after the other: {time.perf_counter() - start:.1f} s"
    chance = random.Random(7)
    waits = sorted(chance.uniform(0, SECONDS) for _ in browsers)
    verdicts: list[float] = []
    endless_verdicts: list[float] = []
    runs: list[float] = []
    pages: list[float] = []
    problems: list[Any] = []
    begun = time.perf_counter()

    def learner(at: int) -> None:
        browser = browsers[at]
        slug, text = PLACES[at % len(PLACES)]
        place = f"/sheets/1-choosing-rows/exercises/{slug}"
        endless = at % 20 == 7
        sql = (ENDLESS if endless else text).format(n=at)
        time.sleep(max(0.0, begun + waits[at] - time.perf_counter()))
        pages.append(browser.ask("GET", place)[2])
        status, said, taken = browser.ask("POST", f"{place}/runs", {"sql": sql})
        if not endless:
            runs.append(taken)
        sent = time.perf_counter()
        status, said, _ = browser.ask(
            "POST", f"{place}/submissions", {"sql": sql, "key": f"rush-key-{at}"}
        )
        if status != 201:
            problems.append(said)
            return
        while True:
            _, found, asked = browser.ask("GET", f"/submissions/{said['id']}")
            pages.append(asked)
            if found["attempt"]["verdict"] != "waiting" or time.perf_counter() > sent + LONGEST:
                break
            time.sleep(POLL)
        (endless_verdicts if endless else verdicts).append(time.perf_counter() - sent)

    threads = [threading.Thread(target=learner, args=(at,)) for at in range(len(browsers))]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert not problems, problems[:3]
    both = verdicts + endless_verdicts
    yield (
        f"{len(both)} verdicts within {SECONDS:.0f} s: half within {share(both, 50):.2f} s, 94 of 100 "
        f"within {share(both, 94):.2f} s; 95 of 100 of those on queries with an end within "
        f"{share(verdicts, 95):.2f} s (meant: 2 s); the {len(endless_verdicts)} without one, stopped "
        f"at their limit, took {min(endless_verdicts):.1f} to {max(endless_verdicts):.1f} s"
    )
    yield (
        f"{len(pages)} pages meanwhile: half within {share(pages, 50) * 1000:.0f} ms, 95 of 100 "
        f"within {share(pages, 95) * 1000:.0f} ms, the slowest {max(pages) * 1000:.0f} ms "
        "(meant: within 200 ms)"
    )
    yield f"{len(runs)} runs meanwhile: 95 of 100 within {share(runs, 95) * 1000:.0f} ms"


def share(times: list[float], percent: int) -> float:
    """The time within which so many of a hundred are done."""
    return sorted(times)[min(len(times) - 1, len(times) * percent // 100)]
