"""The grading queue: nothing lost, nothing twice, stopped and gone on with, whatever happens."""

from __future__ import annotations

import asyncio
import contextlib
import csv
import http.client
import json
import shutil
import sqlite3
import threading
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from typer.testing import CliRunner

from jentrow.api.grading_routes import events
from jentrow.cli import app
from jentrow.core.exercises.packs.reading import opened_pack
from jentrow.core.exercises.submissions import Submission as Text
from jentrow.records.errors import RecordsBusy
from jentrow.records.exercises import course_of_session
from jentrow.records.models import Grading, GradingTask, Instructor, Submission
from jentrow.services.accounts.sessions import sign_out, who
from jentrow.services.packs.new_course import import_pack
from jentrow.services.runtime import batch_sizes, grading_queue
from jentrow.services.runtime.runtime import Runtime
from jentrow.services.scope import course_scope
from jentrow.services.submissions.additions import import_submissions
from tests.api.server import app_of, person, runtime_of
from tests.api.test_exercises import HUTS, content_of, got, idle
from tests.demo_course import COURSE, DEMO, PASSWORD
from tests.serving import Served


def hand_in(runtime: Runtime, texts: list[str], exercise: str = "01-high-huts") -> None:
    with runtime.records.writing() as session:
        course = course_of_session(session)
        assert course is not None
        learners = [f"Learner {at}" for at in range(len(texts))]
        import_submissions(
            session,
            course,
            [Text(who, exercise, sql) for who, sql in zip(learners, texts, strict=True)],
            runtime.now(),
        )


def counts(runtime: Runtime) -> tuple[int, int, int]:
    with runtime.records.writing() as session:
        return (
            session.query(Submission).count(),
            session.query(Grading).count(),
            session.query(GradingTask).count(),
        )


def test_what_is_handed_in_is_graded_once(fresh: TestClient) -> None:
    runtime = runtime_of(fresh)
    before = counts(runtime)[0]
    right = content_of(fresh)["reference"]
    hand_in(runtime, [right, "SELECT 1", right, "SELECT nope"])
    runtime.queue.wake()
    idle(fresh)
    assert counts(runtime) == (before + 4, before + 4, 0)
    lines = {one["learner"]: one["verdict"] for one in got(fresh.get(HUTS))["submissions"]}
    assert [lines[f"Learner {at}"] for at in range(4)] == [
        "correct", "incorrect", "correct", "error"
    ]  # fmt: skip


def test_grading_is_stopped_and_gone_on_with(fresh: TestClient) -> None:
    runtime = runtime_of(fresh)
    idle(fresh)
    assert got(fresh.post("/grading/pause"))["paused"] is True
    hand_in(runtime, ["SELECT 1"] * 3)
    runtime.queue.wake()
    state = got(fresh.get("/grading"))
    assert (state["waiting"], state["done"], state["total"]) == (3, 0, 3)
    assert counts(runtime)[2] == 3
    got(fresh.post("/grading/resume"))
    idle(fresh)
    assert counts(runtime)[2] == 0
    assert got(fresh.get("/grading"))["graded"] >= 3


def test_grading_is_stopped_in_the_middle_of_a_batch(fresh: TestClient) -> None:
    runtime = runtime_of(fresh)
    idle(fresh)
    paused = []

    def pause() -> None:
        # Told of the exercise whose batch is at hand: its answers are claimed, and none is judged.
        if not paused and runtime.queue.state_of(1).exercise:
            paused.append(True)
            runtime.queue.pause(1)

    runtime.queue.subscribe(pause)
    hand_in(runtime, [f"SELECT {at}" for at in range(40)])
    runtime.queue.wake()
    idle(fresh)
    assert counts(runtime)[2] == 39, "the one in hand is graded, the others are given back"
    got(fresh.post("/grading/resume"))
    idle(fresh)
    assert counts(runtime)[2] == 0


def test_answers_wait_for_a_broken_exercise_to_be_mended(fresh: TestClient) -> None:
    runtime = runtime_of(fresh)
    content = content_of(fresh)
    got(fresh.put(HUTS, json=content | {"reference": "SELECT nope FROM huts"}))
    hand_in(runtime, ["SELECT 1", content["reference"]])
    runtime.queue.wake()
    idle(fresh)
    state = got(fresh.get("/grading"))
    assert (state["waiting"], state["blocked"]) == (2, 2)
    got(fresh.put(HUTS, json=content))
    idle(fresh)
    assert counts(runtime)[2] == 0
    # Bringing a version back mends it as well.
    got(fresh.post(f"{HUTS}/versions/2/restore"))
    hand_in(runtime, ["SELECT 2"])
    runtime.queue.wake()
    idle(fresh)
    assert counts(runtime)[2] == 1
    got(fresh.post(f"{HUTS}/versions/1/restore"))
    idle(fresh)
    assert counts(runtime)[2] == 0


def test_a_fault_in_one_exercise_does_not_hold_up_the_others(
    fresh: TestClient, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    runtime = runtime_of(fresh)
    grader = runtime.graders.of

    def faulty(exercise: Any) -> Any:
        if exercise.slug == "01-high-huts":
            raise ZeroDivisionError
        return grader(exercise)

    monkeypatch.setattr(runtime.graders, "of", faulty)
    hand_in(runtime, ["SELECT 1", "SELECT 2"])
    hand_in(runtime, ["SELECT 1"], "06-meal-plans")
    runtime.queue.wake()
    idle(fresh)
    assert counts(runtime)[2] == 2
    assert got(fresh.get("/grading"))["blocked"] == 2
    assert "01-high-huts" in caplog.text
    # Kept again, the exercise is tried again.
    monkeypatch.undo()
    got(fresh.put(HUTS, json=content_of(fresh)))
    idle(fresh)
    assert counts(runtime)[2] == 0


def test_a_changed_sample_lets_blocked_answers_be_tried_again(fresh: TestClient) -> None:
    runtime = runtime_of(fresh)
    content = content_of(fresh)
    by_value = content | {
        "reference": "SELECT ABS(MIN(beds - 6) - 9223372036854775807 - 1) FROM huts"
    }
    got(fresh.put(HUTS, json=by_value))
    hand_in(runtime, ["SELECT 1"])
    runtime.queue.wake()
    idle(fresh)
    assert got(fresh.get("/grading"))["blocked"] == 1
    for name in ("open", "second-season"):
        rows = got(fresh.get(f"/samples/huts/datasets/{name}/tables/huts/rows"))["rows"]
        edits = [
            {"do": "update", "table": "huts", "row": row["number"], "values": {"beds": "99"}}
            for row in rows
        ]
        got(fresh.post(f"/samples/huts/datasets/{name}/edits", json={"edits": edits}))
    idle(fresh)
    assert counts(runtime)[2] == 0


def test_what_a_server_left_ungraded_is_graded_by_the_next(fresh: TestClient) -> None:
    runtime = runtime_of(fresh)
    idle(fresh)
    runtime.queue.pause(1)
    hand_in(runtime, ["SELECT 1"])
    with runtime.records.writing() as session:
        session.query(GradingTask).delete()  # as an older version would have left it
    runtime.queue.close()
    later = Runtime(runtime.folder)
    later.queue.resume(1)
    assert later.queue.drain() == 1
    assert counts(later)[2] == 0
    later.close()


def test_pages_are_told_of_the_progress(fresh: TestClient) -> None:
    runtime = runtime_of(fresh)
    idle(fresh)
    graded = runtime.queue.state_of(1).graded
    one = who(runtime, fresh.cookies["jentrow"])
    assert one is not None

    async def listen() -> list[dict[str, Any]]:
        found: list[dict[str, Any]] = []
        stream = (await events(course_scope(runtime, 1, one.name), one)).body_iterator
        async for event in stream:
            found.append(json.loads(event.data))  # type: ignore[union-attr,arg-type]
            if len(found) == 1:
                await asyncio.to_thread(hand_in, runtime, ["SELECT 1", "SELECT 2"])
                await asyncio.to_thread(runtime.queue.wake)
            elif found[-1]["graded"] == graded + 2 and found[-1]["waiting"] == 0:
                break
        await stream.aclose()  # type: ignore[attr-defined]
        return found

    told = asyncio.run(asyncio.wait_for(listen(), 60))
    assert told[0]["waiting"] == 0
    assert told[-1]["graded"] == graded + 2
    assert runtime.queue._listeners == set()


def test_news_ends_with_the_sign_in_that_asked_for_it(fresh: TestClient) -> None:
    runtime = runtime_of(fresh)
    idle(fresh)
    one = who(runtime, fresh.cookies["jentrow"])
    assert one is not None

    async def listen() -> int:
        told = 0
        async for _ in (await events(course_scope(runtime, 1, one.name), one)).body_iterator:
            told += 1
            await asyncio.to_thread(sign_out, runtime, one)
        return told

    # The stream goes on by itself no longer: nothing else ends it here.
    assert asyncio.run(asyncio.wait_for(listen(), 10)) == 1


def test_grading_is_paused_by_course_and_by_who_runs_the_server(fresh: TestClient) -> None:
    runtime = runtime_of(fresh)
    idle(fresh)
    with opened_pack(DEMO) as opened, runtime.records.writing() as session:
        course = import_pack(session, runtime.folder, opened)
        course.slug = "rivers"
        session.add(Instructor(course_id=course.id, person_id=1))
    other = person(app_of(fresh), "instructor", "rivers")
    got(fresh.post("/grading/pause"))
    hand_in(runtime, ["SELECT 1"])
    with runtime.records.writing() as session:
        texts = [Text("Somebody", "01-high-huts", "SELECT 2")]
        import_submissions(session, course, texts, runtime.now())
    runtime.queue.wake()
    idle(fresh)
    states = [got(browser.get("/grading")) for browser in (fresh, other)]
    assert [(one["paused"], one["waiting"]) for one in states] == [(True, 1), (False, 0)]
    runner = CliRunner()
    data = ["--data", str(runtime.folder)]
    assert runner.invoke(app, ["grading", "pause", *data]).exit_code == 0
    got(fresh.post("/grading/resume"))
    idle(fresh)
    assert (got(fresh.get("/grading"))["stopped"], counts(runtime)[2]) == (True, 1)
    said = runner.invoke(app, ["grading", "state", *data]).output
    assert "1 answer waits" in said
    assert "stopped" in said
    assert runner.invoke(app, ["grading", "resume", *data]).exit_code == 0
    runtime.queue.wake()
    idle(fresh)
    assert counts(runtime)[2] == 0


def test_what_could_not_be_kept_for_now_is_tried_again(
    fresh: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    runtime = runtime_of(fresh)
    kept = grading_queue.keep_outcomes
    refusals = [0]

    def busy(*parts: Any) -> list[int]:
        if refusals[0] < 2:
            refusals[0] += 1
            raise RecordsBusy("busy")
        return kept(*parts)

    monkeypatch.setattr(grading_queue, "keep_outcomes", busy)
    monkeypatch.setattr(grading_queue, "AGAIN_SECONDS", 0.01)
    hand_in(runtime, ["SELECT 1", "SELECT 2"])
    runtime.queue.wake()
    assert runtime.queue.wait_until_idle(60)
    assert (runtime.queue.state_of(1).waiting, refusals[0]) == (0, 2)
    assert counts(runtime) == (51, 51, 0)


def test_a_batch_that_takes_too_long_gives_back_its_rest(
    fresh: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    runtime = runtime_of(fresh)
    monkeypatch.setattr(batch_sizes, "LONGEST_SECONDS", -1.0)
    claimed: list[int] = []
    claim = grading_queue.claim_batch

    def counted(*parts: Any) -> Any:
        batch = claim(*parts)
        claimed.append(len(batch.claimed) if batch else 0)
        return batch

    monkeypatch.setattr(grading_queue, "claim_batch", counted)
    before = counts(runtime)
    with runtime.records.writing() as session:
        course = course_of_session(session)
        assert course is not None
        texts = [f"SELECT name FROM huts WHERE hut_id > {at}" for at in range(30)]
        import_submissions(
            session, course, [Text("Somebody", "01-high-huts", sql) for sql in texts], runtime.now()
        )
    runtime.queue.wake()
    assert runtime.queue.wait_until_idle(60)
    assert counts(runtime) == (before[0] + 30, before[1] + 30, 0)
    assert max(claimed) == 30
    assert sum(claimed) > 30, "what was given back is claimed again"


def started_again(data: Path) -> None:
    """Starts a server anew, and kills it when it has graded all that it can."""
    server = Served(data)
    for state in server.events():
        if state["waiting"] == state["blocked"]:
            break
    server.kill()


MANY = 120
"""Answers that take longer to grade than it takes to kill a server."""


@pytest.mark.parametrize("kills", [2])
def test_a_killed_server_loses_nothing_and_grades_nothing_twice(
    demo_folder: Path, tmp_path: Path, kills: int
) -> None:
    data = Path(shutil.copytree(demo_folder, tmp_path / "data"))
    runtime = Runtime(data)
    many = [f"SELECT {at}" for at in range(MANY)]
    hand_in(runtime, many)
    before = counts(runtime)
    assert before[2] == MANY
    runtime.close()
    waiting = MANY
    for _ in range(kills):
        server = Served(data)
        for state in server.events():
            if state["waiting"] < waiting or state["waiting"] == 0:
                waiting = state["waiting"]
                break
        server.kill()
        if waiting == 0:
            break
    started_again(data)
    with sqlite3.connect(data / "records.db") as records:
        (graded,) = records.execute("SELECT COUNT(*) FROM gradings").fetchone()
        (handed_in,) = records.execute("SELECT COUNT(*) FROM submissions").fetchone()
        (left,) = records.execute("SELECT COUNT(*) FROM grading_tasks").fetchone()
        (texts,) = records.execute("SELECT COUNT(DISTINCT sql) FROM submissions").fetchone()
    assert (graded, handed_in, left) == (before[0], before[0], 0)
    assert texts >= MANY


def test_a_server_killed_while_hand_ins_come_keeps_what_it_accepted(
    demo_folder: Path, tmp_path: Path
) -> None:
    data = Path(shutil.copytree(demo_folder, tmp_path / "data"))
    # A process of its own goes by the real clock, by which every sheet of the demo closes some day.
    with sqlite3.connect(data / "records.db") as records:
        records.execute("UPDATE sheets SET opens = NULL, closes = NULL")
    records.close()
    server = Served(data)
    accepted: list[int] = []
    enough = threading.Event()

    def hand_in_until_it_dies(login: str) -> None:
        body = {"login": login, "password": PASSWORD}
        try:
            with urllib.request.urlopen(server.asked("/sign-in", body)) as answer:
                headers = {
                    "Cookie": answer.headers["Set-Cookie"].partition(";")[0],
                    "X-Jentrow-Guard": json.loads(answer.read())["me"]["guard"],
                }
        except (OSError, http.client.HTTPException):
            return  # it was killed before this one was signed in
        place = f"/courses/{COURSE}/own/sheets/1-choosing-rows/exercises/01-high-huts/submissions"
        for at in range(20):
            sent = {"sql": f"SELECT {at} AS n", "key": f"key-number-{at}"}
            asked = server.asked(place, sent)
            asked.headers.update(headers)
            try:
                with urllib.request.urlopen(asked, timeout=20) as answer:
                    accepted.append(json.loads(answer.read())["id"])
            except (urllib.error.URLError, ConnectionError, http.client.HTTPException):
                return
            if len(accepted) >= 12:
                enough.set()

    logins = [
        one["e-mail"] for one in csv.DictReader((DEMO / "learners.csv").read_text().splitlines())
    ][:4]
    threads = [threading.Thread(target=hand_in_until_it_dies, args=(one,)) for one in logins]
    for thread in threads:
        thread.start()
    assert enough.wait(60)
    server.kill()
    for thread in threads:
        thread.join(60)
    started_again(data)
    with sqlite3.connect(data / "records.db") as records:
        kept = [id for (id,) in records.execute("SELECT id FROM submissions WHERE key IS NOT NULL")]
        graded = {id for (id,) in records.execute("SELECT submission_id FROM gradings")}
        keys = records.execute(
            "SELECT COUNT(*) FROM (SELECT learner_id, key FROM submissions WHERE key IS NOT NULL "
            "GROUP BY learner_id, key HAVING COUNT(*) > 1)"
        ).fetchone()
    assert len(set(accepted)) == len(accepted) >= 12
    assert set(accepted) <= set(kept) <= graded
    assert len(kept) <= len(accepted) + len(logins), "at most one each was on its way"
    assert keys == (0,)


def test_a_server_killed_while_answers_are_taken_in_has_all_or_none(
    demo_folder: Path, tmp_path: Path
) -> None:
    data = Path(shutil.copytree(demo_folder, tmp_path / "data"))
    rows = "".join(f"Learner {at},01-high-huts,SELECT {at}\n" for at in range(800))
    server = Served(data)
    guard = {"X-Jentrow-Guard": server.sign_in()}

    def asked(path: str, body: Any, method: str) -> urllib.request.Request:
        made = server.asked(f"/courses/{COURSE}{path}", body)
        made.headers.update(guard)
        made.method = method
        return made

    with urllib.request.urlopen(asked("/imports", {}, "POST")) as answer:
        begun = json.loads(answer.read())["id"]
    put = asked(f"/imports/{begun}/files/many.csv", {}, "PUT")
    put.data = f"learner,exercise,sql\n{rows}".encode()
    urllib.request.urlopen(put).close()

    def take() -> None:
        with contextlib.suppress(OSError, http.client.HTTPException):
            urllib.request.urlopen(asked(f"/answers/{begun}/take", {}, "POST")).close()

    taking = threading.Thread(target=take)
    taking.start()
    # Its write-ahead log grows as soon as rows are written, before they are there for good.
    log = data / "records.db-wal"
    before = log.stat().st_size if log.exists() else 0
    while taking.is_alive() and log.stat().st_size < before + 20_000:
        pass
    server.kill()
    taking.join(60)
    started_again(data)
    with sqlite3.connect(data / "records.db") as records:
        (handed_in,) = records.execute("SELECT COUNT(*) FROM submissions").fetchone()
        (graded,) = records.execute("SELECT COUNT(*) FROM gradings").fetchone()
    assert handed_in in (49, 849)
    assert graded == handed_in
