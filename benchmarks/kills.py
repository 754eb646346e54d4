"""Servers and workers that are killed at random moments under load: what was acknowledged is there."""

from __future__ import annotations

import contextlib
import http.client
import os
import random
import signal
import sqlite3
import tempfile
import threading
import time
from collections.abc import Iterator
from pathlib import Path

from benchmarks.rush import Browser, prepared, started
from jentrow.records.exercises import course_of_session, find_exercise
from jentrow.records.models import Sheet
from jentrow.services.runtime.runtime import Runtime
from tests.servers import free_port

KILLS = 50
LEARNERS = 8
PLACE = "/sheets/1-choosing-rows/exercises/01-high-huts"


def run() -> Iterator[str]:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "data"
        logins = prepared(folder, LEARNERS)
        runtime = Runtime(folder)
        with runtime.records.writing() as session:
            for sheet in session.query(Sheet):
                sheet.attempts = None
        runtime.close()
        acknowledged: dict[int, str] = {}
        chance = random.Random(11)
        for _ in range(KILLS):
            _life(folder, logins, acknowledged, chance, servers=True)
        yield _account("servers", folder, acknowledged)
        _life(folder, logins, acknowledged, chance, servers=False)
        yield _account("workers", folder, acknowledged)


def _life(
    folder: Path,
    logins: list[str],
    acknowledged: dict[int, str],
    chance: random.Random,
    *,
    servers: bool,
) -> None:
    """A server under load: killed at a random moment, or its workers, one after the other."""
    port = free_port()
    server = started(folder, port)
    ended = threading.Event()
    threads = [
        threading.Thread(target=_load, args=(port, login, acknowledged, ended)) for login in logins
    ]
    for thread in threads:
        thread.start()
    if servers:
        time.sleep(chance.uniform(0.3, 2.0))
        os.killpg(server.pid, signal.SIGKILL)
    else:
        for _ in range(KILLS):
            time.sleep(chance.uniform(0.05, 0.4))
            with contextlib.suppress(OSError, IndexError):
                workers = [one for child in _children(server.pid) for one in _children(child)]
                os.kill(chance.choice(workers), signal.SIGKILL)
    ended.set()
    for thread in threads:
        thread.join()
    if not servers:
        server.terminate()
    server.wait()


def _children(pid: int) -> list[int]:
    found = Path(f"/proc/{pid}/task").glob("*/children")
    return [int(one) for child in found for one in child.read_text().split()]


def _load(port: int, login: str, acknowledged: dict[int, str], ended: threading.Event) -> None:
    # An answer that broke off with its server acknowledges nothing.
    with contextlib.suppress(OSError, ValueError, http.client.HTTPException):
        browser = Browser(port, login)
        while not ended.is_set():
            number = time.monotonic_ns()
            sql = (
                f"SELECT name, region, altitude_m FROM huts WHERE altitude_m > {number % 3_000} "
                f"ORDER BY altitude_m DESC -- {number}"
            )
            body = {"sql": sql, "key": f"key-{number}"}
            status, said, _ = browser.ask("POST", f"{PLACE}/submissions", body)
            if status == 201:
                acknowledged[said["id"]] = sql
            else:
                ended.wait(0.1)


def _account(what: str, folder: Path, acknowledged: dict[int, str]) -> str:
    runtime = Runtime(folder)
    runtime.queue.drain()
    with runtime.records.session() as session:
        course = course_of_session(session)
        assert course is not None
        record = find_exercise(session, course.id, "01-high-huts")
        assert record is not None
    ids, texts = list(acknowledged), list(acknowledged.values())
    undisturbed = {
        ids[at]: one.verdict for at, one in runtime.graders.of(record).grade_many(texts)
    } if ids else {}  # fmt: skip
    with sqlite3.connect(folder / "records.db") as records:
        kept = dict(
            records.execute(
                "SELECT s.id, g.verdict FROM submissions s JOIN gradings g ON g.id = s.grading_id"
            )
        )
        (aside,) = records.execute("SELECT count(*) FROM grading_tasks").fetchone()
        (twice,) = records.execute(
            "SELECT count(*) FROM (SELECT sql FROM submissions WHERE key IS NOT NULL "
            "GROUP BY learner_id, sql HAVING count(*) > 1)"
        ).fetchone()
    runtime.close()
    missing = sum(id not in kept for id in ids)
    other = sum(id in kept and kept[id] != undisturbed[id] for id in ids)
    return (
        f"{KILLS} kills of {what}: of {len(ids)} acknowledged answers {missing} are not there or not "
        f"graded, {twice} there twice, {other} with another verdict than undisturbed, {aside} set aside "
        "(meant: none of each)"
    )
